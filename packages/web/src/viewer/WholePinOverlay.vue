<script setup lang="ts">
/** Handles of a pin that is taken as a whole: its middle moves it, the knob beside its right side turns and scales it. */
import { computed } from 'vue';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { middleOf, shiftedPin, turnedPin } from '@yarlop/core/pin/whole-pin';
import { usePinEdit } from '../edits/use-pin-edit';
import { holdPointer } from '../shared/hold-pointer';
import { useView } from '../stores/view';
import type { Screen } from '../types';
import type { useViewport } from './use-viewport';

const props = defineProps<{ screen: Screen; quad: Quad; port: ReturnType<typeof useViewport>; frame: number }>();
const view = useView();
const edit = usePinEdit();
/** px of the view by which the knob stands outside the right side. By eye. */
const OUTSIDE = 30;
const middle = computed(() => props.port.toView(middleOf(props.quad)));
const side = computed((): [number, number] => {
  const [, a, b] = props.quad;
  return props.port.toView([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
});
const knob = computed((): [number, number] => {
  const [mx, my] = middle.value;
  const [sx, sy] = side.value;
  const length = Math.hypot(sx - mx, sy - my) || 1;
  return [sx + ((sx - mx) / length) * OUTSIDE, sy + ((sy - my) / length) * OUTSIDE];
});

/** @param handle px of the view that the pointer took */
function drag(
  e: PointerEvent,
  name: string,
  handle: readonly [number, number],
  moved: (from: Point, to: Point) => Quad,
): void {
  if (e.button !== 0 || view.tool.kind !== 'select') return;
  e.stopPropagation();
  const begin = [e.clientX, e.clientY] as const;
  const from = props.port.toPlate(...handle);
  const held = edit.beginWhole(props.screen, props.frame, name, (to) => moved(from, to));
  holdPointer(
    e,
    e.target as Element,
    (m) => held.to(props.port.toPlate(handle[0] + m.clientX - begin[0], handle[1] + m.clientY - begin[1])),
    held.end,
  );
}
function move(e: PointerEvent): void {
  const { quad } = props;
  drag(e, 'Move the pin', middle.value, (from, to) => shiftedPin(quad, [to[0] - from[0], to[1] - from[1]]));
}
function turn(e: PointerEvent): void {
  const { quad } = props;
  drag(e, 'Turn and scale the pin', knob.value, (from, to) => turnedPin(quad, from, to));
}
</script>

<template>
  <g data-test="whole-pin-handles">
    <path :d="`M${side[0]} ${side[1]}L${knob[0]} ${knob[1]}`" class="halo" />
    <path :d="`M${side[0]} ${side[1]}L${knob[0]} ${knob[1]}`" class="stem" />
    <path :d="`M${middle[0] - 9} ${middle[1]}h18m-9 -9v18`" class="halo" />
    <path :d="`M${middle[0] - 9} ${middle[1]}h18m-9 -9v18`" class="stem" />
    <circle :cx="middle[0]" :cy="middle[1]" r="16" class="grip move" data-test="whole-pin-move" @pointerdown="move">
      <title>Drag to move the whole pin</title>
    </circle>
    <circle :cx="knob[0]" :cy="knob[1]" r="6" class="knob" />
    <circle :cx="knob[0]" :cy="knob[1]" r="14" class="grip turn" data-test="whole-pin-turn" @pointerdown="turn">
      <title>Drag to turn and scale the whole pin about its middle</title>
    </circle>
  </g>
</template>

<style scoped>
.halo {
  stroke-width: 4.5;
}
.stem {
  fill: none;
  stroke: #fff6dd;
  stroke-width: 2;
}
.knob {
  fill: var(--ink);
  stroke: #fff6dd;
  stroke-width: 2;
}
.grip {
  fill: transparent;
  pointer-events: all;
}
.move {
  cursor: move;
}
.turn {
  cursor: grab;
}
</style>
