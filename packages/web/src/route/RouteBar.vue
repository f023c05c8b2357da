<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform } from '../commands/use-commands';
import { computed } from 'vue';
import type { Stage } from '../stages';
import { STAGES } from '../stages';
import { steady } from '../shared/steady';
import { useLive } from '../stores/live';
import { useProofs } from '../stores/proofs';
import type { Job } from '../types';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';

defineProps<{ stage: Stage }>();
const JOBS = {
  ingest: 'Reading in',
  follow: 'Following',
  deliver: 'Delivering',
  prove: 'Measuring slip',
  camera: 'Solving the camera',
} as const;
const store = useShot();
const review = useReview();
const tracks = useTracks();
const live = useLive();
const proofs = useProofs();
const NAMES: Record<Stage, string> = {
  plate: 'Plate',
  follow: 'Follow',
  pin: 'Pin',
  prove: 'Prove',
  dress: 'Dress',
  'hand-over': 'Hand over',
};

type Mark = 'untouched' | 'in work' | 'holds' | 'outdated' | 'in trouble';
const marks = steady((): Record<Stage, Mark> => {
  const shot = store.shot;
  const all = store.proper;
  const states = all.map((s) => tracks.tracks.get(s.id));
  const solved = states.some((t) => t && t.frames.size > 1);
  const outdated = states.some((t) => t?.outdated);
  const halted = states.some((t) => t && t.halted.length > 0);
  const words = all.map((s) => proofs.verdict(s).word);
  let plate: Mark = 'in work';
  if (shot?.mediaState === 'ready') plate = 'holds';
  else if (shot?.mediaState === 'failed') plate = 'in trouble';
  let proof: Mark = 'holds';
  if (words.includes('not usable')) proof = 'in trouble';
  else if (words.includes('look again')) proof = 'in work';
  /** the mark of a stage that was worked in and rests on the track */
  const unlessOutdated = (mark: Mark): Mark => (outdated ? 'outdated' : mark);
  const begun: Mark = all.length > 0 ? 'in work' : 'untouched';
  return {
    plate,
    follow: solved ? unlessOutdated(halted ? 'in trouble' : 'holds') : begun,
    pin: all.length > 0 ? unlessOutdated('holds') : 'untouched',
    prove: solved ? unlessOutdated(proof) : 'untouched',
    dress: all.some((s) => s.recipe.fill) ? unlessOutdated('in work') : 'untouched',
    'hand-over': 'untouched',
  };
});
const saved = computed(
  () =>
    ({
      saved: 'Saved',
      saving: 'Saving ...',
      unsaved: 'Not saved yet, trying again',
      clash: 'Saved elsewhere too',
      refused: 'Not saved',
    })[store.state],
);
const own = computed(() =>
  live.running.filter((j) => j.shotId === store.shot?.id || j.mediaHash === store.shot?.mediaHash),
);
const waits = (j: Job): boolean => j.kind === 'deliver' && j.state === 'waiting';
/** Deliveries that wait are counted, not listed: a batch may be long. */
const running = computed(() => own.value.filter((j) => !waits(j)));
const queued = computed(() => own.value.filter(waits).length);
</script>

