<script setup lang="ts">
/** Match all: looks the plate through and proposes a first dress, part by part, with what was measured. */
import type { Proposal } from '@yarlop/core/dress/match';
import { computed, ref, watch } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { sentence } from '../api';
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { forAll } from '../shared/for-all';
import { useShot } from '../stores/shot';
import { useDress } from '../edits/use-dress';
import { matched, useMeasuring } from '../edits/use-match';
import MeasureProgress from './MeasureProgress.vue';

const NAMES: Readonly<Record<Proposal['part'], string>> = {
  levels: 'Black and white',
  softness: 'Softness',
  motionBlur: 'Motion blur',
  edge: 'Corners',
  glare: 'Light on the glass',
  grain: 'Grain',
  holdouts: 'Holdout',
  spill: 'Spill',
  rim: 'Rim of the old screen',
};
const store = useShot();
const { recipe } = useDress();
const { running: run, measure } = useMeasuring();
let stop = new AbortController();
const list = ref<readonly Proposal[]>([]);
const used = ref<boolean[]>([]);
const problem = ref('');
/** Screens that a match of all is for: those that are dressed. */
const filled = computed(() => store.screens.filter((s) => s.recipe.fill));
watch(
  () => store.chosenId,
  () => (list.value = []),
);

async function match(): Promise<void> {
  const s = store.chosen;
  if (!s) return;
  problem.value = '';
  await store.save();
  try {
    stop = new AbortController();
    const proposals = await measure(s, stop);
    if (!proposals || store.chosenId !== s.id) return;
    list.value = proposals;
    used.value = proposals.map(() => true);
  } catch (e) {
    problem.value = sentence(e);
  }
}
/** Every dressed Screen takes all that is proposed for it, as one step of its own; a stop keeps those that are done. */
async function matchScreens(): Promise<void> {
  list.value = [];
  await store.save();
  stop = new AbortController();
  problem.value = await forAll(filled.value, async (s) => {
    const proposals = await measure(s, stop);
    const now = store.screens.find((x) => x.id === s.id);
    if (proposals && now) store.edit('Match the plate', matched(now.recipe, proposals), now.recipe, s.id);
  });
}
function take(): void {
  if (!recipe.value) return;
  store.edit(
    'Match the plate',
    matched(
      recipe.value,
      list.value.filter((_, i) => used.value[i]),
    ),
  );
  list.value = [];
}
provideCommand('match-screens', matchScreens, () => !run.value && filled.value.length > 1);
</script>

<template>
  <BenchSection title="Match the plate">
    <BButton
      v-if="!run"
      :variant="list.length ? 'outline-secondary' : 'primary'"
      class="w-100"
      title="Measure black, white, softness, shutter, grain, light on the glass and the screen's colour, and propose a dress from them"
      data-test="match-all"
      @click="match"
      >{{ list.length ? 'Measure again' : 'Match all' }}</BButton
    >
    <BButton
      v-if="!run && store.proper.length > 1"
      class="w-100 mt-1"
      variant="outline-secondary"
      :disabled="!isReady('match-screens')"
      :title="sentenceOf('match-screens')"
      data-test="match-screens"
      @click="perform('match-screens')"
      >Match all Screens</BButton
    >
    <MeasureProgress v-if="run" v-bind="run" @stop="stop.abort()" />
    <ul v-if="list.length" class="list" data-test="proposals">
      <li v-for="(p, i) in list" :key="p.part">
        <BFormCheckbox v-model="used[i]" title="Take this part, or leave it" :data-test="`take-${p.part}`"
          ><b>{{ NAMES[p.part] }}</b> <span class="dim">{{ p.told }}</span></BFormCheckbox
        >
      </li>
    </ul>
    <div v-if="list.length" class="d-flex gap-1">
      <BButton
        variant="primary"
        class="flex-fill"
        title="Put the ticked parts into the dress, as one step"
        data-test="take-proposals"
        @click="take"
        >Take {{ used.every(Boolean) ? 'all' : used.filter(Boolean).length }}</BButton
      >
      <BButton variant="outline-secondary" title="Forget what was measured; nothing is changed" @click="list = []"
        >Discard</BButton
      >
    </div>
    <p v-if="problem" class="weak mt-1 mb-0" role="alert">{{ problem }}</p>
  </BenchSection>
</template>

<style scoped>
.list {
  list-style: none;
  padding: 0;
  margin: 0.4rem 0;
  font-size: 0.8125rem;
}
.weak {
  color: var(--weak);
}
</style>
