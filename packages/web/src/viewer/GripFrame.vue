<script setup lang="ts">
/**
 * A frame on the picture that is taken hold of: eight grips that scale, a knob that turns. What lies in the plane's
 * perspective looks so.
 */
import type { Grip } from '@yarlop/core/dress/shape/place-by-hand';
import { SCALE_GRIPS } from '@yarlop/core/dress/shape/place-by-hand';
import type { Point } from '@yarlop/core/geometry/point';
import { computed } from 'vue';

type Seen = [number, number];
const props = defineProps<{
  /** where a place of the frame (shares of its width and height) is seen, CSS px of the view */
  seen: (at: Point) => Seen;
  /** what is in it, as it is called */
  what: string;
  /** begins the names by which tests find its parts */
  name: string;
}>();
const emit = defineEmits<{ take: [e: PointerEvent, grip: Grip] }>();

/** CSS px that a grip's bars are long. By eye. */
const ARM = 16;
/** CSS px by which the knob that turns stands outside the upper side. By eye. */
const OUTSIDE = 34;
/** CSS px between two opposite sides below which the grips of the sides are left out: they would lie on one another. */
const ROOM = 60;

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

const SIDES = 'Drag: width or height alone; Alt about the middle';
const CORNERS = 'Drag: width and height together; Shift apart; Alt about the middle';

/** A corner's angle and a side's bar lie on the frame's own lines. */
function scaleHandle(at: Point, i: number): Handle {
  const own = props.seen(at);
  const isCorner = i % 2 === 0;
  const [a, b] = [SCALE_GRIPS[(i + 7) % 8]!, SCALE_GRIPS[(i + 1) % 8]!].map(props.seen) as [Seen, Seen];
  const reach = isCorner ? ARM : ARM / 2;
  return {
    name: `${props.name}-scale-${i}`,
    grip: { does: 'scale', at },
    at: own,
    bars: path(towards(own, a, reach), own, towards(own, b, reach)),
    help: isCorner ? CORNERS : SIDES,
  };
}

const shown = computed(() => {
  const { seen } = props;
  const corners = [0, 2, 4, 6].map((i) => seen(SCALE_GRIPS[i]!));
  if (!corners.flat().every(Number.isFinite)) return null;
  const [top, middle] = [seen([0.5, 0]), seen([0.5, 0.5])];
  const far = (a: Point, b: Point): number => Math.hypot(seen(a)[0] - seen(b)[0], seen(a)[1] - seen(b)[1]);
  const hasRoom = [far([0, 0.5], [1, 0.5]), far([0.5, 0], [0.5, 1])];
  const knob = towards(top, middle, -OUTSIDE);
  return {
    outline: corners.map((p) => p.join(',')).join(' '),
    stem: path(top, knob),
    knob,
    middle,
    scales: SCALE_GRIPS.map(scaleHandle).filter(
      ({ grip: { at } }) => (at[0] !== 0.5 || hasRoom[0]! > ROOM) && (at[1] !== 0.5 || hasRoom[1]! > ROOM),
    ),
  };
});
</script>

<template>
  <g v-if="shown" class="grip-frame">
    <polygon :points="shown.outline" class="frame" />
    <path :d="shown.stem" class="frame" />
    <path :d="`M${shown.middle[0] - 6} ${shown.middle[1]}h12m-6 -6v12`" class="frame" />
    <slot />
    <g v-for="s in shown.scales" :key="s.name">
      <path :d="s.bars" class="bar-halo" /><path :d="s.bars" class="bar" />
      <circle
        :cx="s.at[0]"
        :cy="s.at[1]"
        r="12"
        class="grip"
        :data-test="s.name"
        @pointerdown="emit('take', $event, s.grip)"
      >
        <title>{{ s.help }}</title>
      </circle>
    </g>
    <circle :cx="shown.knob[0]" :cy="shown.knob[1]" r="6" class="knob" />
    <circle
      :cx="shown.knob[0]"
      :cy="shown.knob[1]"
      r="14"
      class="grip"
      :data-test="`${name}-turn`"
      @pointerdown="emit('take', $event, { does: 'turn', at: [0.5, 0] })"
    >
      <title>Drag to turn {{ what }} about its middle; Shift in steps of 15 degrees</title>
    </circle>
  </g>
</template>

<style scoped>
.frame {
  fill: none;
  stroke: #cfe8ff;
  stroke-width: 1.25;
  stroke-dasharray: 9 4;
  /* What lies under it is pressed. */
  pointer-events: none;
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
.grip {
  fill: transparent;
  pointer-events: all;
  cursor: grab;
}
/* The picture is being moved about: nothing on it is taken. */
:global(.panning .grip-frame *) {
  pointer-events: none;
}
</style>
