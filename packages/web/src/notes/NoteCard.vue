<script setup lang="ts">
/** A note: what it is about, what it says, who said it, and what has become of it. */
import { computed, ref } from 'vue';
import { agoText } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { NoteState, ReviewNote } from '../types';
import { STATES, aboutText, framesText } from './standings';

const props = defineProps<{ note: ReviewNote }>();
const playhead = usePlayhead();
const review = useReview();
const store = useShot();
const view = useView();
const first = computed(() => store.shot?.probe.firstFrame ?? 0);
const about = computed(() => aboutText(props.note, store.screens));
const isHere = computed(() => review.here.includes(props.note));
/** its words while they are changed; null as they are */
const changed = ref<string | null>(null);

/** Shows what the note is about. */
function go(): void {
  const { from, screenId, corner } = props.note;
  playhead.playing = false;
  playhead.go(from);
  if (screenId === null || store.screens.every((s) => s.id !== screenId)) return;
  store.chosenId = screenId;
  view.armed = corner;
}
async function keep(): Promise<void> {
  const words = changed.value?.trim() ?? '';
  if (words === '' || (await review.change(props.note.id, { words }))) changed.value = null;
}
</script>

<template>
  <article class="note" :class="[note.state, { here: isHere }]" :data-test="`note-${note.id}`">
    <header>
      <button type="button" class="frames mono" title="Go to what it is about" data-test="note-go" @click="go">
        {{ framesText(note, first) }}
      </button>
      <BFormSelect
        class="state"
        :model-value="note.state"
        :options="STATES"
        title="What has become of the note"
        :aria-label="`State of the note on ${framesText(note, first)}`"
        data-test="note-state"
        @update:model-value="review.change(note.id, { state: $event as NoteState })"
      />
    </header>
    <p v-if="about" class="about" data-test="note-about-told">{{ about }}</p>
    <template v-if="changed !== null">
      <BFormTextarea
        v-model="changed"
        rows="3"
        aria-label="The note"
        title="What the note says"
        data-test="note-words"
        @keydown.ctrl.enter="keep"
        @keydown.esc="changed = null"
      />
      <p class="mb-0 mt-1 acts">
        <BButton variant="outline-secondary" title="Keep the words (Ctrl+Enter)" data-test="note-keep" @click="keep"
          >Keep</BButton
        >
        <BButton variant="link" title="Leave the words as they were (Escape)" @click="changed = null">Leave</BButton>
      </p>
    </template>
    <p v-else class="words">{{ note.words }}</p>
    <footer class="dim">
      <span>{{ note.author }}, {{ agoText(note.created) }}</span>
      <span v-if="note.strokes.length > 0"><i class="bi bi-brush" aria-hidden="true" /> drawn on</span>
      <BButton
        v-if="changed === null"
        variant="link"
        class="ms-auto"
        title="Change the words"
        aria-label="Change the note"
        data-test="note-change"
        @click="changed = note.words"
        ><i class="bi bi-pencil"
      /></BButton>
      <BButton
        variant="link"
        title="Delete the note; it can be taken back at once"
        aria-label="Delete the note"
        data-test="note-delete"
        @click="review.remove(note)"
        ><i class="bi bi-trash3"
      /></BButton>
    </footer>
  </article>
</template>

<style scoped>
.note {
  border: 1px solid var(--line);
  border-left: 4px solid var(--weak);
  border-radius: 3px;
  padding: 0.4rem 0.5rem;
  margin-bottom: 0.5rem;
}
.note.done {
  border-left-color: var(--text-dim);
}
.note.approved {
  border-left-color: var(--brass);
}
.note.here {
  background: color-mix(in srgb, var(--text) 7%, transparent);
}
header,
footer,
.acts {
  display: flex;
  align-items: center;
  gap: 0.5rem;
}
.frames {
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  text-decoration: underline;
  white-space: nowrap;
}
.about {
  margin: 0.2rem 0 0;
  color: var(--text-dim);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.state {
  margin-left: auto;
  width: 7rem;
  padding-block: 0;
}
.words {
  margin: 0.3rem 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.done .words,
.approved .words {
  color: var(--text-dim);
}
footer .btn {
  padding: 0 0.25rem;
}
</style>
