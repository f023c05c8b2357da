<script setup lang="ts">
/** The frames of made-up content: where it stands, playing, and the keys of the chosen layer. */
import { useIntervalFn } from '@vueuse/core';
import type { Ease } from '@yarlop/core/dress/base/keys';
import { computed, useTemplateRef, watch } from 'vue';
import { holdPointer } from '../shared/hold-pointer';
import EaseSelect from '../shared/EaseSelect.vue';
import NumberField from '../shared/NumberField.vue';

const props = defineProps<{
  frame: number;
  length: number;
  /** frames on which the chosen layer has keys */
  keys: readonly number[];
  /** how those on the frame shown lead on; null where they differ */
  ease: Ease | null;
  playing: boolean;
}>();
const emit = defineEmits<{
  go: [frame: number];
  length: [frames: number];
  playing: [on: boolean];
  move: [from: number, to: number];
  ease: [ease: Ease];
  remove: [];
}>();
const lane = useTemplateRef<HTMLElement>('lane');
/** Pressed, it is gone to; dragged, it goes along. */
function take(e: PointerEvent, from: number): void {
  const box = lane.value!.getBoundingClientRect();
  let to = from;
  holdPointer(
    e,
    e.currentTarget as Element,
    (m) => {
      const at = Math.round(((m.clientX - box.left) / box.width) * (props.length - 1));
      to = Math.min(props.length - 1, Math.max(0, at));
      emit('go', to);
    },
    () => {
      emit('go', to);
      if (to !== from) emit('move', from, to);
    },
  );
}
/** ms a frame while it plays: 24 a second. */
const STEP = 1000 / 24;

const { pause, resume } = useIntervalFn(() => emit('go', (props.frame + 1) % props.length), STEP, { immediate: false });
watch(
  () => props.playing,
  (on) => (on ? resume() : pause()),
);
const marks = computed(() =>
  props.keys
    .filter((k) => k >= 0 && k < props.length)
    .map((k) => ({ frame: k, left: `${(100 * k) / Math.max(1, props.length - 1)}%` })),
);
</script>

<template>
  <div class="strip">
    <BButton
      variant="outline-secondary"
      :aria-pressed="playing"
      :class="{ active: playing }"
      :title="playing ? 'Pause (Space)' : 'Play round and round (Space)'"
      data-test="content-play"
      @click="emit('playing', !playing)"
      ><i class="bi" :class="playing ? 'bi-pause' : 'bi-play'" aria-hidden="true"
    /></BButton>
    <div class="track">
      <input
        type="range"
        class="form-range"
        min="0"
        :max="length - 1"
        :value="frame"
        aria-label="Frame"
        title="Frame of the content; arrows step where no layer is chosen"
        data-test="content-frame"
        @input="emit('go', Number(($event.target as HTMLInputElement).value))"
      />
      <span ref="lane" class="keys"
        ><button
          v-for="m in marks"
          :key="m.frame"
          type="button"
          class="key"
          :class="{ here: m.frame === frame }"
          :style="{ left: m.left }"
          :title="`Keys on frame ${m.frame}: press to go there, drag to move them`"
          :aria-label="`Keys on frame ${m.frame}`"
          :data-test="`content-key-${m.frame}`"
          @pointerdown="take($event, m.frame)"
          @keydown.enter="emit('go', m.frame)"
      /></span>
    </div>
    <template v-if="keys.includes(frame)">
      <EaseSelect :model-value="ease" data-test="content-ease" @update:model-value="emit('ease', $event)" />
      <BButton
        variant="outline-secondary"
        title="Delete the keys on this frame"
        aria-label="Delete the keys on this frame"
        data-test="content-key-delete"
        @click="emit('remove')"
        ><i class="bi bi-trash3" aria-hidden="true"
      /></BButton>
    </template>
    <span class="mono now" data-test="content-now">{{ frame }}</span>
    <label class="d-flex gap-1 align-items-center"
      ><span class="dim">of</span
      ><NumberField
        class="long"
        whole
        :model-value="length"
        :min="2"
        :max="20000"
        title="Frames that are shown here; it goes on beyond them as it stands"
        aria-label="Frames that are shown here"
        @update:model-value="emit('length', $event)"
    /></label>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 6px 10px;
  border-top: 1px solid var(--line);
}
.track {
  position: relative;
  flex: 1;
  padding-bottom: 10px;
}
/* The knob of a slider keeps half its width from the ends. */
.keys {
  position: absolute;
  inset: auto 8px 0;
}
.key {
  position: absolute;
  bottom: 0;
  width: 9px;
  height: 9px;
  padding: 0;
  margin-left: -4px;
  border: 1px solid var(--brass);
  border-radius: 5px 5px 1px 1px;
  background: var(--ink);
  cursor: ew-resize;
  touch-action: none;
}
.key.here {
  background: var(--brass);
}
.now {
  min-width: 3.2rem;
  text-align: right;
}
.long {
  width: 4.5rem;
}
</style>
