<script setup lang="ts">
/**
 * Outlines of the chosen Screen on the picture: what is followed and ignored, or what is held out, graded and painted
 * out. One of them is chosen, and has handles.
 */
import type { Retouch } from '@yarlop/core/dress/retouch/retouch';
import { polygonOf, withPoint, withoutPoint } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { distanceToSegment } from '@yarlop/core/geometry/line';
import type { Point } from '@yarlop/core/geometry/point';
import { computed, onUnmounted, watch } from 'vue';
import type { OutlineHere, Patch } from '../edits/use-outlines';
import { useOutlines } from '../edits/use-outlines';
import type { OutlinePart, OutlineRef } from '../stores/outline-choice';
import { useOutlineChoice } from '../stores/outline-choice';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import OutlineHandles from './OutlineHandles.vue';
import { useOutlineDrag } from './use-outline-drag';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport>; parts: readonly OutlinePart[] }>();
const store = useShot();
const playhead = usePlayhead();
const choice = useOutlineChoice();
const outlines = useOutlines();
const drag = useOutlineDrag(props.port);
/** What is not seen is not shaped, by keys either. */
const letGo = (): void => choice.choose(null);
watch(() => props.parts.join(), letGo);
onUnmounted(letGo);

interface Shown {
  readonly ref: OutlineRef;
  readonly here: OutlineHere;
  /** how it is drawn */
  readonly kind: string;
  readonly points: Point[];
  readonly polygon: Point[];
}

function kindOf({ part }: OutlineRef, { outline }: OutlineHere): string {
  if (part === 'holdouts') return 'holdout';
  return (outline as unknown as Patch | Retouch).kind;
}
const shown = computed((): Shown[] => {
  const s = store.chosen;
  if (!s) return [];
  return props.parts.flatMap((part) => {
    const list = outlines.all(s.recipe, part);
    return list.flatMap((_, index): Shown[] => {
      const ref = { part, index };
      const here = outlines.here(ref, list);
      if (!here) return [];
      const seen = (q: Point): Point => props.port.toView(mapPoint(here.toPicture, q));
      const polygon = polygonOf(here.outline, here.shape).map(seen);
      return [{ ref, here, kind: kindOf(ref, here), points: here.shape.points.map(seen), polygon }];
    });
  });
});
const chosen = computed(() =>
  playhead.playing ? undefined : shown.value.find(({ ref }) => choice.isChosen(ref.part, ref.index)),
);
const text = (points: readonly Point[]): string => points.map((p) => p.join(',')).join(' ');

function pressLine(e: PointerEvent, { ref }: Shown): void {
  if (e.button !== 0) return;
  if (!choice.isChosen(ref.part, ref.index)) choice.choose(ref);
  drag.move(e, ref);
}
function pressPoint(e: PointerEvent, { ref, here }: Shown, i: number): void {
  if (e.button !== 0) return;
  const isMatte = ref.part !== 'patches';
  choice.choose(ref, i);
  if (e.altKey && isMatte) soften(e, ref, i);
  else if (e.altKey) outlines.change('Delete outline point', ref, () => withoutPoint(here.outline, i));
  else drag.point(e, ref, i);
  e.stopPropagation();
}
/** Alt and a drag to the right widen the edge at one point. */
function soften(e: PointerEvent, ref: OutlineRef, i: number): void {
  const from = e.clientX;
  drag.hold(e, ref, 'Soften outline', ({ points, soft }, _path, m) => {
    const own = points.map((_, k) => soft?.[k] ?? 0);
    return { soft: own.with(i, Math.max(0, Math.round(own[i]! + (m.clientX - from) / props.port.zoom.value))) };
  });
}
/** A point more on the side that was pressed twice. */
function addPoint(e: MouseEvent, { ref, here, points }: Shown): void {
  const svg = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  const at: Point = [e.clientX - svg.left, e.clientY - svg.top];
  const each = polygonOf(here.outline, here.shape).length / points.length;
  const polygon = polygonOf(here.outline, here.shape).map((q) => props.port.toView(mapPoint(here.toPicture, q)));
  const away = polygon.map((p, k) => distanceToSegment(at, p, polygon[(k + 1) % polygon.length]!));
  const side = Math.floor(away.indexOf(Math.min(...away)) / each);
  outlines.change('Add outline point', ref, () => withPoint(here.outline, side));
  choice.choose(ref, side + 1);
}
</script>

<template>
  <g class="outlines">
    <g v-for="(o, i) in shown" :key="`${o.ref.part}${o.ref.index}`">
      <polygon :points="text(o.polygon)" class="halo" />
      <polygon :points="text(o.polygon)" :class="[o.kind, { chosen: o === chosen }]" :data-test="`patch-${o.kind}`" />
      <polygon
        v-if="!playhead.playing"
        :points="text(o.polygon)"
        class="line"
        :data-test="`patch-line-${i}`"
        @pointerdown="pressLine($event, o)"
        @dblclick.stop="addPoint($event, o)"
        ><title>Press to shape this outline, drag to move it; double-click for a point more</title></polygon
      >
      <template v-if="!playhead.playing">
        <rect
          v-for="(q, k) in o.points"
          :key="k"
          :x="q[0] - 4"
          :y="q[1] - 4"
          width="8"
          height="8"
          class="knob"
          :class="{ taken: o === chosen && choice.point === k }"
          :data-test="`outline-${o.ref.part}-${o.ref.index}-point-${k}`"
          @pointerdown="pressPoint($event, o, k)"
          ><title>
            {{
              o.ref.part === 'patches'
                ? 'Drag to reshape; Alt and a click take the point away'
                : 'Drag to reshape; Alt and drag sideways makes the edge soft here'
            }}
          </title></rect
        >
      </template>
    </g>
    <OutlineHandles v-if="chosen" :port="port" :outline="chosen.ref" :here="chosen.here" />
  </g>
</template>

<style scoped>
.follow {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
}
.ignore {
  fill: #0000002e;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 3 5;
}
.holdout {
  fill: #0000001e;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 8 3 2 3;
}
.grade {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 12 3;
}
.paint-out {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 1 3;
}
.chosen {
  stroke: #fff;
  stroke-width: 2;
}
.line {
  fill: none;
  stroke: transparent;
  stroke-width: 9;
  pointer-events: stroke;
  cursor: move;
}
.knob {
  fill: var(--ink);
  stroke: #f6e7bd;
  stroke-width: 1.5;
  pointer-events: all;
  cursor: move;
}
.taken {
  fill: #f6e7bd;
}
/* The picture is being moved about: nothing on it is taken. */
:global(.panning .outlines *) {
  pointer-events: none;
}
</style>
