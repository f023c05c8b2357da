<script setup lang="ts">
/** What the installation does at present, for whoever looks after it: jobs, the server's thread, memory, requests. */
import type { ChartData, ChartOptions } from 'chart.js';
import { CategoryScale, Chart, Legend, LineElement, LinearScale, PointElement, Tooltip } from 'chart.js';
import { useIntervalFn } from '@vueuse/core';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { Line } from 'vue-chartjs';
import { api, sentence } from '../api';
import { bytesText } from '../shared/format';
import { useView } from '../stores/view';
import type { Metric } from '../types';
import type { Look } from './figures';
import { lookAt, ratesOf, routesOf, valueOf } from './figures';

Chart.register(CategoryScale, LinearScale, PointElement, LineElement, Legend, Tooltip);
/** Ms between looks, and how many are drawn: five minutes. By eye. */
const EVERY = 2000;
const MOST_LOOKS = 150;

const view = useView();
const metrics = shallowRef<readonly Metric[] | null>(null);
const looks = shallowRef<readonly Look[]>([]);
const problem = ref('');

async function look(): Promise<void> {
  try {
    metrics.value = await api('GET /metrics');
    looks.value = [...looks.value, lookAt(metrics.value, Date.now())].slice(-MOST_LOOKS);
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
onMounted(look);
useIntervalFn(() => void look(), EVERY);

const now = computed(() => {
  const all = metrics.value ?? [];
  const last = looks.value.at(-1);
  return [
    ['Jobs running', `${last?.running ?? 0} of ${valueOf(all, 'yarlop_worker_slots')} at once`],
    ['Jobs waiting', `${last?.waiting ?? 0}, the oldest for ${valueOf(all, 'yarlop_queue_oldest_seconds')} s`],
    ['Jobs that failed', `${valueOf(all, 'yarlop_jobs', { state: 'failed' })}`],
    ['Workers that ended under a job', `${valueOf(all, 'yarlop_workers_ended')}`],
    ['Database', valueOf(all, 'yarlop_database_up') === 1 ? 'answers' : 'does not answer'],
    ['Free disk', bytesText(valueOf(all, 'yarlop_disk_free_bytes'))],
    ['Requests that the server failed at', `${valueOf(all, 'yarlop_errors_total')}`],
  ];
});
const routes = computed(() => routesOf(metrics.value ?? []));

interface Drawn {
  readonly id: string;
  readonly title: string;
  readonly lines: readonly { readonly label: string; readonly values: readonly (number | null)[] }[];
}
const drawn = computed((): Drawn[] => {
  const of = (read: (l: Look) => number): number[] => looks.value.map(read);
  return [
    {
      id: 'jobs',
      title: 'Jobs',
      lines: [
        { label: 'running', values: of((l) => l.running) },
        { label: 'waiting', values: of((l) => l.waiting) },
      ],
    },
    { id: 'late', title: "The server's own thread comes late, ms", lines: [{ label: '', values: of((l) => l.late) }] },
    { id: 'memory', title: 'Memory of the server, MB', lines: [{ label: '', values: of((l) => l.memory / 1e6) }] },
    { id: 'requests', title: 'Requests a second', lines: [{ label: '', values: ratesOf(looks.value) }] },
  ];
});

/** Chart.js draws on a canvas, which knows nothing of the page's colours by itself. */
const colours = shallowRef({ ink: '', faint: '', first: '', second: '' });
watch(
  () => view.theme,
  () => {
    const css = getComputedStyle(document.documentElement);
    const of = (name: string): string => css.getPropertyValue(name).trim();
    colours.value = { ink: of('--text'), faint: of('--line'), first: of('--brass'), second: of('--text-dim') };
  },
  { immediate: true, flush: 'post' },
);
function dataOf({ lines }: Drawn): ChartData<'line', (number | null)[], string> {
  const { first, second } = colours.value;
  const labels = looks.value.map((l) => `${Math.round((l.at - looks.value.at(-1)!.at) / 1000)} s`);
  const datasets = lines.map(({ label, values }, i) => ({
    label,
    data: [...values],
    borderColor: i === 0 ? first : second,
    borderDash: i === 0 ? [] : [4, 3],
    borderWidth: 1.5,
    pointRadius: looks.value.length < 3 ? 2 : 0,
  }));
  return { labels, datasets };
}
function optionsOf({ lines }: Drawn): ChartOptions<'line'> {
  const { ink, faint } = colours.value;
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    scales: {
      x: { grid: { color: faint }, ticks: { color: ink, maxTicksLimit: 6, maxRotation: 0 } },
      y: { grid: { color: faint }, ticks: { color: ink, maxTicksLimit: 5 }, beginAtZero: true },
    },
    plugins: { legend: { display: lines.length > 1, labels: { color: ink, boxHeight: 1, boxWidth: 18 } } },
  };
}
</script>

<template>
  <main class="page">
    <p class="mb-1"><RouterLink to="/">Productions</RouterLink> / <RouterLink to="/settings">Settings</RouterLink></p>
    <h1>What runs</h1>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-if="metrics === null && !problem" class="dim" role="status">Loading ...</p>
    <template v-if="metrics">
      <dl class="now" data-test="running-now">
        <template v-for="[k, v] in now" :key="k"
          ><dt>{{ k }}</dt>
          <dd>{{ v }}</dd></template
        >
      </dl>
      <div class="charts">
        <figure v-for="d in drawn" :key="d.id" :data-test="`running-${d.id}`" :data-looks="looks.length">
          <figcaption>{{ d.title }}</figcaption>
          <div class="chart">
            <Line :data="dataOf(d)" :options="optionsOf(d)" :aria-label="`${d.title}, over the last five minutes`" />
          </div>
        </figure>
      </div>
      <h2>Requests, those that took the most time first</h2>
      <table class="table table-sm" data-test="running-routes">
        <thead>
          <tr>
            <th>Request</th>
            <th class="number">How many</th>
            <th class="number">Mean, ms</th>
            <th class="number">95 of 100 below, ms</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in routes" :key="r.route">
            <td class="mono">{{ r.route }}</td>
            <td class="number mono">{{ r.count }}</td>
            <td class="number mono">{{ r.mean.toFixed(1) }}</td>
            <td class="number mono">{{ r.p95.toFixed(0) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="dim">
        Since the server began. The same numbers are at <a href="/metrics">/metrics</a> for a program that gathers them.
      </p>
    </template>
  </main>
</template>

<style scoped>
.now {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.15rem 1.2rem;
}
.now dd {
  margin: 0;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(30rem, 1fr));
  gap: 1rem;
  margin: 1rem 0;
}
.charts figure {
  margin: 0;
}
.chart {
  height: 150px;
}
.number {
  text-align: right;
}
</style>
