<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { computed, ref, watch } from 'vue';
import { api, sentence } from '../api';
import { sectionOn } from '@yarlop/core/follow/memory/sections';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';
import { followedApart } from './followed-apart';
import type { Order } from './use-follow-runs';
import { outdatedWords } from './section-words';
import { useFollowRuns } from './use-follow-runs';
import { useRecipe } from '../edits/use-recipe';

const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const live = useLive();
const { recipe, track, job, change } = useRecipe();
const { problem, keepLooking, start, followAll, idle, around } = useFollowRuns();
const watching = ref(true);
const last = computed(() =>
  [...live.jobs.values()].filter((j) => j.kind === 'follow' && j.screenId === store.chosenId).at(-1),
);
const solved = computed(() => {
  const stale = track.value?.stale ?? [];
  const frames = [...(track.value?.frames.keys() ?? [])];
  return frames.filter((n) => !sectionOn(stale, n)).sort((a, b) => a - b);
});
const outdated = computed(() => outdatedWords(track.value?.stale ?? [], solved.value.length > 0));
const here = computed(() => playhead.frame);
const followedHere = computed(() => solved.value.includes(here.value));

function follow(way: 'forwards' | 'backwards' | 'both' | 'one' | 'one-back' | 'on' | 'back'): void {
  const r = recipe.value!.referenceFrame;
  const { from: lo, to: hi } = around(r);
  const n = here.value;
  const orders: Record<typeof way, Order> = {
    both: { from: lo, to: hi, direction: 'both' },
    forwards: { from: r, to: hi, direction: 'forwards' },
    backwards: { from: lo, to: r, direction: 'backwards' },
    one: { from: r, to: Math.min(Math.max(r, solved.value.at(-1) ?? r) + 1, hi), direction: 'forwards' },
    'one-back': { from: Math.max(Math.min(r, solved.value[0] ?? r) - 1, lo), to: r, direction: 'backwards' },
    on: { from: r, to: hi, direction: 'forwards', start: n },
    back: { from: lo, to: r, direction: 'backwards', start: n },
  };
  void start(orders[way]);
}
/**
 * The working range alone, where it lies on one side of the reference: from the frame before it, over what was there.
 */
const part = computed<Order | null>(() => {
  const r = recipe.value?.referenceFrame ?? 0;
  const { from, to } = playhead;
  const has = (n: number): boolean => n === r || solved.value.includes(n);
  if (from > r && has(from - 1)) return { from: r, to, direction: 'forwards', start: from - 1 };
  if (to < r && has(to + 1)) return { from, to: r, direction: 'backwards', start: to + 1 };
  return null;
});
async function cut(side: 'after' | 'before'): Promise<void> {
  problem.value = '';
  await api('POST /screens/:id/cut', { id: store.chosenId! }, { frame: here.value, side })
    .then(() => tracks.load(store.chosenId!))
    .catch((e: unknown) => (problem.value = sentence(e)));
}
watch(
  () => job.value?.id,
  (now, before) => {
    if (before && !now && store.chosenId !== null) void tracks.load(store.chosenId);
  },
);
watch(
  () => track.value?.frames,
  (now, before) => {
    if (!job.value || !watching.value || !now || !before) return;
    const fresh = [...now.keys()].filter((f) => !before.has(f));
    if (fresh.length > 0) playhead.go(fresh.at(-1)!);
  },
);
const apart = computed(() => recipe.value && followedApart(recipe.value, track.value));
/** What lies within the pin is followed from now on; what was followed before is found again by taking that back. */
function followPin(): void {
  change("Follow the pin's own area", { area: [...recipe.value!.pin] as NonNullable<Recipe['area']> });
  follow('both');
}
const share = computed(() => {
  const f = [...(track.value?.frames.values() ?? [])];
  if (f.length === 0) return null;
  const mean = Math.sqrt(f.reduce((s, v) => s + v.sigma.reduce((a, b) => a + b * b, 0) / 4, 0) / f.length);
  return { frames: f.length, sigma: mean, least: Math.min(...f.map((v) => v.trust)) };
});
/** What would help, from what the follower said. */
function proposal(reason: string): string {
  if (/cover|changed/.test(reason))
    return 'Draw an ignore patch over what covers it and reshape it as it moves, or place the pin by hand where it is free again.';
  if (/blur/.test(reason))
    return 'Place the pin by hand on the first sharp frame after the blur and follow on from there; the blurred frames are joined from both sides.';
  if (/inside the frame|outside/.test(reason))
    return 'Tell with a presence range when the screen leaves, or place the pin by hand where it is back.';
  return 'Choose a reference frame nearer to here, or place the pin by hand on this frame and follow on from it.';
}
provideCommand(
  'follow-both',
  () => follow('both'),
  () => !!recipe.value && !job.value,
);
provideCommand('follow-all', followAll, () => idle.value.length > 1);
</script>

