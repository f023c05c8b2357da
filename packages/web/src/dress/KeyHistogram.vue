<script setup lang="ts">
/**
 * How strong the key is over the Screen on this frame, with a handle where the fill is gone and one where it is solid.
 */
import { clamp } from '@yarlop/core/clamp';
import { STRONGEST, keyHistogram } from '@yarlop/core/dress/holdout/key-histogram';
import { computed, ref } from 'vue';
import { holdPointer } from '../shared/hold-pointer';
import { pixelsOf } from '../shared/pixels';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useStill } from '../pictures/use-still';

const props = defineProps<{ colours: readonly (readonly number[])[]; gone: number; solid: number; name: string }>();
const emit = defineEmits<{ put: [part: { gone?: number; solid?: number }, final: boolean] }>();
/** Bars of the histogram. */
const BINS = 60;
/** px of its width. */
const W = 240;
/** px of its height. */
const H = 54;
const playhead = usePlayhead();
const store = useShot();
const tracks = useTracks();
const still = useStill(() => (playhead.playing ? null : playhead.frame));
const box = ref<SVGElement | null>(null);
const bars = computed(() => {
  const corners = still.value && store.chosen && tracks.corners(store.chosen, still.value.frame);
  if (!still.value || !corners) return [];
  const counts = keyHistogram(pixelsOf(still.value.bitmap), corners, props.colours, BINS);
  const most = Math.max(1, ...counts.map((c) => Math.log1p(c)));
  return counts.map((c) => (H * Math.log1p(c)) / most);
});
const place = (v: number): number => (clamp(v, 0, STRONGEST) / STRONGEST) * W;
const within = (which: 'gone' | 'solid', v: number): number =>
  Number(
    Math.min(which === 'gone' ? props.solid : STRONGEST, Math.max(which === 'solid' ? props.gone : 0, v)).toFixed(3),
  );
function drag(e: PointerEvent, which: 'gone' | 'solid'): void {
  const r = box.value!.getBoundingClientRect();
  let last = props[which];
  holdPointer(
    e,
    e.target as Element,
    (m) => emit('put', { [which]: (last = within(which, ((m.clientX - r.left) / r.width) * STRONGEST)) }, false),
    () => emit('put', { [which]: last }, true),
  );
}
function nudge(which: 'gone' | 'solid', by: number): void {
  emit('put', { [which]: within(which, props[which] + by) }, true);
}
</script>

<template>
  <div>
    <svg
      ref="box"
      :viewBox="`0 0 ${W} ${H + 8}`"
      class="histogram"
      role="img"
      aria-label="Histogram of the key's strength over the Screen"
    >
      <rect :width="W" :height="H" class="ground" />
      <rect v-for="(b, i) in bars" :key="i" :x="(i * W) / BINS" :y="H - b" :width="W / BINS" :height="b" class="bar" />
      <path :d="`M0 ${H}L${place(gone)} ${H}L${place(solid)} 0H${W}`" class="ramp" />
      <path
        v-for="which in ['gone', 'solid'] as const"
        :key="which"
        :d="`M${place(props[which])} ${H - 2}l6 9h-12z`"
        class="handle"
        tabindex="0"
        role="slider"
        :aria-label="which === 'gone' ? 'Gone below' : 'Solid above'"
        :aria-valuenow="props[which]"
        aria-valuemin="0"
        :aria-valuemax="STRONGEST"
        :data-test="`${name}-${which}`"
        @pointerdown.prevent="drag($event, which)"
        @keydown.left.stop.prevent="nudge(which, -0.01)"
        @keydown.right.stop.prevent="nudge(which, 0.01)"
      >
        <title>
          {{ which === 'gone' ? 'The fill is gone below this strength' : 'The fill is solid above this strength' }}
        </title>
      </path>
    </svg>
    <div class="says mono">
      <span>gone below {{ gone.toFixed(2) }}</span
      ><span>solid above {{ solid.toFixed(2) }}</span>
    </div>
  </div>
</template>

<style scoped>
.histogram {
  width: 100%;
  display: block;
  overflow: visible;
  touch-action: none;
}
.ground {
  fill: var(--ink);
}
.bar {
  fill: var(--text-dim);
}
.ramp {
  fill: none;
  stroke: var(--brass);
  stroke-width: 1.5;
}
.handle {
  fill: var(--brass);
  cursor: ew-resize;
}
.handle:focus-visible {
  outline: 2px solid var(--text);
}
.says {
  display: flex;
  justify-content: space-between;
  font-size: 0.75rem;
  color: var(--text-dim);
}
</style>
