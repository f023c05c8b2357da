<script setup lang="ts">
import { computed, ref } from 'vue';
import { useEventListener } from '@vueuse/core';
import type { Outline } from '@yarlop/core/follow/outline/outlines';
import { polygonAt, shapeAt } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { IDENTITY, inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distanceToSegment } from '@yarlop/core/geometry/line';
import { carriedOutline } from '../edits/carried-outline';
import { withPart } from '../edits/use-dress';
import { useWays, withWays } from '../follow/use-ways';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import { useOutlineDrag } from './use-outline-drag';
import type { useViewport } from './use-viewport';

type Patch = NonNullable<Recipe['patches']>[number];
/** Outlines of the recipe: what is followed and ignored, or what is held out. */
interface Shown extends Outline {
  readonly kind: Patch['kind'] | 'holdout';
}
const props = defineProps<{ port: ReturnType<typeof useViewport>; what: 'patches' | 'holdouts' }>();
const store = useShot();
const view = useView();
const playhead = usePlayhead();
const tracks = useTracks();
const ways = useWays();
const drawing = ref<[number, number][]>([]);

function outlinesOf(r: Recipe): readonly Shown[] {
  if (props.what === 'patches') return ways.here.value.patches ?? [];
  return (r.dress?.holdouts ?? []).map((h): Shown =>
    h.kind === 'outline' ? { ...h, kind: 'holdout' } : { kind: 'holdout', points: [] },
  );
}
/** @param all the outlines as they were when it began */
function withOutline(r: Recipe, all: readonly Outline[], i: number, part: Partial<Outline>): Recipe {
  if (props.what === 'patches')
    return withWays(r, ways.span.value, {
      patches: (all as readonly Patch[]).map((p, k) => (k === i ? ({ ...p, ...part } as Patch) : p)),
    });
  return withPart(
    r,
    'holdouts',
    r.dress!.holdouts!.map((h, k) => (k === i ? { ...h, ...part } : h)),
  );
}

/** Patches ride on the plane on every frame on which it is known, in the shape that they have there. */
const patches = computed(() => {
  const s = store.chosen;
  if (!s) return [];
  const h = tracks.plane(s, playhead.frame);
  if (!h) return [];
  const seen = (l: readonly Point[]): [number, number][] => l.map((q) => props.port.toView(mapPoint(h, q)));
  return outlinesOf(s.recipe).map((p) => {
    const shape = shapeAt(p, playhead.frame, s.recipe.referenceFrame);
    return { kind: p.kind, points: seen(shape), outline: p.points.length > 0 ? seen(polygonAt(p, playhead.frame, s.recipe.referenceFrame)) : [] };
  });
});
const text = (points: readonly (readonly [number, number])[]): string => points.map((p) => p.join(',')).join(' ');