<template>
  <section v-if="recipe">
    <div class="ways">
      <BButton
        variant="primary"
        :disabled="!isReady('follow-both')"
        :title="sentenceOf('follow-both')"
        data-test="follow-both"
        @click="perform('follow-both')"
        >Follow both ways</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!!job"
        title="From the reference frame to the working range's begin"
        data-test="follow-backwards"
        @click="follow('backwards')"
        ><i class="bi bi-arrow-left" /> Backwards</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!!job"
        title="From the reference frame to the working range's end"
        data-test="follow-forwards"
        @click="follow('forwards')"
        >Forwards <i class="bi bi-arrow-right"
      /></BButton>
      <BButton
        variant="outline-secondary"
        :disabled="!!job"
        title="One frame before the first followed one"
        data-test="follow-one-back"
        @click="follow('one-back')"
        ><i class="bi bi-chevron-left" /> One frame</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!!job"
        title="One frame beyond the last followed one"
        data-test="follow-one"
        @click="follow('one')"
        >One frame <i class="bi bi-chevron-right"
      /></BButton>
    </div>
    <BButton
      v-if="store.screens.length > 1"
      class="w-100 mt-1"
      variant="outline-secondary"
      :disabled="!isReady('follow-all')"
      :title="sentenceOf('follow-all')"
      data-test="follow-all"
      @click="perform('follow-all')"
      >Follow all Screens</BButton
    >
    <BButton
      v-if="job"
      class="w-100 mt-1"
      variant="outline-secondary"
      title="Stop before the next frame (Escape)"
      data-test="follow-stop"
      @click="live.cancel(job.id)"
      ><i class="bi bi-stop-fill" /> Stop</BButton
    >
    <BProgress v-if="job" class="mt-2" :value="job.framesDone" :max="Math.max(1, job.framesTotal)" />
    <p v-if="problem" class="weak mt-2 mb-0" role="alert" data-test="follow-problem">{{ problem }}</p>
    <p
      v-else-if="last?.message && !job"
      class="mt-2 mb-0"
      :class="{ weak: last.state !== 'done' }"
      data-test="follow-message"
    >
      {{ last.message }}
    </p>
    <div v-for="h in job ? [] : (track?.halted ?? [])" :key="h.frame" class="mt-2 dim">
      <p class="weak mb-1" data-test="halted">Halted at frame {{ h.frame }}: {{ h.reason }}</p>
      <BButton variant="outline-secondary" title="The frame on which following halted" @click="playhead.go(h.frame)"
        >Go to frame {{ h.frame }}</BButton
      >
      {{ proposal(h.reason) }}
    </div>
    <p v-if="track?.outdated" class="weak mt-2 mb-0" data-test="outdated">{{ outdated }}</p>
    <div v-if="apart && !job" class="mt-2" data-test="area-apart">
      <p class="dim mb-1">
        The pin was set apart from what is followed (dotted in the picture) and rides on it. Nothing has to be followed
        again.
      </p>
      <BButton
        variant="outline-secondary"
        title="Follow what lies within the pin as it is set now, in place of what was followed"
        data-test="follow-new-area"
        @click="followPin"
        >Follow the pin's own area</BButton
      >
    </div>
    <p v-if="share" class="dim mt-2 mb-0">
      {{ share.frames }} frames, corners to about <span class="mono">{{ share.sigma.toFixed(2) }}</span> px, least trust
      <span class="mono">{{ share.least.toFixed(2) }}</span>
    </p>
    <details class="mt-2">
      <summary title="Follow a part over again, or forget a part, and keep the rest">
        From this frame, and a part again
      </summary>
      <div class="ways mt-1">
        <BButton
          variant="outline-secondary"
          :disabled="!!job || !followedHere || here > recipe.referenceFrame"
          title="Backwards from this frame to the range's begin, over what was there"
          data-test="follow-from-back"
          @click="follow('back')"
          ><i class="bi bi-arrow-bar-left" /> Back from here</BButton
        >
        <BButton
          variant="outline-secondary"
          :disabled="!!job || !followedHere || here < recipe.referenceFrame"
          title="Forwards from this frame to the range's end, over what was there"
          data-test="follow-from-on"
          @click="follow('on')"
          >On from here <i class="bi bi-arrow-bar-right"
        /></BButton>
        <BButton
          variant="outline-secondary"
          :disabled="!!job || !followedHere || here > recipe.referenceFrame"
          title="Forget what was followed before this frame"
          data-test="cut-before"
          @click="cut('before')"
          ><i class="bi bi-scissors" /> Drop before</BButton
        >
        <BButton
          variant="outline-secondary"
          :disabled="!!job || !followedHere || here < recipe.referenceFrame"
          title="Forget what was followed after this frame"
          data-test="cut-after"
          @click="cut('after')"
          >Drop after <i class="bi bi-scissors"
        /></BButton>
        <BButton
          class="wide"
          variant="outline-secondary"
          :disabled="!!job || !part"
          :title="
            part
              ? 'Follow the working range again and keep the rest'
              : 'Set the working range (I, O) to one side of the reference, next to followed frames'
          "
          data-test="follow-part"
          @click="part && start(part)"
          >Only frames {{ playhead.from }} to {{ playhead.to }} again</BButton
        >
      </div>
      <BFormCheckbox
        v-model="keepLooking"
        class="mt-2"
        title="Off: following stops where it is no longer sure. On: it goes on, bridges such frames, and looks for the screen again"
        data-test="keep-looking"
        >Go on past frames that cannot be vouched for, bridge them, and look for the screen again</BFormCheckbox
      >
      <BFormCheckbox v-model="watching" class="mt-1" title="The playhead goes with the newest followed frame"
        >Show each frame as it is followed</BFormCheckbox
      >
    </details>
  </section>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.ways .btn-primary,
.wide {
  grid-column: 1 / -1;
}
.weak {
  color: var(--weak);
}
summary {
  color: var(--text-dim);
}
</style>
