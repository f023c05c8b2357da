<script setup lang="ts">
/** How the dressed picture is compared, and with what. */
import { computed, ref } from 'vue';
import { sentence } from '../api';
import { sentenceOf } from '../commands/catalogue';
import { perform } from '../commands/use-commands';
import { agoText } from '../shared/format';
import { useComparison } from '../stores/comparison';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';

const view = useView();
const store = useShot();
const media = useMedia();
const comparison = useComparison();
const problem = ref('');

const fills = computed(() => {
  const { versions = [], media: now } = store.told?.recipe.fill ?? {};
  return versions
    .filter((hash) => hash !== now && media.byHash.has(hash))
    .map((hash) => ({ value: `fill ${hash}`, text: `with the fill ${media.byHash.get(hash)!.name}` }));
});
const versions = computed(() =>
  comparison.versions.map((r) => ({
    value: `version ${r.revision}`,
    text: `version ${r.revision}: ${r.step ?? 'saved'}, ${agoText(r.saved)}`,
  })),
);
const choices = computed(() => [{ value: 'plate', text: 'the plate' }, ...fills.value, ...versions.value]);
async function choose(what: string): Promise<void> {
  problem.value = '';
  await comparison.choose(what).catch((e: unknown) => (problem.value = sentence(e)));
}
const look = (): void => void comparison.loadVersions().catch((e: unknown) => (problem.value = sentence(e)));
</script>

<template>
  <div class="d-flex gap-3 align-items-center mt-1">
    <BFormCheckbox
      v-model="view.blinking"
      class="text-nowrap"
      title="The two take turns, at the rate of the close-ups' blinking"
      data-test="blink-dress"
      >blink</BFormCheckbox
    >
    <BFormCheckbox
      v-model="view.beside"
      class="text-nowrap"
      title="What it is compared with to the left, the dressed picture to the right"
      data-test="beside"
      >pair</BFormCheckbox
    >
    <BFormCheckbox
      :model-value="view.wipe !== null"
      class="text-nowrap"
      :title="sentenceOf('wipe')"
      data-test="divide"
      @update:model-value="perform('wipe')"
      >divide</BFormCheckbox
    >
  </div>
  <label class="d-flex gap-2 align-items-center mt-1"
    ><span class="text-nowrap">with</span>
    <BFormSelect
      :model-value="comparison.chosen"
      :options="choices"
      title="What it blinks, pairs or is divided with: the bare plate, a fill that was in the slot, or the Screen as it was saved earlier, on today's track"
      data-test="compare-with"
      @focus="look"
      @pointerdown="look"
      @update:model-value="(what: unknown) => choose(String(what))"
    />
  </label>
  <p v-if="problem" class="weak mb-0" role="alert">{{ problem }}</p>
</template>
