<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { computed, ref, watch } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Compare } from '../stores/view';
import { useView } from '../stores/view';
import { useStill } from '../pictures/use-still';
import { usePlayingCorners } from './use-playing-corners';
import CloseUp from './CloseUp.vue';
import NumberField from '../shared/NumberField.vue';

defineProps<{ large?: boolean }>();
const store = useShot();
const view = useView();
const playhead = usePlayhead();
const tracks = useTracks();
const playing = usePlayingCorners();
/** While it plays, the frame that was looked at last: it is seen until the playing ones are there. */
const looked = ref(playhead.frame);
const still = useStill(() => looked.value);
watch(
  () => [playhead.frame, playhead.playing] as const,
  ([frame, playing]) => !playing && (looked.value = frame),
);
/** TL, TR above BL, BR: each close-up stands where its corner does. */
const IN_PLACE = [0, 1, 3, 2];
const ZOOMS = [2, 4, 8, 16].map((value) => ({ value, text: `${value}x` }));
const COMPARES: { value: Compare; text: string }[] = [
  { value: 'now', text: 'this frame' },
  { value: 'likeness', text: 'its likeness' },
  { value: 'halves', text: 'half and half' },
  { value: 'difference', text: 'what differs' },
  { value: 'blink', text: 'blink' },
];
const here = computed(() => store.chosen && tracks.corners(store.chosen, playhead.frame));
const kept = computed(() =>
  (store.chosen?.recipe.likenesses ?? []).filter((l) => view.armed === null || l.corner === view.armed),
);
/** Remembers how the taken corner, or all of them, look on this frame. */
function remember(): void {
  const s = store.chosen;
  const q = here.value;
  const n = playhead.frame;
  if (!s || !q || n === s.recipe.referenceFrame) return;
  const which = view.armed === null ? [0, 1, 2, 3] : [view.armed];
  store.edit('Remember likeness', {
    ...s.recipe,
    likenesses: [
      ...(s.recipe.likenesses ?? []).filter((l) => l.frame !== n || !which.includes(l.corner)),
      ...which.map((corner) => ({ corner, frame: n, at: [q[corner]![0], q[corner]![1]] as [number, number] })),
    ],
  });
}
function forget(frame: number): void {
  const s = store.chosen;
  if (s)
    store.edit('Forget likeness', {
      ...s.recipe,
      likenesses: (s.recipe.likenesses ?? []).filter(
        (l) => l.frame !== frame || (view.armed !== null && l.corner !== view.armed),
      ),
    });
}
provideCommand(
  'remember-likeness',
  remember,
  () => !!here.value && playhead.frame !== store.chosen?.recipe.referenceFrame,
);
</script>

<template>
  <div class="corner-board" :class="{ large }" data-test="corner-board">
    <div class="board"><CloseUp v-for="i in IN_PLACE" :key="i" :still="playing?.[i] ?? still" :corner="i" /></div>
    <div class="controls">
      <div class="d-flex gap-1 align-items-center" role="group" aria-label="Corners and their magnification">
        <BButton
          v-for="(n, i) in CORNER_NAMES"
          :key="n"
          variant="outline-secondary"
          class="flex-fill"
          :class="{ active: view.armed === i }"
          :aria-pressed="view.armed === i"
          :title="`Take corner ${n} (${i + 1})`"
          :data-test="`arm-${n}`"
          @click="view.armed = view.armed === i ? null : i"
          >{{ n }}</BButton
        >
        <BFormSelect
          v-model="view.closeUp"
          class="zoom mono"
          aria-label="Magnification of the close-ups"
          title="How many screen pixels a pixel of the plate takes in the close-ups"
          data-test="close-up-zoom"
          :options="ZOOMS"
        />
      </div>
      <div class="d-flex gap-1 mt-1 align-items-center">
        <BFormSelect
          v-model="view.compare"
          class="flex-fill"
          aria-label="What the close-ups show"
          title="Compare each corner with what it looked like where it was right (Q goes through them)"
          data-test="compare"
          :options="COMPARES"
        />
        <NumberField
          v-if="view.compare === 'blink'"
          v-model="view.blinkRate"
          class="rate"
          :min="0.5"
          :max="12"
          :step="0.5"
          aria-label="Blinks a second"
          title="Blinks a second"
        />
        <BButton
          variant="outline-secondary"
          :disabled="!isReady('remember-likeness')"
          :title="sentenceOf('remember-likeness')"
          data-test="remember-likeness"
          @click="perform('remember-likeness')"
          ><i class="bi bi-bookmark-plus" aria-hidden="true" /><span class="visually-hidden"
            >Remember this look</span
          ></BButton
        >
        <BButton
          variant="outline-secondary"
          :pressed="view.boardLarge"
          :title="sentenceOf('corner-board')"
          data-test="board-large"
          @click="view.boardLarge = !view.boardLarge"
          ><i
            class="bi"
            :class="large ? 'bi-box-arrow-in-down-right' : 'bi-box-arrow-up-left'"
            aria-hidden="true"
          /><span class="visually-hidden">Board and picture change places</span></BButton
        >
      </div>
      <p v-if="kept.length" class="mt-1 mb-0 dim">
        Remembered:
        <span v-for="f in [...new Set(kept.map((l) => l.frame))]" :key="f" class="chip mono"
          ><button type="button" title="Go to the frame whose look is remembered" @click="playhead.go(f)">
            {{ f }}</button
          ><button
            type="button"
            :aria-label="`Forget the likeness of frame ${f}`"
            title="Forget this look"
            @click="forget(f)"
          >
            ×
          </button></span
        >
      </p>
    </div>
  </div>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 3px;
}
.controls {
  margin-top: 0.4rem;
}
.zoom {
  width: 4.6rem;
}
.rate {
  width: 3.9rem;
}
.large {
  display: grid;
  grid-template-columns: auto 15rem;
  gap: 12px;
  height: 100%;
  padding: 42px 12px 8px;
  justify-content: center;
}
.large .board {
  height: 100%;
  aspect-ratio: 1;
  max-width: 100%;
  min-width: 0;
}
.large .controls {
  align-self: end;
}
.chip {
  border: 1px solid var(--line);
  border-radius: 3px;
  margin-right: 3px;
}
.chip button {
  background: none;
  border: 0;
  color: inherit;
  padding: 0 0.3rem;
}
</style>
