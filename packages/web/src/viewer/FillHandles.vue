<script setup lang="ts">
/** The frame of the chosen Screen's fill in its plane, and the grips by which it is moved, scaled, turned and leant. */
import type { Grip } from '@yarlop/core/dress/shape/place-by-hand';
import { SCALE_GRIPS } from '@yarlop/core/dress/shape/place-by-hand';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { multiply } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { computed } from 'vue';
import { useFillPlace } from '../edits/use-fill-place';
import { holdPointer } from '../shared/hold-pointer';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const place = useFillPlace();
type Seen = [number, number];

/** CSS px that a grip's bars are long. By eye. */
const ARM = 16;
/** CSS px by which the knob that turns stands outside the upper side. By eye. */
const OUTSIDE = 34;
/** CSS px between two opposite sides below which the grips of the sides are left out: they would lie on one another. */
const ROOM = 60;
/** Along the upper side, from its left end. */
const LEAN_AT: Point = [0.75, 0];

const toView = computed(() => {
  const here = place.here.value;
  if (!here) return null;
  const frame = multiply(here.toPicture, here.plane.frame(here.numbers));
  return (at: Point): Seen => props.port.toView(mapPoint(frame, at));
});

/** From one place of the view towards another, so many px of it. */
function towards(from: Seen, to: Seen, px: number): Seen {
  const l = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
  return [from[0] + ((to[0] - from[0]) / l) * px, from[1] + ((to[1] - from[1]) / l) * px];
}
const path = (...points: Seen[]): string => `M${points.map((p) => p.map((v) => v.toFixed(1)).join(' ')).join('L')}`;

interface Handle {
  readonly name: string;
  readonly grip: Grip;
  readonly at: Seen;
  readonly bars: string;
  readonly help: string;
}

const SIDES = 'Drag: width or height alone; Alt about the middle; Ctrl past the lines';
const CORNERS = 'Drag: width and height together; Shift apart; Alt about the middle; Ctrl past the lines';

/** A corner's angle and a side's bar lie on the frame's own lines. */
function scaleHandle(at: Point, i: number, seen: (at: Point) => Seen): Handle {
  const own = seen(at);
  const isCorner = i % 2 === 0;
  const [a, b] = [SCALE_GRIPS[(i + 7) % 8]!, SCALE_GRIPS[(i + 1) % 8]!].map(seen) as [Seen, Seen];
  const reach = isCorner ? ARM : ARM / 2;
  return {
    name: `fill-scale-${i}`,
    grip: { does: 'scale', at },
    at: own,
    bars: path(towards(own, a, reach), own, towards(own, b, reach)),
    help: isCorner ? CORNERS : SIDES,
  };
}

const shown = computed(() => {
  const seen = toView.value;
  if (!seen) return null;
  const corners = [0, 2, 4, 6].map((i) => seen(SCALE_GRIPS[i]!));
  if (!corners.flat().every(Number.isFinite)) return null;
  const [top, middle] = [seen([0.5, 0]), seen([0.5, 0.5])];
  const knob = towards(top, middle, -OUTSIDE);
  const far = (a: Point, b: Point): number => Math.hypot(seen(a)[0] - seen(b)[0], seen(a)[1] - seen(b)[1]);
  const hasRoom = [far([0, 0.5], [1, 0.5]), far([0.5, 0], [0.5, 1])];
  const scales = SCALE_GRIPS.map((at, i) => scaleHandle(at, i, seen)).filter(
    ({ grip: { at } }) => (at[0] !== 0.5 || hasRoom[0]! > ROOM) && (at[1] !== 0.5 || hasRoom[1]! > ROOM),
  );
  const lean = seen(LEAN_AT);
  return {
    outline: corners.map((p) => p.join(',')).join(' '),
    stem: path(top, knob),
    knob,
    middle,
    scales,
    lean,
    leans: place.here.value!.leans && hasRoom[0]! > 2 * ROOM,
  };
});

/** Lines that are met, across the slot and beyond. */
const met = computed(() => {
  const here = place.here.value;
  if (!here) return [];
  return place.lines.value.map(({ axis, at }) => {
    const across = here.plane.lines[axis === 0 ? 1 : 0];
    const reach = across[2]! - across[0]!;
    const ends = [across[0]! - reach / 3, across[2]! + reach / 3];
    return path(...ends.map((v) => props.port.toView(mapPoint(here.toPicture, axis === 0 ? [at, v] : [v, at]))));
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
  <g v-if="shown" class="fill-handles" data-test="fill-handles">
    <polygon
      :points="shown.outline"
      class="area"
      data-test="fill-move"
      @pointerdown="down($event, { does: 'move', at: [0.5, 0.5] })"
    >
      <title>Drag to move the fill; Shift along one axis; Ctrl past the lines</title>
    </polygon>
    <polygon :points="shown.outline" class="halo" />
    <polygon :points="shown.outline" class="frame" />
    <path :d="shown.stem" class="halo" /><path :d="shown.stem" class="frame" />
    <path :d="`M${shown.middle[0] - 6} ${shown.middle[1]}h12m-6 -6v12`" class="frame" />
    <path v-for="(d, i) in met" :key="`met${i}`" :d="d" class="met" data-test="fill-met" />
    <g v-for="s in shown.scales" :key="s.name">
      <path :d="s.bars" class="bar-halo" /><path :d="s.bars" class="bar" />
      <circle :cx="s.at[0]" :cy="s.at[1]" r="12" class="grip" :data-test="s.name" @pointerdown="down($event, s.grip)">
        <title>{{ s.help }}</title>
      </circle>
    </g>
    <g v-if="shown.leans">
      <path :d="`M${shown.lean[0] - 9} ${shown.lean[1] + 4}l6 -8h12l-6 8z`" class="knob" />
      <circle
        :cx="shown.lean[0]"
        :cy="shown.lean[1]"
        r="11"
        class="grip"
        data-test="fill-lean"
        @pointerdown="down($event, { does: 'lean', at: LEAN_AT })"
      >
        <title>Drag along the side to lean the fill</title>
      </circle>
    </g>
    <circle :cx="shown.knob[0]" :cy="shown.knob[1]" r="6" class="knob" />
    <circle
      :cx="shown.knob[0]"
      :cy="shown.knob[1]"
      r="14"
      class="grip turn"
      data-test="fill-turn"
      @pointerdown="down($event, { does: 'turn', at: [0.5, 0] })"
    >
      <title>Drag to turn the fill about its middle; Shift in steps of 15 degrees</title>
    </circle>
  </g>
</template>

<style scoped>
.area {
  fill: transparent;
  pointer-events: all;
  cursor: move;
}
.halo {
  fill: none;
}
.frame {
  fill: none;
  stroke: #cfe8ff;
  stroke-width: 1.25;
  stroke-dasharray: 9 4;
}
.bar-halo {
  fill: none;
  stroke: #000b;
  stroke-width: 7;
}
.bar {
  fill: none;
  stroke: #cfe8ff;
  stroke-width: 4;
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
