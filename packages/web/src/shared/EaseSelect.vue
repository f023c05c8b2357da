<script setup lang="ts">
/** How keys lead on to the next ones. */
import type { Ease } from '@yarlop/core/dress/base/keys';

defineProps<{
  /** null where keys differ */
  modelValue: Ease | null;
}>();
const emit = defineEmits<{ 'update:modelValue': [ease: Ease] }>();
const EASES: { value: Ease; text: string }[] = [
  { value: 'linear', text: 'even' },
  { value: 'eased', text: 'smooth' },
  { value: 'hold', text: 'held' },
];
</script>

<template>
  <BFormSelect
    size="sm"
    class="ease"
    :model-value="modelValue"
    :options="EASES"
    aria-label="How the keys lead on to the next"
    title="How the keys lead on to the next: evenly, smoothly in and out, or held until it is there"
    @update:model-value="emit('update:modelValue', $event as Ease)"
  />
</template>

<style scoped>
.ease {
  width: 6rem;
}
</style>
