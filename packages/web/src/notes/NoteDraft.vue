<script setup lang="ts">
/** A note that is being written: its frames, what it is about, its words, and what is drawn on the picture. */
import { computed, nextTick, onMounted, useTemplateRef } from 'vue';
import NumberField from '../shared/NumberField.vue';
import { countText } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import type { Draft } from '../stores/review';
import { useMe } from '../stores/me';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { CORNERS } from './standings';

const props = defineProps<{ draft: Draft }>();
const playhead = usePlayhead();
const review = useReview();
const me = useMe();
const store = useShot();
const view = useView();
const field = useTemplateRef<{ focus(): void }>('field');
onMounted(() => void nextTick(() => field.value?.focus()));
const first = computed(() => store.shot?.probe.firstFrame ?? 0);
const last = computed(() => playhead.count - 1);

/** The whole picture, each Screen, and each corner of the one that is chosen. */
const abouts = computed(() => {
  const screens = store.screens.map((s) => ({ value: `${s.id}`, text: s.recipe.name }));
  const s = store.screens.find((x) => x.id === props.draft.screenId);
  const corners = s ? CORNERS.map((c, i) => ({ value: `${s.id}.${i}`, text: `${s.recipe.name}, ${c}` })) : [];
  return [{ value: '', text: 'the picture' }, ...screens, ...corners];
});
const about = computed(() => {
  const { screenId, corner } = props.draft;
  if (screenId === null) return '';
  return corner === null ? `${screenId}` : `${screenId}.${corner}`;
});
function setAbout(value: string): void {
  const [screen, corner] = value.split('.');
  review.write({ screenId: screen ? Number(screen) : null, corner: corner === undefined ? null : Number(corner) });
}
const setFrom = (frame: number): void => review.write({ from: frame, to: Math.max(frame, props.draft.to) });
const setTo = (frame: number): void => review.write({ to: frame, from: Math.min(frame, props.draft.from) });
const draws = computed(() => view.tool.kind === 'draw-note');
function draw(): void {
  view.tool = draws.value ? { kind: 'select' } : { kind: 'draw-note' };
}
const isReady = computed(() => props.draft.words.trim() !== '' && review.author.trim() !== '');
async function send(): Promise<void> {
  if (!isReady.value) return;
  if (draws.value) view.tool = { kind: 'select' };
  await review.send();
}
function putAway(): void {
  if (draws.value) view.tool = { kind: 'select' };
  review.putAway();
}
</script>

<template>
  <form class="draft" data-test="note-draft" @submit.prevent="send" @keydown.ctrl.enter="send">
    <div class="pair">
      <label class="pair"
        >Frames
        <NumberField
          :model-value="draft.from + first"
          :min="first"
          :max="last + first"
          whole
          title="First frame that the note is about"
          data-test="note-from"
          @update:model-value="setFrom($event - first)"
      /></label>
      <label class="pair"
        >to
        <NumberField
          :model-value="draft.to + first"
          :min="first"
          :max="last + first"
          whole
          title="Last frame that the note is about"
          data-test="note-to"
          @update:model-value="setTo($event - first)"
      /></label>
      <BButton
        variant="outline-secondary"
        title="The note goes up to the frame that is shown, or begins there"
        data-test="note-here"
        @click="playhead.frame < draft.from ? setFrom(playhead.frame) : setTo(playhead.frame)"
        >to here</BButton
      >
    </div>
    <label class="d-block mt-1"
      >About
      <BFormSelect
        :model-value="about"
        :options="abouts"
        title="A Screen or a corner that the note is about"
        data-test="note-about"
        @update:model-value="setAbout(String($event))"
    /></label>
    <BFormTextarea
      ref="field"
      class="mt-1"
      :model-value="draft.words"
      rows="4"
      placeholder="What should change here?"
      aria-label="The note"
      title="What the note says"
      data-test="draft-words"
      @update:model-value="review.write({ words: String($event ?? '') })"
    />
    <div class="pair mt-1">
      <BButton
        variant="outline-secondary"
        :pressed="draws"
        title="Draw on the picture with the pointer; Escape ends it"
        data-test="note-draw"
        @click="draw"
        ><i class="bi bi-brush" aria-hidden="true" /> Draw</BButton
      >
      <template v-if="draft.strokes.length > 0">
        <span data-test="note-strokes">{{ countText(draft.strokes.length, 'stroke') }}</span>
        <BButton
          variant="link"
          class="p-0"
          title="Take the last stroke away"
          data-test="note-unstroke"
          @click="review.write({ strokes: draft.strokes.slice(0, -1) })"
          >take one away</BButton
        >
      </template>
    </div>
    <label v-if="!me.person" class="d-block mt-1"
      >Your name
      <BFormInput
        v-model="review.author"
        maxlength="120"
        title="Stands beside what you say; the browser remembers it"
        data-test="note-author"
    /></label>
    <p class="pair mt-2 mb-0">
      <BButton
        type="submit"
        variant="primary"
        :disabled="!isReady"
        title="Put the note on the shot, for everybody (Ctrl+Enter)"
        data-test="note-send"
        >Put on the shot</BButton
      >
      <BButton variant="link" title="Nothing of it is kept" data-test="note-put-away" @click="putAway"
        >Put away</BButton
      >
    </p>
  </form>
</template>

<style scoped>
.draft {
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 0.5rem;
  margin-bottom: 0.8rem;
}
.pair {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  flex-wrap: wrap;
  white-space: nowrap;
}
.pair .form-control {
  width: 4.5rem;
}
</style>
