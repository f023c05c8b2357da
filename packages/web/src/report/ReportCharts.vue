<script setup lang="ts">
/** A Screen's track as small charts, one for each thing that is known of it. */
import type { ChartData, ChartOptions } from 'chart.js';
import { CategoryScale, Chart, Legend, LineElement, LinearScale, PointElement, Tooltip } from 'chart.js';
import { computed } from 'vue';
import { Line } from 'vue-chartjs';
import { lineOnPaper } from '../prove/chart-lines';
import type { CurveKind } from '../prove/curves';
import { UNITS, seriesOf } from '../prove/curves';
import { useProofs } from '../stores/proofs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Screen } from '../types';

Chart.register(CategoryScale, LinearScale, PointElement, LineElement, Legend, Tooltip);
const props = defineProps<{ screen: Screen }>();
const store = useShot();
const tracks = useTracks();
const proofs = useProofs();
const KINDS: readonly CurveKind[] = ['path', 'speed', 'slip', 'trust', 'sigma', 'blur'];
/** One line each, which the heading names. */
const ALONE: readonly CurveKind[] = ['trust', 'blur'];
/** As the sheet that they are printed on. */
const [INK, FAINT] = ['#17251f', '#d5d2c5'];

const frames = computed(() => [...(tracks.tracks.get(props.screen.id)?.frames.keys() ?? [])].sort((a, b) => a - b));

function drawn(kind: CurveKind): ChartData<'line', (number | null)[], number> {
  const from = frames.value[0] ?? 0;
  const count = (frames.value.at(-1) ?? -1) - from + 1;
  const series = seriesOf(kind, {
    from,
    count,
    corners: (n) => tracks.corners(props.screen, n),
    solved: (n) => tracks.tracks.get(props.screen.id)?.frames.get(n),
    slips: new Map(proofs.left(props.screen).map((f) => [f.frame, f])),
    scale: 1920 / (store.shot?.probe.width ?? 1920),
  });
  return { labels: Array.from({ length: count }, (_, i) => from + i), datasets: series.map(lineOnPaper) };
}
const isEmpty = (data: ChartData<'line', (number | null)[], number>): boolean =>
  data.datasets.every((d) => d.data.every((v) => v === null));
/** What nothing is known of is left out. */
const charts = computed(() =>
  KINDS.map((kind) => ({ kind, data: drawn(kind), options: optionsOf(kind) })).filter((c) => !isEmpty(c.data)),
);

function optionsOf(kind: CurveKind): ChartOptions<'line'> {
  const grid = { color: FAINT };
  const ticks = { color: INK, maxTicksLimit: 8, font: { size: 10 } };
  const title = (text: string) => ({ display: true, text, color: INK, font: { size: 10 } });
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    scales: {
      x: { grid, ticks, title: title('frame') },
      y: { grid, ticks, beginAtZero: kind !== 'path' },
    },
    plugins: {
      legend: {
        display: !ALONE.includes(kind),
        labels: { color: INK, boxHeight: 1, boxWidth: 18, font: { size: 10 } },
      },
    },
  };
}
</script>

<template>
  <div class="charts">
    <figure v-for="c in charts" :key="c.kind" :data-test="`chart-${c.kind}`">
      <figcaption>{{ UNITS[c.kind] }}</figcaption>
      <div class="chart">
        <Line :data="c.data" :options="c.options" :aria-label="`${UNITS[c.kind]}, frame by frame`" />
      </div>
    </figure>
  </div>
</template>

<style scoped>
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(330px, 1fr));
  gap: 10px 18px;
}
figure {
  margin: 0;
  min-width: 0;
  break-inside: avoid;
}
figcaption {
  font-size: 0.8rem;
}
.chart {
  height: 170px;
  position: relative;
}
@media print {
  .charts {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
