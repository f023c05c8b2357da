<script setup lang="ts">
/** Match all: looks the plate through and proposes a first dress, part by part, with what was measured. */
import type { Proposal } from '@yarlop/core/dress/match';
import { ref, watch } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { sentence, stream } from '../api';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';
import { useDress, withPart } from '../edits/use-dress';

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
const run = ref<{ done: number; total: number; stop: AbortController } | null>(null);
const list = ref<readonly Proposal[]>([]);
const used = ref<boolean[]>([]);
const problem = ref('');
watch(
  () => store.chosenId,
  () => (list.value = []),
);

async function match(): Promise<void> {
  const id = store.chosenId;
  const stop = new AbortController();
  if (id === null) return;
  run.value = { done: 0, total: 0, stop };
  problem.value = '';
  try {
    await store.save();
    await stream<{ done?: number; total?: number; proposals?: Proposal[] }>(
      `/screens/${id}/match`,
      {},
      stop.signal,
      (l) => {
        if (l.proposals && store.chosenId === id) {
          list.value = l.proposals;
          used.value = l.proposals.map(() => true);
        } else if (run.value) run.value = { done: l.done ?? 0, total: l.total ?? 0, stop };
      },
    );
  } catch (e) {
    if (!stop.signal.aborted) problem.value = sentence(e);
  } finally {
    run.value = null;
  }
}
function take(): void {
  const r = recipe.value;
  if (!r) return;
  /** What was measured before gives way; what the person set beside it stays. */
  const kept = (part: object | undefined): object =>
    Object.fromEntries(Object.entries(part ?? {}).filter(([k]) => k !== 'measured' && k !== 'sync'));
  const after = list.value.reduce<Recipe>(
    (now, p, i) =>
      used.value[i]
        ? Object.entries(p.recipe).reduce(
            (n, [part, value]) =>
              withPart(
                n,
                part as Proposal['part'],
                Array.isArray(value)
                  ? value
                  : { ...kept((n.dress as Record<string, object> | undefined)?.[part]), ...(value as object) },
              ),
            now,
          )
        : now,
    r,
  );
  store.edit('Match the plate', after);
  list.value = [];
}
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
    <div v-else>
      <BProgress :value="run.done" :max="Math.max(1, run.total)" />
      <div class="d-flex align-items-center mt-1">
        <span class="dim mono" role="status">{{ run.done }} of {{ run.total || '...' }} frames</span
        ><BButton
          variant="outline-secondary"
          class="ms-auto"
          title="Stop measuring; nothing is changed"
          @click="run.stop.abort()"
          >Stop</BButton
        >
      </div>
    </div>
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
