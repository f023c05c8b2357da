<script setup lang="ts">
/** What is done with the keys that are taken: how they lead on, copied to the frame shown, deleted. */
import { pathId } from '@yarlop/core/dress/base/key-edit';
import type { Ease } from '@yarlop/core/dress/base/keys';
import { computed } from 'vue';
import EaseSelect from '../shared/EaseSelect.vue';
import { useKeyEdit } from '../edits/use-key-edit';
import { useKeyLane } from '../stores/key-lane';

const lane = useKeyLane();
const edit = useKeyEdit();
const ease = computed((): Ease => {
  const [first] = lane.taken;
  if (!first) return 'linear';
  const track = lane.tracks.find((t) => pathId(t.path) === pathId(first.path));
  return track?.keys.find((k) => k.frame === first.frame)?.ease ?? 'linear';
});
</script>

<template>
  <div v-if="lane.taken.length > 0" class="tools" data-test="key-tools">
    <span class="dim">{{ lane.taken.length === 1 ? 'one key' : `${lane.taken.length} keys` }}</span>
    <EaseSelect :model-value="ease" data-test="key-ease" @update:model-value="edit.ease" />
    <BButton
      variant="outline-secondary"
      title="Copy the keys so that the first of them lies on the frame shown"
      data-test="key-copy"
      @click="edit.copyHere"
      ><i class="bi bi-copy" aria-hidden="true" /><span class="visually-hidden">Copy here</span></BButton
    >
    <BButton variant="outline-secondary" title="Delete the keys" data-test="key-delete" @click="edit.remove"
      ><i class="bi bi-trash" aria-hidden="true" /><span class="visually-hidden">Delete keys</span></BButton
    >
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  font-size: 0.75rem;
}
</style>
