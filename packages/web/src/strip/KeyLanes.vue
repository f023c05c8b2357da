<script setup lang="ts">
/** Keys of the dress over the strip's axis: all of them on a line, and one value with its curve. */
import { pathId } from '@yarlop/core/dress/base/key-edit';
import type { Key } from '@yarlop/core/dress/base/keys';
import { valueAt } from '@yarlop/core/dress/base/keys';
import { computed } from 'vue';
import { keyLabel } from '../dress/key-label';
import { useKeyEdit } from '../edits/use-key-edit';
import { holdPointer } from '../shared/hold-pointer';
import { useKeyLane } from '../stores/key-lane';
import { usePlayhead } from '../stores/playhead';
import { CURVE_HEIGHT } from './key-lane-size';

/** `middle`: px of a frame's middle; `per`: frames a px. */
const props = defineProps<{ middle: (frame: number) => number; per: number }>();
const playhead = usePlayhead();
const lane = useKeyLane();
const edit = useKeyEdit();
/** px left free above and below the curve. */
const MARGIN = 8;
/** px by which a key has to go up or down before its value goes along: a drag to another frame keeps it. */
const STIFF = 4;
/** px that the curve is sampled by. */
const STEP = 3;
/** Parts of the curve's height that a key goes up or down by a press. */
const STEPS = 20;

const frames = computed(() =>
  [...new Set(lane.tracks.flatMap((t) => t.keys.map((k) => k.frame)))].sort((a, b) => a - b),
);
/** Keys of the value that is shown, where it is a number. */
const curve = computed(() => {
  const { shown } = lane;
  if (!shown || shown.keys.some((k) => k.value === undefined)) return null;
  const keys = shown.keys as readonly Key[];
  const values = keys.map((k) => k.value);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  // A value that stands still lies in the middle.
  const span = high - low || Math.max(1e-3, Math.abs(high));
  const bottom = high === low ? low - span / 2 : low;
  const room = CURVE_HEIGHT - 2 * MARGIN;
  const y = (v: number): number => MARGIN + room * (1 - (v - bottom) / span);
  const wide = props.middle(playhead.count - 1) + props.middle(0);
  const points: string[] = [];
  for (let px = 0; px <= wide; px += STEP) points.push(`${px},${y(valueAt(keys, px * props.per - 0.5, 0)).toFixed(1)}`);
  return { path: shown.path, keys, line: points.join(' '), y, perPx: span / room };
});

/** Takes a key, or with Shift one more; a key that is taken already stays so. */
function take(keys: typeof lane.taken, isMore: boolean): void {
  if (keys.every((k) => lane.isTaken(k.path, k.frame))) return;
  if (keys.length === 1) lane.asked = pathId(keys[0]!.path);
  lane.taken = isMore ? [...lane.taken, ...keys] : keys;
}

function down(e: PointerEvent, frame: number, key: Key | null): void {
  if (e.button !== 0) return;
  const { path = [], perPx = 0 } = curve.value ?? {};
  take(key ? [{ path, frame }] : lane.keysOn(frame), e.shiftKey);
  const held = edit.begin();
  const isAlone = lane.taken.length === 1 && key !== null;
  let isMoved = false;
  holdPointer(
    e,
    e.currentTarget as Element,
    (m) => {
      const [dx, dy] = [m.clientX - e.clientX, m.clientY - e.clientY];
      isMoved ||= Math.abs(dx) > 2 || Math.abs(dy) > STIFF;
      const rises = isAlone && Math.abs(dy) > STIFF;
      if (isMoved) held.to(Math.round(dx * props.per), rises ? Number((key.value - dy * perPx).toFixed(4)) : null);
    },
    () => {
      held.end();
      if (!isMoved) playhead.go(frame);
    },
  );
}

