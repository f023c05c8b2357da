<script setup lang="ts">
/** One number for all, or one for each side, corner or channel. */
import type { Animated } from '@yarlop/core/dress/base/keys';
import { ref } from 'vue';
import { usePlayhead } from '../stores/playhead';
import AnimatedControl from './AnimatedControl.vue';
import { controlOf } from '../edits/use-dress';

const props = defineProps<{
  what: string;
  name: string;
  names: readonly string[];
  help: string;
  min: number;
  max: number;
  step: number;
  base: number;
  list: readonly (Animated | undefined)[] | undefined;
  start: Animated | undefined;
  /** which one goes along with each while pairs are locked; no lock when left out */
  pairs?: readonly number[];
}>();
const emit = defineEmits<{ write: [list: Animated[] | undefined, final: boolean] }>();
const playhead = usePlayhead();
/** A number that is changed takes its pair along. */
const isLocked = ref(false);
const goesAlong = (i: number, k: number): boolean => k === i || (isLocked.value && props.pairs?.[i] === k);
const full = (): Animated[] => props.names.map((_, i) => props.list?.[i] ?? props.base);
const control = (i: number) =>
  controlOf(props.list?.[i] === props.base ? undefined : props.list?.[i], playhead.frame, props.base, (v, final) =>
    emit(
      'write',
      full().map((x, k) => (goesAlong(i, k) ? (v ?? props.base) : x)),
      final,
    ),
  );
</script>

<template>
  <BFormCheckbox
    class="split"
    :model-value="list !== undefined"
    :title="`${help}: one by one instead of all alike`"
    :data-test="`${name}-split`"
    @update:model-value="emit('write', $event ? names.map(() => start ?? base) : undefined, true)"
    >{{ what }}</BFormCheckbox
  >
  <template v-if="list">
    <BFormCheckbox
      v-if="pairs"
      v-model="isLocked"
      class="split"
      title="What is opposite goes along: top with bottom, left with right"
      :data-test="`${name}-pairs`"
      >opposite sides together</BFormCheckbox
    >
    <AnimatedControl
      v-for="(n, i) in names"
      :key="n"
      :name="`${name}-${i}`"
      :label="n"
      :help="`${help}: ${n}`"
      :min="min"
      :max="max"
      :step="step"
      v-bind="control(i)"
    />
  </template>
</template>

<style scoped>
.split {
  font-size: 0.8125rem;
  color: var(--text-dim);
}
</style>
