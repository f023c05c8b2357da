<script setup lang="ts">
/** The notes on the shot, in the place of a stage's bench: how the shot stands, the note being written, those there are. */
import { computed, ref } from 'vue';
import { sentenceOf } from '../commands/catalogue';
import { perform } from '../commands/use-commands';
import { countText } from '../shared/format';
import { useReview } from '../stores/review';
import type { Standing } from '../types';
import NoteCard from './NoteCard.vue';
import NoteDraft from './NoteDraft.vue';
import { STANDINGS } from './standings';

const review = useReview();
const all = ref(false);
const shown = computed(() => (all.value ? review.notes : review.notes.filter((n) => n.state === 'open')));
const others = computed(() => review.notes.length - review.open);
</script>

<template>
  <div data-test="notes">
    <header class="head">
      <h2>Notes</h2>
      <BButton
        class="ms-auto"
        variant="outline-secondary"
        :title="sentenceOf('notes')"
        aria-label="Back to the bench"
        data-test="notes-close"
        @click="perform('notes')"
        ><i class="bi bi-x-lg" aria-hidden="true" /> Close</BButton
      >
    </header>
    <label class="d-block mb-2"
      >The shot is
      <BFormSelect
        :model-value="review.standing"
        :options="STANDINGS"
        title="Told on the shot board and in the report"
        data-test="standing"
        @update:model-value="review.stand($event as Standing)"
    /></label>
    <p v-if="review.problem" class="weak" role="alert">{{ review.problem }}</p>
    <NoteDraft v-if="review.draft" :draft="review.draft" />
    <BButton
      v-else
      class="mb-2"
      variant="outline-secondary"
      :title="sentenceOf('new-note')"
      data-test="note-new"
      @click="perform('new-note')"
      ><i class="bi bi-plus-lg" aria-hidden="true" /> Note on this frame</BButton
    >
    <p v-if="review.deleted" class="mb-2" role="status">
      The note is deleted.
      <BButton variant="link" class="p-0" title="Put it back" data-test="note-take-back" @click="review.takeBack()"
        >Take back</BButton
      >
    </p>
    <BFormCheckbox v-if="others > 0" v-model="all" class="mb-2" data-test="notes-all"
      >Show {{ countText(others, 'note') }} that {{ others === 1 ? 'is' : 'are' }} done or approved</BFormCheckbox
    >
    <p v-if="review.notes.length === 0" class="dim">
      Nothing was said of this shot yet. A note stands on a frame or on several, may be about a Screen or a corner, and
      may be drawn on the picture.
    </p>
    <p v-else-if="shown.length === 0" class="dim">No note is open.</p>
    <NoteCard v-for="n in shown" :key="n.id" :note="n" />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  margin-bottom: 0.5rem;
}
.head h2 {
  margin: 0;
}
</style>