<template>
  <header class="route">
    <nav class="path" aria-label="Place">
      <RouterLink to="/" class="mark" title="Productions"
        ><img src="/mark.svg" alt="Yarlop" width="22" height="22"
      /></RouterLink>
      <RouterLink v-if="store.shot" :to="`/productions/${store.shot.productionId}`" title="Shot board"
        ><i class="bi bi-grid-3x2-gap" aria-hidden="true" /> Shots</RouterLink
      >
      <span class="shot" :title="store.shot?.name">{{ store.shot?.name }}</span>
    </nav>
    <nav class="stops" aria-label="Stages">
      <RouterLink
        v-for="(s, i) in STAGES"
        :key="s"
        :to="`/shots/${store.shot?.id}/${s}`"
        class="stop"
        :class="[{ here: s === stage }, marks[s].replace(' ', '-')]"
        :title="`${NAMES[s]}: ${marks[s]} (Alt+${i + 1})`"
        :data-test="`stage-${s}`"
      >
        <span class="dot" aria-hidden="true" />{{ NAMES[s] }}<span class="visually-hidden">, {{ marks[s] }}</span>
      </RouterLink>
    </nav>
    <div class="state">
      <span v-for="j in running" :key="j.id" class="job" role="status">
        {{ JOBS[j.kind] }}
        <span v-if="j.framesTotal > 1" class="mono"
          >{{ Math.min(j.framesDone, j.framesTotal) }}/{{ j.framesTotal }}</span
        >
      </span>
      <span v-if="queued > 0" class="job" role="status" title="Deliveries of this shot that wait for their turn"
        >{{ queued }} waiting</span
      >
      <span :class="{ weak: !['saved', 'saving'].includes(store.state) }" role="status" data-test="save-state">{{
        saved
      }}</span>
      <BButton
        variant="outline-secondary"
        :pressed="review.isOpen"
        :title="sentenceOf('notes')"
        :aria-label="`Notes, ${review.open} open`"
        data-test="notes-open"
        @click="perform('notes')"
        ><i class="bi bi-chat-left-text" aria-hidden="true" /><span v-if="review.open > 0" class="mono ms-1">{{
          review.open
        }}</span></BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!isReady('undo')"
        :title="`Undo ${store.undoStack.at(-1)?.name ?? ''} (Ctrl+Z)`"
        aria-label="Undo"
        data-test="undo"
        @click="perform('undo')"
        ><i class="bi bi-arrow-90deg-left"
      /></BButton>
      <BButton
        variant="outline-secondary"
        :disabled="!isReady('redo')"
        :title="`Redo ${store.redoStack.at(-1)?.name ?? ''} (Ctrl+Shift+Z)`"
        aria-label="Redo"
        data-test="redo"
        @click="perform('redo')"
        ><i class="bi bi-arrow-90deg-right"
      /></BButton>
      <BButton
        variant="outline-secondary"
        :title="sentenceOf('second-window')"
        aria-label="The picture in a second window"
        data-test="second-window"
        @click="perform('second-window')"
        ><i class="bi bi-window-stack"
      /></BButton>
      <BButton variant="outline-secondary" :title="sentenceOf('help')" aria-label="Help" @click="perform('help')"
        ><i class="bi bi-question-lg"
      /></BButton>
    </div>
  </header>
</template>

<style scoped>
.route {
  display: flex;
  align-items: center;
  gap: 1rem;
  height: 42px;
  padding: 0 0.7rem;
  background: var(--ink);
  border-bottom: 1px solid var(--line);
}
.path {
  display: flex;
  align-items: center;
  gap: 0.7rem;
  min-width: 0;
  flex: 1 1 0;
}
.path a {
  color: var(--text-dim);
  text-decoration: none;
  white-space: nowrap;
}
.path a:hover {
  color: var(--text);
}
.shot {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 600;
}
.stops {
  display: flex;
  position: relative;
}
.stop {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 1px;
  width: 76px;
  color: var(--text-dim);
  text-decoration: none;
  font-size: 0.78rem;
  padding-top: 3px;
}
.stop::before {
  content: '';
  position: absolute;
  top: 9px;
  left: 0;
  right: 0;
  height: 1px;
  background: var(--line);
}
.stop:first-child::before {
  left: 50%;
}
.stop:last-child::before {
  right: 50%;
}
.dot {
  position: relative;
  width: 13px;
  height: 13px;
  border-radius: 50%;
  background: var(--ink);
  border: 1.5px solid var(--text-dim);
}
.holds .dot {
  background: var(--text-dim);
}
.in-work .dot {
  background: linear-gradient(90deg, var(--text-dim) 50%, var(--ink) 50%);
}
.outdated .dot {
  border-style: dashed;
}
.in-trouble .dot {
  border-radius: 2px;
  transform: rotate(45deg);
  background: var(--weak);
  border-color: var(--weak);
}
.stop.here {
  color: var(--text);
}
.stop.here .dot {
  outline: 2px solid var(--brass);
  outline-offset: 1.5px;
}
.state {
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 0.45rem;
  flex: 1 1 0;
  font-size: 0.8rem;
  color: var(--text-dim);
  white-space: nowrap;
}
.state .btn {
  padding: 0.12rem 0.4rem;
}
.weak {
  color: var(--weak);
}
.job {
  color: var(--brass);
}
</style>
