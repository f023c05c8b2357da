<script setup lang="ts">
/** The frame of the chosen Screen's fill in its plane, and the grips by which it is moved, scaled, turned and leant. */
import type { Grip } from '@yarlop/core/dress/shape/place-by-hand';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { multiply } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { computed } from 'vue';
import { useFillPlace } from '../edits/use-fill-place';
import { holdPointer } from '../shared/hold-pointer';
import GripFrame from './GripFrame.vue';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const place = useFillPlace();
type Seen = [number, number];

/** CSS px of the upper side that the mark that leans asks for. By eye. */
const LEAN_ROOM = 120;
/** Along the upper side, from its left end. */
const LEAN_AT: Point = [0.75, 0];

const toView = computed(() => {
  const here = place.here.value;
  if (!here) return null;
  const frame = multiply(here.toPicture, here.plane.frame(here.numbers));
  return (at: Point): Seen => props.port.toView(mapPoint(frame, at));
});
const area = computed(() => {
  const seen = toView.value;
  const corners = seen ? ([[0, 0], [1, 0], [1, 1], [0, 1]] as const).map((p) => seen(p)) : []; // prettier-ignore
  return corners.map((p) => p.join(',')).join(' ');
});
/** The mark that leans; null where the fill does not, or there is no room. */
const lean = computed((): Seen | null => {
  const seen = toView.value;
  if (!seen || !place.here.value!.leans) return null;
  const [a, b] = [seen([0, 0.5]), seen([1, 0.5])];
  return Math.hypot(a[0] - b[0], a[1] - b[1]) > LEAN_ROOM ? seen(LEAN_AT) : null;
});

/** Lines that are met, across the slot and beyond. */
const met = computed(() => {
  const here = place.here.value;
  if (!here) return [];
  return place.lines.value.map(({ axis, at }) => {
    const across = here.plane.lines[axis === 0 ? 1 : 0];
    const reach = across[2]! - across[0]!;
    const ends = [across[0]! - reach / 3, across[2]! + reach / 3].map((v) =>
      props.port.toView(mapPoint(here.toPicture, axis === 0 ? [at, v] : [v, at])),
    );
    return `M${ends.map((p) => p.join(' ')).join('L')}`;
  });
});

function down(e: PointerEvent, grip: Grip): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  const target = e.target as SVGElement;
  const box = target.ownerSVGElement!.getBoundingClientRect();
  const at = (m: PointerEvent): Point => props.port.toPlate(m.clientX - box.left, m.clientY - box.top);
  const held = place.begin(grip, at(e), props.port.zoom.value);
  holdPointer(
    e,
    target,
    (m) => held.to(at(m), { apart: m.shiftKey, aboutMiddle: m.altKey, isFree: m.ctrlKey || m.metaKey }),
    held.end,
  );
}
</script>

<template>
  <g v-if="toView" class="fill-handles" data-test="fill-handles">
    <polygon
      :points="area"
      class="area"
      data-test="fill-move"
      @pointerdown="down($event, { does: 'move', at: [0.5, 0.5] })"
    >
      <title>Drag to move the fill; Shift along one axis; Ctrl past the lines</title>
    </polygon>
    <GripFrame :seen="toView" what="the fill" name="fill" @take="down">
      <path v-for="(d, i) in met" :key="`met${i}`" :d="d" class="met" data-test="fill-met" />
      <g v-if="lean">
        <path :d="`M${lean[0] - 9} ${lean[1] + 4}l6 -8h12l-6 8z`" class="knob" />
        <circle
          :cx="lean[0]"
          :cy="lean[1]"
          r="11"
          class="grip"
          data-test="fill-lean"
          @pointerdown="down($event, { does: 'lean', at: LEAN_AT })"
        >
          <title>Drag along the side to lean the fill</title>
        </circle>
      </g>
    </GripFrame>
  </g>
</template>

<style scoped>
.area {
  fill: transparent;
  pointer-events: all;
  cursor: move;
}
.knob {
  fill: var(--ink);
  stroke: #cfe8ff;
  stroke-width: 2;
}
.met {
  fill: none;
  stroke: var(--brass);
  stroke-width: 1.5;
}
.grip {
  fill: transparent;
  pointer-events: all;
  cursor: grab;
}
/* The picture is being moved about: nothing on it is taken. */
:global(.panning .fill-handles *) {
  pointer-events: none;
}
</style>
