<script setup lang="ts">
/** What the chosen outline is shaped by: the frame about it, the handles of its curves, and where a mark is taken from. */
import type { HandleSide } from '@yarlop/core/dress/shape/outline-by-hand';
import { carriedShape, frameOf } from '@yarlop/core/dress/shape/outline-by-hand';
import type { PaintedOut } from '@yarlop/core/dress/retouch/retouch';
import { handlesOf } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { inverse, multiply } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { computed } from 'vue';
import type { OutlineHere } from '../edits/use-outlines';
import type { OutlineRef } from '../stores/outline-choice';
import { useOutlineChoice } from '../stores/outline-choice';
import GripFrame from './GripFrame.vue';
import { useOutlineDrag } from './use-outline-drag';
import type { useViewport } from './use-viewport';

const props = defineProps<{
  port: ReturnType<typeof useViewport>;
  outline: OutlineRef;
  here: OutlineHere;
}>();
const choice = useOutlineChoice();
const drag = useOutlineDrag(props.port);
/** CSS px by which the frame stands outside the outline, so that its grips do not lie on points. By eye. */
const OUTSIDE = 18;
/** CSS px below which a handle is not drawn: it lies on its point. */
const LEAST = 3;

const seen = (q: Point): Point => props.port.toView(mapPoint(props.here.toPicture, q));

/** A place of the frame about the outline, on the view. */
const onFrame = computed(() => {
  const { shape, axes, toPicture } = props.here;
  const b = frameOf(carriedShape(shape, inverse(axes)));
  const onView = multiply(toPicture, axes);
  const [a, c] = [
    [b.x0, b.y0],
    [b.x1, b.y1],
  ].map((p) => props.port.toView(mapPoint(onView, p as unknown as Point)));
  const across = Math.hypot(c![0] - a![0], c![1] - a![1]) || 1;
  const pad = (OUTSIDE * Math.hypot(b.x1 - b.x0, b.y1 - b.y0)) / across;
  return ([u, v]: Point): [number, number] =>
    props.port.toView(
      mapPoint(onView, [b.x0 - pad + u * (b.x1 - b.x0 + 2 * pad), b.y0 - pad + v * (b.y1 - b.y0 + 2 * pad)]),
    );
});

interface Led {
  readonly point: number;
  readonly side: HandleSide;
  readonly from: Point;
  readonly to: Point;
}
/** Handles of the taken point and of its neighbours; of all points where none is taken. */
const handles = computed((): Led[] => {
  const { points } = props.here.shape;
  const n = points.length;
  const taken = choice.point;
  return handlesOf(props.here.shape).flatMap(([ix, iy, ox, oy], i): Led[] => {
    if (taken !== null && ![taken, (taken + 1) % n, (taken + n - 1) % n].includes(i)) return [];
    const [x, y] = points[i]!;
    const from = seen([x, y]);
    const ends = [
      { point: i, side: 'before' as const, from, to: seen([x + ix, y + iy]) },
      { point: i, side: 'after' as const, from, to: seen([x + ox, y + oy]) },
    ];
    return ends.filter(({ to }) => Math.hypot(to[0] - from[0], to[1] - from[1]) > LEAST);
  });
});

/** The soft edge of each point, as a ring about it. */
const rings = computed(() => {
  const { soft, points } = props.here.outline;
  if (soft?.length !== points.length) return [];
  return props.here.shape.points.flatMap((p, i) => {
    const [a, b] = [seen(p), seen([p[0] + soft[i]! / 2, p[1]])];
    return soft[i]! > 0 ? [{ at: a, r: Math.hypot(b[0] - a[0], b[1] - a[1]) }] : [];
  });
});

/** Where the picture is taken from that covers a mark; null where it is not from beside it. */
const source = computed(() => {
  const o = props.here.outline as unknown as PaintedOut;
  if (props.outline.part !== 'retouches' || o.kind !== 'paint-out' || o.from !== 'beside') return null;
  const [dx, dy] = o.offset ?? [0, 0];
  const points = props.here.shape.points.map(([x, y]) => seen([x + dx, y + dy]));
  const b = frameOf(props.here.shape);
  const middle: Point = [(b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2];
  return {
    polygon: points.map((p) => p.join(',')).join(' '),
    from: seen(middle),
    to: seen([middle[0] + dx, middle[1] + dy]),
  };
});
function dragSource(e: PointerEvent): void {
  drag.hold(e, props.outline, 'Move where it is taken from', (o, { at, from }) => {
    const [x, y] = (o as unknown as PaintedOut).offset ?? [0, 0];
    const offset = [x + at[0] - from[0], y + at[1] - from[1]].map((v) => Math.round(100 * v) / 100);
    return { offset } as object;
  });
}
</script>

<template>
  <g class="outline-handles" data-test="outline-handles">
    <circle v-for="(r, i) in rings" :key="`ring${i}`" :cx="r.at[0]" :cy="r.at[1]" :r="r.r" class="ring" />
    <GripFrame :seen="onFrame" what="the outline" name="outline" @take="(e, grip) => drag.grip(e, outline, grip)" />
    <g v-for="h in handles" :key="`${h.point}${h.side}`">
      <path :d="`M${h.from.join(' ')}L${h.to.join(' ')}`" class="arm" />
      <circle
        :cx="h.to[0]"
        :cy="h.to[1]"
        r="5"
        class="end"
        :data-test="`handle-${h.point}-${h.side}`"
        @pointerdown="drag.handle($event, outline, h.point, h.side)"
      >
        <title>Drag to bend the curve; with Alt the other handle stays</title>
      </circle>
    </g>
    <g v-if="source">
      <path :d="`M${source.from.join(' ')}L${source.to.join(' ')}`" class="arm" />
      <polygon :points="source.polygon" class="source" data-test="paint-source" @pointerdown="dragSource">
        <title>Drag to where the picture is taken from</title>
      </polygon>
    </g>
  </g>
</template>

<style scoped>
.ring {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1;
  stroke-dasharray: 2 3;
}
.arm {
  stroke: #cfe8ff;
  stroke-width: 1.25;
  fill: none;
}
.end {
  fill: #cfe8ff;
  stroke: #000b;
  stroke-width: 1.5;
  pointer-events: all;
  cursor: grab;
}
.source {
  fill: transparent;
  stroke: #cfe8ff;
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
  pointer-events: all;
  cursor: move;
}
/* The picture is being moved about: nothing on it is taken. */
:global(.panning .outline-handles *) {
  pointer-events: none;
}
</style>
