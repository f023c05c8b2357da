<script setup lang="ts">
import { computed, ref } from 'vue';
import { Line } from 'vue-chartjs';
import type { ChartData, ChartOptions, Plugin } from 'chart.js';
import { CategoryScale, Chart, Legend, LineElement, LinearScale, PointElement, Tooltip } from 'chart.js';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useRepairs } from '../stores/repairs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { CurveKind } from './curves';
import { drawnLine, lineOfSeries } from './chart-lines';
import { CURVES, UNITS, seriesOf } from './curves';

Chart.register(CategoryScale, LinearScale, PointElement, LineElement, Legend, Tooltip);
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const proofs = useProofs();
const repairs = useRepairs();
const view = useView();
const kind = ref<CurveKind>('slip');
/** Nothing where there is nothing to repair: the slips themselves are drawn then. */
const plan = computed(() => {
  const p = repairs.plan;
  return kind.value === 'slip' && p?.screen === store.chosenId && p.touchUps.length > 0 ? p : null;
});
const settled = computed(() =>
  kind.value === 'slip' && repairs.settled?.screen === store.chosenId ? repairs.settled : null,
);
const frames = computed(() =>
  [...(tracks.tracks.get(store.chosenId ?? -1)?.frames.keys() ?? [])].sort((a, b) => a - b),
);
const css = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

const data = computed((): ChartData<'line', (number | null)[], number> => {
  const s = store.chosen;
  const from = frames.value[0] ?? 0;
  const count = (frames.value.at(-1) ?? -1) - from + 1;
  const width = store.shot?.probe.width ?? 1920;
  const labels = Array.from({ length: count }, (_, i) => from + i);
  if (!s) return { labels: [], datasets: [] };
  if (plan.value) {
    const p = plan.value;
    const at = (v: readonly (number | null)[]): (number | null)[] => labels.map((n) => v[p.frames.indexOf(n)] ?? null);
    return {
      labels,
      datasets: [
        drawnLine('worst corner now', at(p.before), css('--weak'), [4, 3]),
        drawnLine('with the plan', at(p.after), css('--brass'), [], 2),
        drawnLine(
          'limit',
          labels.map(() => p.limit),
          css('--text-dim'),
          [1, 4],
        ),
      ],
    };
  }
  const slipsOf = (list: readonly { frame: number }[]) => new Map(list.map((f) => [f.frame, f])) as never;
  const input = {
    from,
    count,
    corners: (n: number) => tracks.corners(s, n),
    solved: (n: number) => tracks.tracks.get(s.id)?.frames.get(n),
    scale: 1920 / width,
  };
  if (settled.value) {
    const worst = (list: ReturnType<typeof proofs.left>): (number | null)[] =>
      labels.map(
        (n) =>
          list
            .find((f) => f.frame === n)
            ?.by.reduce<number | null>((w, p) => (p ? Math.max(w ?? 0, (Math.hypot(...p) * 1920) / width) : w), null) ??
          null,
      );
    return {
      labels,
      datasets: [
        drawnLine('worst corner now', worst(proofs.left(s)), css('--weak'), [4, 3]),
        drawnLine(
          'settled',
          worst(proofs.leftWith(s, { ...s.recipe, settles: [...(s.recipe.settles ?? []), settled.value.settle] })),
          css('--brass'),
          [],
          2,
        ),
      ],
    };
  }
  return {
    labels,
    datasets: seriesOf(kind.value, { ...input, slips: slipsOf(kind.value === 'slip' ? proofs.left(s) : []) }).map(
      lineOfSeries,
    ),
  };
});
const head: Plugin<'line'> = {
  id: 'head',
  afterDraw(chart) {
    const x = chart.scales['x']?.getPixelForValue(playhead.frame - (frames.value[0] ?? 0));
    if (x === undefined || Number.isNaN(x)) return;
    const { ctx, chartArea: a } = chart;
    ctx.save();
    ctx.strokeStyle = css('--text');
    ctx.lineWidth = 1;
    ctx.beginPath();
    ctx.moveTo(x, a.top);
    ctx.lineTo(x, a.bottom);
    ctx.stroke();
    ctx.restore();
  },
};
const options = computed((): ChartOptions<'line'> => {
  void [playhead.frame, view.theme];
  const grid = { color: css('--line') };
  const ticks = { color: css('--text-dim'), maxTicksLimit: 12 };
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    interaction: { mode: 'index', intersect: false },
    scales: {
      x: { grid, ticks, title: { display: true, text: 'frame', color: css('--text-dim') } },
      y: {
        grid,
        ticks,
        beginAtZero: kind.value !== 'path',
        title: { display: true, text: UNITS[kind.value], color: css('--text-dim') },
      },
    },
    plugins: { legend: { labels: { color: css('--text'), usePointStyle: false, boxHeight: 1, boxWidth: 28 } } },
    onClick: (_e, _items, chart) => {
      const at = chart.scales['x']!.getValueForPixel((_e as unknown as { x: number }).x);
      if (at === undefined) return;
      playhead.playing = false;
      playhead.go((frames.value[0] ?? 0) + Math.round(at));
    },
  };
});
</script>

<template>
  <div class="curves" data-test="curves-view">
    <div class="d-flex gap-1 flex-wrap" role="group" aria-label="What is drawn">
      <BButton
        v-for="k in CURVES"
        :key="k"
        variant="outline-secondary"
        :class="{ active: kind === k }"
        :aria-pressed="kind === k"
        :title="UNITS[k]"
        :data-test="`curve-${k}`"
        @click="kind = k"
        >{{ k }}</BButton
      >
      <span v-if="plan || settled" class="dim ms-2 align-self-center" data-test="curves-proposed"
        >proposed, nothing is changed yet</span
      >
    </div>
    <div class="chart">
      <Line
        :data="data"
        :options="options"
        :plugins="[head]"
        :aria-label="`${UNITS[kind]}, frame by frame; a click goes to the frame`"
      />
    </div>
    <p v-if="kind === 'slip' && !plan && !settled && !proofs.measured(store.chosen!).length" class="empty dim">
      Measure slip to see it drawn.
    </p>
  </div>
</template>

<style scoped>
.curves {
  position: absolute;
  inset: 0;
  padding: 42px 12px 8px;
  background: var(--ink-raised);
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.chart {
  flex: 1;
  min-height: 0;
  position: relative;
}
.empty {
  position: absolute;
  left: 50%;
  top: 45%;
  transform: translateX(-50%);
  background: var(--ink);
  padding: 0.3rem 0.8rem;
}
</style>
