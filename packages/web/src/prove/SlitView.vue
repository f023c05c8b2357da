<script setup lang="ts">
/** A line of the flat view over all frames: straight streaks are locked, bends are slip. */
import { clamp } from '@yarlop/core/clamp';
import { computed, ref, watch, watchEffect } from 'vue';
import { useElementSize } from '@vueuse/core';
import type { Point } from '@yarlop/core/geometry/point';
import type { FlatStack } from '@yarlop/core/proof/flat-view';
import { slitView } from '@yarlop/core/proof/flat-view';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import { isPlain } from '../shared/view-aid';
import { greyImage } from './flat-images';

const props = defineProps<{ stack: FlatStack }>();
const playhead = usePlayhead();
const view = useView();
const flat = ref<HTMLCanvasElement | null>(null);
const slit = ref<HTMLCanvasElement | null>(null);
const holder = ref<HTMLElement | null>(null);
const { width } = useElementSize(holder);
const area = computed(() => props.stack.area);
const START = (): [Point, Point] => [
  [0.04 * area.value.width, 0.5 * area.value.height],
  [0.96 * area.value.width, 0.5 * area.value.height],
];
const line = ref<[Point, Point]>(START());
watch(
  () => [area.value.width, area.value.height],
  () => (line.value = START()),
);
/** Rows of the slit picture, at the most. */
const MOST_ROWS = 480;
const rows = computed(() =>
  clamp(
    Math.round(Math.hypot(line.value[1][0] - line.value[0][0], line.value[1][1] - line.value[0][1])),
    48,
    MOST_ROWS,
  ),
);

watchEffect(
  () => {
    const c = flat.value;
    const { width: w, height: h } = area.value;
    const i = Math.min(props.stack.frames - 1, Math.max(0, playhead.frame - props.stack.from));
    if (!c) return;
    if (c.width !== w || c.height !== h) [c.width, c.height] = [w, h];
    c.getContext('2d')!.putImageData(greyImage(props.stack.data.subarray(i * w * h, (i + 1) * w * h), w, h), 0, 0);
  },
  { flush: 'post' },
);
watchEffect(
  () => {
    const c = slit.value;
    const { frames } = props.stack;
    const n = rows.value;
    if (!c) return;
    if (c.width !== frames || c.height !== n) [c.width, c.height] = [frames, n];
    const out = new Uint8ClampedArray(frames * n);
    slitView(props.stack, line.value, n, out);
    c.getContext('2d')!.putImageData(greyImage(out, frames, n), 0, 0);
  },
  { flush: 'post' },
);

const inside = ([x, y]: Point): Point => [
  Math.min(area.value.width, Math.max(0, x)),
  Math.min(area.value.height, Math.max(0, y)),
];
function drag(e: PointerEvent, which: 0 | 1 | 'both'): void {
  const svg = (e.target as SVGElement).ownerSVGElement!;
  const k = area.value.width / svg.getBoundingClientRect().width;
  const from = [e.clientX, e.clientY];
  const [a, b] = line.value;
  holdPointer(
    e,
    e.target as Element,
    (m) => {
      const d: Point = [(m.clientX - from[0]!) * k, (m.clientY - from[1]!) * k];
      const to = (p: Point): Point => inside([p[0] + d[0], p[1] + d[1]]);
      line.value = [which === 1 ? a : to(a), which === 0 ? b : to(b)];
    },
    () => {},
  );
}
/** Keys move the whole line by hundredths of the picture. */
function nudge(e: KeyboardEvent): void {
  const d: Point | undefined = ({ ArrowUp: [0, -1], ArrowDown: [0, 1] } as Record<string, Point>)[e.key];
  if (!d) return;
  e.preventDefault();
  e.stopPropagation();
  const k = area.value.height / 100;
  line.value = [
    inside([line.value[0][0], line.value[0][1] + d[1] * k]),
    inside([line.value[1][0], line.value[1][1] + d[1] * k]),
  ];
}
function go(e: PointerEvent): void {
  const r = slit.value!.getBoundingClientRect();
  playhead.playing = false;
  playhead.go(props.stack.from + Math.floor(((e.clientX - r.left) / r.width) * props.stack.frames));
}
const head = computed(() => `${(100 * (playhead.frame - props.stack.from + 0.5)) / props.stack.frames}%`);
</script>

<template>
  <div ref="holder" class="slit" data-test="slit-view">
    <div
      class="where"
      :style="{ aspectRatio: `${area.width} / ${area.height}`, width: `${Math.min(300, width / 3)}px` }"
    >
      <canvas ref="flat" :class="{ aided: !isPlain(view) }" role="img" aria-label="The Screen laid flat" />
      <svg :viewBox="`0 0 ${area.width} ${area.height}`" aria-label="The line that is stacked">
        <line
          :x1="line[0][0]"
          :y1="line[0][1]"
          :x2="line[1][0]"
          :y2="line[1][1]"
          class="halo"
          vector-effect="non-scaling-stroke"
        />
        <line
          :x1="line[0][0]"
          :y1="line[0][1]"
          :x2="line[1][0]"
          :y2="line[1][1]"
          class="line"
          vector-effect="non-scaling-stroke"
          tabindex="0"
          role="slider"
          aria-label="Height of the line"
          :aria-valuenow="Math.round((100 * line[0][1]) / area.height)"
          data-test="slit-line"
          @pointerdown="drag($event, 'both')"
          @keydown="nudge"
        />
        <circle
          v-for="i in [0, 1] as const"
          :key="i"
          :cx="line[i][0]"
          :cy="line[i][1]"
          :r="area.width / 40"
          class="end"
          :data-test="`slit-end-${i}`"
          @pointerdown="drag($event, i)"
        />
      </svg>
      <p class="dim">
        Drag the line or its ends. The picture beside it shows the line from top to bottom, frame after frame to the
        right.
      </p>
    </div>
    <div class="stack">
      <canvas
        ref="slit"
        :class="{ aided: !isPlain(view) }"
        role="img"
        aria-label="The line over all frames"
        data-test="slit-picture"
        @pointerdown="go"
      />
      <span class="head" :style="{ left: head }" />
    </div>
  </div>
</template>

<style scoped>
.slit {
  position: absolute;
  inset: 0;
  padding: 42px 12px 12px;
  display: grid;
  grid-template: minmax(0, 1fr) / auto 1fr;
  gap: 12px;
}
.where {
  position: relative;
}
.where canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.where svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: visible;
}
.where p {
  margin: 0.4rem 0 0;
  font-size: 0.78rem;
  background: var(--ink);
  padding: 0.2rem 0.4rem;
}
.halo {
  stroke: #000b;
  stroke-width: 7;
}
.line {
  stroke: #f6e7bd;
  stroke-width: 2.5;
  cursor: move;
}
.end {
  fill: #f6e7bd;
  stroke: #000;
  cursor: move;
}
.stack {
  position: relative;
  min-width: 0;
  overflow: hidden;
}
.stack canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  cursor: crosshair;
}
.head {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: #f6e7bd;
  mix-blend-mode: difference;
  pointer-events: none;
}
canvas.aided {
  filter: url('#view-aid');
}
</style>
