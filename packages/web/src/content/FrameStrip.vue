<script setup lang="ts">
/** The frames of made-up content: where it stands, playing, and the keys of the chosen layer. */
import { useIntervalFn } from '@vueuse/core';
import { computed, watch } from 'vue';
import NumberField from '../shared/NumberField.vue';

const props = defineProps<{ frame: number; length: number; keys: readonly number[]; playing: boolean }>();
const emit = defineEmits<{ go: [frame: number]; length: [frames: number]; playing: [on: boolean] }>();
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
      <span class="keys"
        ><button
          v-for="m in marks"
          :key="m.frame"
          type="button"
          class="key"
          :class="{ here: m.frame === frame }"
          :style="{ left: m.left }"
          :title="`Keys on frame ${m.frame}: go there`"
          :aria-label="`Keys on frame ${m.frame}`"
          :data-test="`content-key-${m.frame}`"
          @click="emit('go', m.frame)"
      /></span>
    </div>
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
