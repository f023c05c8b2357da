<script setup lang="ts">
/** An outline that is being drawn: by clicks around what it is about, or in one stroke. */
import { useEventListener } from '@vueuse/core';
import type { Handles } from '@yarlop/core/geometry/curve';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { IDENTITY, inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import { computed, ref } from 'vue';
import type { Drawn } from '../edits/drawn-outline';
import { useDrawnOutline } from '../edits/drawn-outline';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { closedCurve } from './freehand';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const store = useShot();
const view = useView();
const playhead = usePlayhead();
const tracks = useTracks();
const take = useDrawnOutline();
/** px of the picture */
const points = ref<Point[]>([]);
/** px of the view, while a stroke is drawn */
const stroke = ref<Point[]>([]);
/** CSS px about the first point in which a click closes the outline; and that a press may tremble by. */
const NEAR = 9;

const seen = computed(() => points.value.map((p) => props.port.toView(p)));
const text = (list: readonly Point[]): string => list.map((p) => p.join(',')).join(' ');

function leave(): void {
  points.value = [];
  view.tool = { kind: 'select' };
}
/** @param drawn px of the picture */
function finish(drawn: Drawn): void {
  const s = store.chosen;
  if (!s || view.tool.kind !== 'draw-patch') return leave();
  const what = view.tool.patch;
  const back = inverse(tracks.plane(s, playhead.frame) ?? IDENTITY);
  const { points: own, handles } = drawn;
  const onPlane = own.map((p) => mapPoint(back, p));
  const led = handles?.map((h, i): Handles => {
    const [x, y] = own[i]!;
    const end = (dx: number, dy: number): Point => {
      const [ex, ey] = mapPoint(back, [x + dx, y + dy]);
      return [ex - onPlane[i]![0], ey - onPlane[i]![1]];
    };
    return [...end(h[0], h[1]), ...end(h[2], h[3])];
  });
  take(what, s, drawn, { points: onPlane, ...(led ? { handles: led } : {}) });
  leave();
}
function close(): void {
  if (points.value.length >= 3) finish({ points: points.value });
  else leave();
}
function local(m: PointerEvent, svg: SVGElement): Point {
  const r = svg.getBoundingClientRect();
  return [m.clientX - r.left, m.clientY - r.top];
}
/** A stroke that goes around something is the whole outline. @returns whether it was one */
function finishStroke(): boolean {
  const curve = closedCurve(stroke.value);
  stroke.value = [];
  if (!curve) return false;
  const k = props.port.zoom.value;
  finish({
    points: curve.points.map((p) => props.port.toPlate(...p)),
    handles: curve.handles.map((h) => h.map((v) => v / k) as unknown as Handles),
  });
  return true;
}
function down(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  const target = e.currentTarget as SVGElement;
  const svg = target.ownerSVGElement!;
  const at = local(e, svg);
  let isStroke = false;
  holdPointer(
    e,
    target,
    (m) => {
      const now = local(m, svg);
      isStroke ||= distance(now, at) > NEAR && points.value.length === 0;
      if (isStroke) stroke.value.push(stroke.value.length === 0 ? at : now);
    },
    () => {
      if (isStroke && finishStroke()) return;
      const first = seen.value[0];
      if (first && points.value.length >= 3 && distance(first, at) < NEAR) close();
      else points.value.push(props.port.toPlate(...at));
    },
  );
}
useEventListener(window, 'keydown', (e) => {
  if (view.tool.kind !== 'draw-patch') return;
  if (e.key === 'Enter') close();
  if (e.key === 'Escape') leave();
  if (e.key === 'Backspace') points.value.pop();
});
</script>

<template>
  <g v-if="view.tool.kind === 'draw-patch'">
    <rect x="0" y="0" width="100%" height="100%" class="catcher" data-test="patch-catcher" @pointerdown="down" />
    <polyline :points="text(seen)" class="drawn" />
    <polyline :points="text(stroke)" class="drawn" />
    <circle v-for="(p, i) in seen" :key="i" :cx="p[0]" :cy="p[1]" r="4" class="knob" />
  </g>
</template>

<style scoped>
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
.drawn {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
}
.knob {
  fill: var(--ink);
  stroke: #f6e7bd;
  stroke-width: 1.5;
}
</style>
