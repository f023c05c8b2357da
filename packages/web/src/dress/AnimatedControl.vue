<script setup lang="ts">
/** One number of a dress: a slider and a field, a key on this frame, and back to how it was. */
import { clamp } from '@yarlop/core/clamp';
import IconButton from '../shared/IconButton.vue';

const props = defineProps<{
  label: string;
  help: string;
  min: number;
  max: number;
  step: number;
  value: number;
  base: number;
  keyed: boolean;
  animated: boolean;
  changed: boolean;
  name: string;
}>();
const emit = defineEmits<{ put: [value: number, final: boolean]; key: []; plain: [] }>();
const number = (e: Event): number => Number((e.target as HTMLInputElement).value);
function typed(e: Event): void {
  const v = Number((e.target as HTMLInputElement).value.replace(',', '.'));
  const safe = Number.isFinite(v) ? clamp(v, props.min, props.max) : props.value;
  // What was typed beyond the limits stands at the limit at once.
  (e.target as HTMLInputElement).value = safe.toFixed(digits(props.step));
  if (safe !== props.value) emit('put', safe, true);
}
/** Decimals that a step of a control wants. */
function digits(step: number): number {
  if (step < 0.01) return 3;
  if (step < 0.1) return 2;
  return step < 1 ? 1 : 0;
}
</script>

<template>
  <div class="control" :class="{ changed }">
    <span class="label" :title="help">{{ label }}</span>
    <input
      type="range"
      class="form-range"
      :min="min"
      :max="max"
      :step="step"
      :value="value"
      :aria-label="label"
      :title="help"
      :data-test="name"
      @input="emit('put', number($event), false)"
      @change="emit('put', number($event), true)"
    />
    <input
      type="text"
      inputmode="decimal"
      class="form-control mono"
      :value="value.toFixed(digits(step))"
      :aria-label="`${label}, typed`"
      :title="help"
      :data-test="`${name}-typed`"
      data-beside
      @change="typed"
    />
    <IconButton
      :icon="keyed ? 'droplet-fill' : 'droplet'"
      :class="{ on: keyed, some: animated && !keyed }"
      :aria-pressed="keyed"
      :label="`Key of ${label} on this frame`"
      :title="
        keyed
          ? 'Take the key on this frame away'
          : animated
            ? 'Set a key on this frame'
            : 'Let it change over the shot: set a key on this frame'
      "
      :data-test="`${name}-key`"
      data-beside
      @click="emit('key')"
    />
    <IconButton
      icon="arrow-counterclockwise"
      :disabled="!changed"
      :label="`${label} as it was`"
      title="Back to where nothing is done"
      data-beside
      @click="emit('plain')"
    />
  </div>
</template>

<style scoped>
.control {
  display: grid;
  grid-template-columns: 5.4rem 1fr 3.6rem 1.1rem 1.1rem;
  gap: 4px;
  align-items: center;
  font-size: 0.8125rem;
}
.label {
  color: var(--text-dim);
}
.changed .label {
  color: var(--text);
}
.form-control {
  padding: 0 0.3rem;
  height: 1.4rem;
  text-align: right;
  font-size: 0.75rem;
}
.icon.on,
.icon.some {
  color: var(--brass);
}
</style>
