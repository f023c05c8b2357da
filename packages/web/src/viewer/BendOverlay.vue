<script setup lang="ts">
/** The bent sides of the chosen Screen, and their handles to drag. */
import type { Bend } from '@yarlop/core/dress/shape/bend';
import { BEND_SIDES, sideAt } from '@yarlop/core/dress/shape/bend';
import { valueAt } from '@yarlop/core/dress/base/keys';
import { mapPoint, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { computed } from 'vue';
import { putValue, withPart } from '../edits/use-dress';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const store = useShot();
const view = useView();
const playhead = usePlayhead();
const tracks = useTracks();
/** Straight pieces that a side is drawn with. */
const PIECES = 24;
const bend = computed<Bend>(() => (store.chosen?.recipe.dress?.bend ?? {}) as Bend);
const corners = computed(() => store.chosen && tracks.corners(store.chosen, playhead.frame));
/** A place along a side, in the slot. */
function straight(side: (typeof BEND_SIDES)[number], at: number): Point {
  return { top: [at, 0] as const, right: [1, at] as const, bottom: [at, 1] as const, left: [0, at] as const }[side];
}
const sides = computed(() => {
  if (!corners.value) return [];
  const h = unitSquareToQuad(corners.value);
  const { frame } = playhead;
  const seen = (p: Point): [number, number] => props.port.toView(mapPoint(h, p));
  return BEND_SIDES.flatMap((side) => {
    const handles = bend.value[side] ?? [];
    if (handles.length === 0) return [];
    const moved = (at: number, by: readonly [number, number]): Point => [
      straight(side, at)[0] + by[0],
      straight(side, at)[1] + by[1],
    ];
    return [
      {
        side,
        line: Array.from({ length: PIECES + 1 }, (_, i) =>
          seen(moved(i / PIECES, sideAt(handles, frame, i / PIECES)))
            .map((v) => v.toFixed(2))
            .join(','),
        ).join(' '),
        knobs: handles.map((k) => seen(moved(k.at, [valueAt(k.x, frame, 0), valueAt(k.y, frame, 0)]))),
      },
    ];
  });
});
const OPPOSITE = { top: 'bottom', bottom: 'top', left: 'right', right: 'left' } as const;

function down(e: PointerEvent, side: (typeof BEND_SIDES)[number], i: number): void {
  const s = store.chosen;
  const q = corners.value;
  if (!s || !q || e.button !== 0) return;
  e.stopPropagation();
  const before = s.recipe;
  const now = bend.value;
  const { frame } = playhead;
  const handle = now[side]![i]!;
  const target = e.target as SVGElement;
  if (e.altKey)
    return store.edit(
      'Delete bend handle',
      withPart(before, 'bend', { ...now, [side]: now[side]!.filter((_, k) => k !== i) }),
    );
  const back = inverse(unitSquareToQuad(q));
  const box = target.ownerSVGElement!.getBoundingClientRect();
  const start: Point = [valueAt(handle.x, frame, 0), valueAt(handle.y, frame, 0)];
  const level = side === 'top' || side === 'bottom';
  let after = before;
  holdPointer(
    e,
    target,
    (m) => {
      const at = mapPoint(back, props.port.toPlate(m.clientX - box.left, m.clientY - box.top));
      const base = straight(side, handle.at);
      const axis = m.shiftKey ? 'across' : view.bendAxis;
      const x = axis === (level ? 'across' : 'along') ? start[0] : at[0] - base[0];
      const y = axis === (level ? 'along' : 'across') ? start[1] : at[1] - base[1];
      const put = (old: typeof handle): typeof handle => ({
        ...old,
        x: view.bendKeyed ? keyed(old.x, x) : putValue(old.x, frame, x),
        y: view.bendKeyed ? keyed(old.y, y) : putValue(old.y, frame, y),
      });
      const other = OPPOSITE[side];
      const next: Bend = {
        ...now,
        [side]: now[side]!.map((k, n) => (n === i ? put(k) : k)),
        ...(view.bendLinked && now[other]
          ? { [other]: now[other].map((k) => (Math.abs(k.at - handle.at) < 0.02 ? put(k) : k)) }
          : {}),
      };
      after = withPart(before, 'bend', next);
      store.preview(s.id, after);
    },
    () => {
      if (after !== before) store.edit('Bend side', after, before);
    },
  );
  function keyed(old: typeof handle.x, value: number): typeof handle.x {
    return putValue(Array.isArray(old) ? old : [{ frame, value }], frame, value);
  }
}
</script>

<template>
  <g data-test="bend">
    <template v-for="s in sides" :key="s.side">
      <polyline :points="s.line" class="halo" /><polyline :points="s.line" class="side" />
      <circle
        v-for="(k, i) in s.knobs"
        :key="i"
        :cx="k[0]"
        :cy="k[1]"
        r="5.5"
        class="knob"
        :data-test="`bend-${s.side}-${i}`"
        @pointerdown="down($event, s.side, i)"
        ><title>Drag to bend; Shift holds it across the side; Alt-click takes it away</title></circle
      >
    </template>
  </g>
</template>

<style scoped>
.side {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.25;
}
.knob {
  fill: var(--ink);
  stroke: #f6e7bd;
  stroke-width: 1.75;
  pointer-events: all;
  cursor: move;
}
</style>
