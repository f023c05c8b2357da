<script setup lang="ts">
/** Whether the content is saved, which Screens show it, and steps back and forth. */
import { computed, ref } from 'vue';
import { sentence } from '../api';
import { countText } from '../shared/format';
import type { OpenContent } from './use-content';

const props = defineProps<{ open: OpenContent }>();
const problem = ref('');
const state = computed(() => props.open.state.value);
const SAID = { saved: 'Saved', saving: 'Saving ...', unsaved: 'Not saved yet', clash: 'Saved elsewhere' } as const;
const shownBy = computed(() => props.open.content.value?.shownBy ?? []);
const behind = computed(() => {
  const revision = props.open.content.value?.revision;
  return shownBy.value.filter((s) => s.revision !== revision).length;
});
const names = computed(() => shownBy.value.map((s) => `${s.name} (${s.shotName})`).join(', '));
async function show(): Promise<void> {
  problem.value = '';
  await props.open.show().catch((e: unknown) => (problem.value = sentence(e)));
}
</script>

<template>
  <div class="d-flex gap-2 align-items-center ms-auto">
    <span v-if="problem || open.problem.value" class="weak">{{ problem || open.problem.value }}</span>
    <template v-if="state === 'clash'">
      <BButton size="sm" title="Lay this one over what was saved elsewhere" @click="open.settle(true)"
        >Keep mine</BButton
      ><BButton
        size="sm"
        variant="outline-secondary"
        title="Go on with what was saved elsewhere"
        @click="open.settle(false)"
        >Take theirs</BButton
      >
    </template>
    <span class="dim" role="status" data-test="content-state">{{ SAID[state] }}</span>
    <BButton
      size="sm"
      variant="outline-secondary"
      :disabled="open.done.value.length === 0"
      :title="`Take back: ${open.done.value.at(-1)?.name ?? 'nothing'} (Ctrl+Z)`"
      aria-label="Take back"
      data-test="content-undo"
      @click="open.undo()"
      ><i class="bi bi-arrow-counterclockwise" aria-hidden="true" /></BButton
    ><BButton
      size="sm"
      variant="outline-secondary"
      :disabled="open.undone.value.length === 0"
      :title="`Do again: ${open.undone.value.at(-1)?.name ?? 'nothing'} (Ctrl+Shift+Z)`"
      aria-label="Do again"
      @click="open.redo()"
      ><i class="bi bi-arrow-clockwise" aria-hidden="true"
    /></BButton>
    <span :title="names" data-test="content-shown"
      >{{ shownBy.length > 0 ? `On ${countText(shownBy.length, 'Screen')}` : 'On no Screen yet' }}
      <span v-if="shownBy.length > 0 && behind > 0" class="dim">as it stood before</span></span
    >
    <BButton
      v-if="shownBy.length > 0"
      size="sm"
      :disabled="behind === 0 && state === 'saved'"
      title="Lets the Screens show it as it stands now; leaving this page does the same"
      data-test="content-show"
      @click="show"
      >Bring it to them</BButton
    >
  </div>
</template>
