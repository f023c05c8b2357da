<script setup lang="ts">
/** What was deleted last, and the way back. */
import { useBin } from './use-bin';

const emit = defineEmits<{ back: [] }>();
const bin = useBin();
async function back(): Promise<void> {
  if (bin.last.value && (await bin.takeOut(bin.last.value))) emit('back');
}
</script>

<template>
  <p v-if="bin.problem.value" class="undo-note weak" role="alert">{{ bin.problem.value }}</p>
  <p v-else-if="bin.last.value" class="undo-note" role="status" data-test="undo-delete">
    <span>"{{ bin.last.value.name }}" lies in the bin.</span>
    <BButton variant="link" class="p-0" data-test="take-back" @click="back">Take it back</BButton>
    <RouterLink to="/space">Space and bin</RouterLink>
    <button type="button" class="btn-close ms-auto" aria-label="Close this note" @click="bin.last.value = null" />
  </p>
</template>

<style scoped>
.weak {
  color: var(--weak);
}
</style>