function close(): void {
  const s = store.chosen;
  const tool = view.tool;
  if (s && tool.kind === 'draw-patch' && drawing.value.length >= 3) {
    if (tool.patch === 'carried') {
      void store.addScreen(carriedOutline(drawing.value, playhead.frame, store.screens));
      return leave();
    }
    const back = inverse(tracks.plane(s, playhead.frame) ?? IDENTITY);
    if (tool.patch === 'holdout') {
      store.edit(
        'Draw holdout',
        withPart(s.recipe, 'holdouts', [
          ...(s.recipe.dress?.holdouts ?? []),
          { kind: 'outline', points: drawing.value.map((p) => mapPoint(back, p)), softness: 2 },
        ]),
      );
      return leave();
    }
    if (tool.patch === 'cut') {
      store.edit(
        'Cut fill to outline',
        withPart(s.recipe, 'placement', {
          ...s.recipe.dress?.placement,
          lay: 'plate',
          cut: drawing.value.map((p) => mapPoint(back, p)),
        }),
      );
      return leave();
    }
    const patch = { kind: tool.patch, points: drawing.value.map((p) => mapPoint(back, p)) } as unknown as Patch;
    ways.set(`Draw ${tool.patch} patch`, { patches: [...(ways.here.value.patches ?? []), patch] });
  }
  leave();
}
function leave(): void {
  drawing.value = [];
  view.tool = { kind: 'select' };
}
function local(e: PointerEvent): [number, number] {
  const r = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  return [e.clientX - r.left, e.clientY - r.top];
}
function add(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  const at = local(e);
  const first = drawing.value[0];
  if (
    first &&
    drawing.value.length >= 3 &&
    Math.hypot(props.port.toView(first)[0] - at[0], props.port.toView(first)[1] - at[1]) < 9
  )
    return close();
  drawing.value.push(props.port.toPlate(...at));
}
const drag = useOutlineDrag({
  port: props.port,
  outlinesOf,
  withOutline,
  isHeldOut: () => props.what === 'holdouts',
});
function pressPoint(e: PointerEvent, patch: number, point: number): void {
  if (e.altKey && props.what === 'holdouts') softenPoint(e, patch, point);
  else if (e.altKey) drag.withoutPoint(patch, point);
  else drag.point(e, patch, point);
}
/** A point more on the side that was pressed twice. */
function addPoint(e: MouseEvent, i: number): void {
  const svg = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  const at: Point = [e.clientX - svg.left, e.clientY - svg.top];
  const { points } = patches.value[i]!;
  const away = points.map((p, k) => distanceToSegment(at, p, points[(k + 1) % points.length]!));
  drag.withPoint(i, away.indexOf(Math.min(...away)));
}
/** Alt and a drag to the right widen the edge at one point. */
function softenPoint(e: PointerEvent, i: number, point: number): void {
  const s = store.chosen!;
  const before = s.recipe;
  const h = before.dress!.holdouts![i]!;
  const from = e.clientX;
  if (h.kind !== 'outline') return;
  const own = h.soft?.[point] ?? 0;
  const list = h.points.map((_, k) => h.soft?.[k] ?? 0);
  let after = before;
  holdPointer(
    e,
    e.target as Element,
    (m) => {
      const soft = list.map((v, k) =>
        k === point ? Math.max(0, Math.round(own + (m.clientX - from) / props.port.zoom.value)) : v,
      );
      store.preview(
        s.id,
        (after = withPart(
          before,
          'holdouts',
          before.dress!.holdouts!.map((x, k) => (k === i ? { ...x, soft } : x)),
        )),
      );
    },
    () => {
      if (after !== before) store.edit('Soften holdout', after, before);
    },
  );
}
useEventListener(window, 'keydown', (e) => {
  if (view.tool.kind !== 'draw-patch') return;
  if (e.key === 'Enter') close();
  if (e.key === 'Escape') leave();
  if (e.key === 'Backspace') drawing.value.pop();
});
</script>

<template>
  <g>
    <g v-for="(p, i) in patches" :key="i">
      <polygon :points="text(p.outline)" class="halo" />
      <polygon :points="text(p.outline)" :class="p.kind" :data-test="`patch-${p.kind}`" />
      <polygon
        v-if="!playhead.playing && what === 'patches'"
        :points="text(p.outline)"
        class="line"
        :data-test="`patch-line-${i}`"
        @pointerdown="drag.line($event, i)"
        @dblclick.stop="addPoint($event, i)"
        ><title>Drag to move the outline; with Shift to scale it; double-click for a point more</title></polygon
      >
      <template v-if="!playhead.playing">
        <rect
          v-for="(q, k) in p.points"
          :key="k"
          :x="q[0] - 4"
          :y="q[1] - 4"
          width="8"
          height="8"
          class="knob"
          @pointerdown="pressPoint($event, i, k)"
          ><title>
            {{
              what === 'holdouts'
                ? 'Drag to reshape; Alt and drag sideways makes the edge soft here'
                : 'Drag to reshape; Alt and a click take the point away'
            }}
          </title></rect
        >
      </template>
    </g>
    <template v-if="view.tool.kind === 'draw-patch'">
      <rect x="0" y="0" width="100%" height="100%" class="catcher" data-test="patch-catcher" @pointerdown="add" />
      <polyline :points="text(drawing.map((p) => port.toView(p)))" :class="view.tool.patch" />
      <circle v-for="(p, i) in drawing" :key="i" :cx="port.toView(p)[0]" :cy="port.toView(p)[1]" r="4" class="knob" />
    </template>
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
.carried {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 1 4;
}
.holdout,
.cut {
  fill: #0000001e;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 8 3 2 3;
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
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
</style>
