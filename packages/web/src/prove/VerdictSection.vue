<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { computed, ref } from 'vue';
import { sentence } from '../api';
import { forAll } from '../shared/for-all';
import { useLive } from '../stores/live';
import { useProofs } from '../stores/proofs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useProof } from './use-proof';

const store = useShot();
const proofs = useProofs();
const live = useLive();
const tracks = useTracks();
const { proof, job, ranking, verdict, followed } = useProof();
const problem = ref('');
async function measureOf(screenId: number): Promise<void> {
  const job = await proofs.start(screenId);
  live.jobs.set(job.id, job);
}
async function measure(): Promise<void> {
  problem.value = '';
  try {
    await store.save();
    await measureOf(store.chosenId!);
  } catch (e) {
    problem.value = sentence(e);
  }
}
provideCommand('measure-slip', measure, () => !job.value && followed.value >= 2);
const ready = computed(() =>
  store.proper.filter((s) => (tracks.tracks.get(s.id)?.frames.size ?? 0) >= 2 && !live.jobOf('prove', s.id)),
);
/** Those that cannot be measured are named; the others are. */
async function measureAll(): Promise<void> {
  await store.save();
  problem.value = await forAll(ready.value, (s) => measureOf(s.id));
}
provideCommand('measure-all', measureAll, () => ready.value.length > 1);
</script>

<template>
  <section aria-label="Verdict">
    <strong class="word" :class="verdict?.word.replace(' ', '-')" data-test="verdict">{{ verdict?.word }}</strong>
    <span v-if="!ranking && followed > 1" class="dim ms-2">by the solver's own word</span>
    <p
      v-if="ranking"
      class="dim mb-0"
      title="What jumps from frame to frame, and the share of corners that could be compared with their likeness"
    >
      jitter <span class="mono">{{ Number.isFinite(ranking.jitter) ? ranking.jitter.toFixed(2) : '-' }}</span> px, told
      on <span class="mono">{{ Math.round(100 * ranking.told) }}</span> % of corners
    </p>
    <ul v-if="verdict?.reasons.length" class="reasons">
      <li v-for="r in verdict.reasons" :key="r">{{ r }}</li>
    </ul>
    <BButton
      v-if="!job"
      :variant="proof && !proof.outdated ? 'outline-secondary' : 'primary'"
      class="w-100 mt-2"
      :disabled="!isReady('measure-slip')"
      :title="sentenceOf('measure-slip')"
      data-test="measure-slip"
      @click="perform('measure-slip')"
      >{{ proof ? 'Measure slip again' : 'Measure slip on every frame' }} <kbd>M</kbd></BButton
    >
    <div v-else class="mt-2">
      <BProgress :value="job.framesDone" :max="Math.max(1, job.framesTotal)" />
      <div class="d-flex align-items-center mt-1">
        <span class="dim mono" role="status">{{ job.framesDone }} of {{ job.framesTotal }} frames</span
        ><BButton
          variant="outline-secondary"
          class="ms-auto"
          title="Stop measuring; what was measured before stays"
          data-test="measure-stop"
          @click="live.cancel(job.id)"
          >Stop</BButton
        >
      </div>
    </div>
    <BButton
      v-if="store.proper.length > 1"
      variant="outline-secondary"
      class="w-100 mt-1"
      :disabled="!isReady('measure-all')"
      :title="sentenceOf('measure-all')"
      data-test="measure-all"
      @click="perform('measure-all')"
      >Measure all Screens</BButton
    >
    <p v-if="proof?.outdated && !job" class="weak mt-1 mb-0" data-test="proof-outdated">
      The track, the pin or a likeness changed since it was measured.
    </p>
    <p v-if="problem" class="weak mt-1 mb-0" role="alert">{{ problem }}</p>
    <p v-if="followed < 2" class="dim mt-1 mb-0">
      Nothing is followed yet. Go to Follow; the card then rides on every frame.
    </p>
  </section>
</template>

<style scoped>
.word {
  font-size: 1rem;
}
.word::before {
  content: '';
  display: inline-block;
  width: 0.65rem;
  height: 0.65rem;
  margin-right: 0.45rem;
  border-radius: 50%;
  background: var(--text-dim);
}
.look-again::before {
  background: linear-gradient(90deg, var(--weak) 50%, transparent 50%);
  outline: 1.5px solid var(--weak);
}
.not-usable::before {
  background: var(--weak);
  border-radius: 1px;
  transform: rotate(45deg);
}
.reasons {
  margin: 0.3rem 0 0;
  padding-left: 1.1rem;
  font-size: 0.8125rem;
}
.weak {
  color: var(--weak);
}
</style>
