<script setup lang="ts">
/** A flicker of the display's own, made up: how deep, how often, and which of many. */
import type { Animated } from '@yarlop/core/dress/base/keys';
import { computed } from 'vue';
import { controlOf, useDress } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';
import { usePlayhead } from '../stores/playhead';
import AnimatedControl from './AnimatedControl.vue';

const { dress, put } = useDress();
const playhead = usePlayhead();
/** As it begins. */
const USUAL = { depth: 0, rate: 12, seed: 1 } as const;
const flicker = computed(() => dress.value.levels?.flicker);

function write(part: { depth?: Animated; rate?: number; seed?: number } | undefined, final = true): void {
  const next = part && { ...USUAL, ...flicker.value, ...part };
  put('Set own flicker', 'levels', { ...dress.value.levels, flicker: next }, final);
}
const depth = computed(() =>
  controlOf(flicker.value?.depth, playhead.frame, 0, (v, final) =>
    write(v === undefined ? undefined : { depth: v }, final),
  ),
);
</script>

<template>
  <AnimatedControl
    name="flicker-depth"
    label="Own flicker"
    help="How much the display's own light goes up and down, share of it"
    :min="0"
    :max="0.5"
    :step="0.005"
    v-bind="depth"
  />
  <div v-if="flicker" class="d-flex gap-1 align-items-center dim numbers">
    <NumberField
      :min="0"
      :max="200"
      :model-value="flicker.rate"
      aria-label="Changes of the flicker a second"
      title="How often its light changes, times a second"
      data-test="flicker-rate"
      @update:model-value="write({ rate: $event })"
    />
    a second, no.
    <NumberField
      whole
      :min="0"
      :max="1000000"
      :model-value="flicker.seed"
      aria-label="Which flicker"
      title="Another number is another flicker"
      data-test="flicker-seed"
      @update:model-value="write({ seed: $event })"
    />
  </div>
</template>

<style scoped>
.numbers {
  font-size: 0.8125rem;
  padding-left: 5.6rem;
}
.numbers .form-control {
  width: 3.6rem;
  padding: 0 0.3rem;
  height: 1.4rem;
}
</style>
