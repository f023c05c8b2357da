<script setup lang="ts">
/** Fills by shots: a delivery for every pair, unattended; one that fails holds none of the others up. */
import { useStorage } from '@vueuse/core';
import { computed, onMounted, ref } from 'vue';
import { api, sentence } from '../api';
import { useMedia } from '../stores/media';
import type { DeliverSettings, ShotSummary } from '../types';
import { PICTURES } from './formats';

const props = defineProps<{ shots: readonly ShotSummary[] }>();
interface Slot {
  readonly shot: number;
  readonly screen: number;
  readonly text: string;
}
const media = useMedia();
const slots = ref<readonly Slot[]>([]);
const chosen = ref<number[]>([]);
const fills = ref<string[]>([]);
const as = useStorage<DeliverSettings['as']>('yarlop.batch', 'mp4');
const problem = ref('');
const busy = ref(false);
const done = ref(0);
const failures = ref<readonly string[]>([]);
const plates = computed(() => new Set(props.shots.map((s) => s.mediaHash)));
const library = computed(() => media.all.filter((m) => !plates.value.has(m.hash) && m.state === 'ready'));
const pairs = computed(() => chosen.value.length * fills.value.length);
async function load(): Promise<void> {
  try {
    await media.load();
    const all = await Promise.all(
      props.shots
        .filter((s) => s.solvedFrames > 0)
        .map(async (s) => ({ s, screens: (await api('GET /shots/:id', { id: s.id })).screens })),
    );
    slots.value = all.flatMap(({ s, screens }) =>
      screens.map((x) => ({
        shot: s.id,
        screen: x.id,
        text: screens.length > 1 ? `${s.name}: ${x.recipe.name}` : s.name,
      })),
    );
  } catch (e) {
    problem.value = sentence(e);
  }
}
async function go(): Promise<void> {
  [busy.value, done.value, failures.value] = [true, 0, []];
  for (const screen of chosen.value)
    for (const fill of fills.value) {
      const slot = slots.value.find((s) => s.screen === screen)!;
      await api('POST /shots/:id/deliveries', { id: slot.shot }, { as: as.value, fill, slot: screen }).then(
        () => done.value++,
        (e: unknown) =>
          (failures.value = [
            ...failures.value,
            `${slot.text}, ${media.byHash.get(fill)?.name ?? 'fill'}: ${sentence(e)}`,
          ]),
      );
    }
  busy.value = false;
}
onMounted(load);
</script>

<template>
  <div data-test="batch">
    <div class="columns">
      <fieldset>
        <legend>Slots</legend>
        <p v-if="slots.length === 0" class="dim">No shot has been followed yet.</p>
        <BFormCheckboxGroup v-model="chosen" class="d-flex flex-column"
          ><BFormCheckbox v-for="s in slots" :key="s.screen" :value="s.screen" :data-test="`batch-slot-${s.screen}`">{{
            s.text
          }}</BFormCheckbox></BFormCheckboxGroup
        >
      </fieldset>
      <fieldset>
        <legend>Fills</legend>
        <p v-if="library.length === 0" class="dim">The library holds no fill yet; bring one in on the stage Dress.</p>
        <BFormCheckboxGroup v-model="fills" class="d-flex flex-column"
          ><BFormCheckbox v-for="m in library" :key="m.hash" :value="m.hash" :data-test="`batch-fill-${m.name}`">{{
            m.name
          }}</BFormCheckbox></BFormCheckboxGroup
        >
      </fieldset>
    </div>
    <div class="d-flex gap-2 align-items-center mt-2">
      <BFormSelect v-model="as" class="format" :options="[...PICTURES]" aria-label="Format of the batch" /><BButton
        variant="primary"
        :disabled="pairs === 0 || busy"
        title="One delivery for each slot and fill; they wait in the queue, and each is found in its shot's stage Hand over"
        data-test="batch-go"
        @click="go"
        >Deliver {{ pairs }}</BButton
      >
      <span v-if="done > 0" role="status" data-test="batch-done">{{ done }} in the queue.</span>
    </div>
    <p v-if="problem" class="weak mt-1 mb-0" role="alert">{{ problem }}</p>
    <ul v-if="failures.length > 0" class="weak mt-1 mb-0" role="alert">
      <li v-for="f in failures" :key="f">{{ f }}</li>
    </ul>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 1rem;
  max-height: 16rem;
  overflow: auto;
}
legend {
  font-size: 0.8125rem;
  color: var(--text-dim);
  margin: 0;
}
.format {
  width: auto;
}
.weak {
  color: var(--weak);
}
</style>