/** Delete removes what is taken; Alt with arrows moves it by a frame, or the one value up and down; Enter goes there. */
function press(e: KeyboardEvent, frame: number, key: Key | null): void {
  const rise = e.key === 'ArrowUp' ? 1 : -1;
  const work: Record<string, (() => void) | undefined> = {
    Delete: () => edit.remove(),
    Enter: () => playhead.go(frame),
    ArrowLeft: e.altKey ? () => edit.move(-1) : undefined,
    ArrowRight: e.altKey ? () => edit.move(1) : undefined,
  };
  if (key && curve.value && e.altKey && e.key.startsWith('Arrow') && !work[e.key]) {
    const step = ((CURVE_HEIGHT - 2 * MARGIN) * curve.value.perPx) / STEPS;
    work[e.key] = () => edit.setValue(Number((key.value + rise * step).toFixed(4)));
  }
  const chosen = work[e.key];
  if (!chosen) return;
  e.preventDefault();
  e.stopPropagation();
  take(key ? [{ path: curve.value!.path, frame }] : lane.keysOn(frame), false);
  chosen();
}
const isWhole = (frame: number): boolean => lane.keysOn(frame).every((k) => lane.isTaken(k.path, k.frame));
</script>

<template>
  <!-- By their order, so that a key that is moved keeps the keyboard. -->
  <div class="row-lane" data-test="dress-keys">
    <button
      v-for="(f, i) in frames"
      :key="i"
      type="button"
      class="dress-key"
      :class="{ taken: isWhole(f) }"
      :style="{ left: `${middle(f)}px` }"
      :title="`Keys of ${lane
        .keysOn(f)
        .map((k) => keyLabel(k.path))
        .join(', ')} on frame ${f}: click to go there, drag to another frame, Delete`"
      :aria-label="`Keys of the dress on frame ${f}`"
      :data-test="`keys-${f}`"
      @pointerdown="down($event, f, null)"
      @keydown="press($event, f, null)"
    />
  </div>
  <svg
    v-if="curve"
    class="curve"
    :height="CURVE_HEIGHT"
    role="group"
    :aria-label="keyLabel(curve.path)"
    data-test="key-curve"
  >
    <polyline :points="curve.line" class="line" />
    <g
      v-for="(k, i) in curve.keys"
      :key="i"
      :transform="`translate(${middle(k.frame)} ${curve.y(k.value)})`"
      class="key"
      :class="{ taken: lane.isTaken(curve.path, k.frame) }"
      tabindex="0"
      role="button"
      :aria-label="`Key on frame ${k.frame}: ${k.value}`"
      :data-test="`key-${k.frame}`"
      @pointerdown="down($event, k.frame, k)"
      @keydown="press($event, k.frame, k)"
    >
      <title>
        {{
          `${k.value} on frame ${k.frame}: drag to another frame, up and down for its value; Shift takes more; Delete`
        }}
      </title>
      <circle r="10" class="grip" />
      <path d="M0 -5.5C4 -1 4 4.5 0 4.5C-4 4.5 -4 -1 0 -5.5Z" />
    </g>
  </svg>
  <div
    v-else-if="lane.shown"
    class="curve dim shape"
    :style="{ height: `${CURVE_HEIGHT}px` }"
    :data-path="pathId(lane.shown.path)"
  >
    a shape, with keys on frames {{ lane.shown.keys.map((k) => k.frame).join(', ') }}
  </div>
</template>

<style scoped>
.row-lane {
  display: block;
  position: relative;
  width: 100%;
  height: 18px;
  border-top: 1px solid var(--line);
  overflow: visible;
}
.dress-key {
  position: absolute;
  top: 4px;
  width: 10px;
  height: 10px;
  margin-left: -5px;
  padding: 0;
  border: 1px solid var(--ink);
  border-radius: 50% 50% 50% 0;
  background: var(--text-dim);
  cursor: ew-resize;
  touch-action: none;
}
.dress-key.taken {
  background: var(--brass);
}
.curve {
  display: block;
  width: 100%;
  border-top: 1px solid var(--line);
  overflow: visible;
}
.shape {
  padding-top: 16px;
  font-size: 0.75rem;
}
.line {
  fill: none;
  stroke: var(--text-dim);
  stroke-width: 1.25;
}
.key {
  cursor: move;
  touch-action: none;
}
.key path {
  fill: var(--ink);
  stroke: var(--text);
  stroke-width: 1.5;
}
.key.taken path {
  fill: var(--brass);
  stroke: var(--brass);
}
.grip {
  fill: transparent;
}
</style>
