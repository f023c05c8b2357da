<script setup lang="ts">
import { clamp } from '@yarlop/core/clamp';
import { computed } from 'vue';
import { withSettingsOf } from '../edits/copy-settings';
import { useShot } from '../stores/shot';
import type { Recipe, Screen } from '../types';
import { useRecipe } from '../edits/use-recipe';
import { useWays } from '../edits/use-ways';

const { recipe } = useRecipe();
const { here, set } = useWays();
const store = useShot();
const MOTIONS = [
  { value: 'perspective', text: 'Perspective: turns and tilts freely' },
  { value: 'affine', text: 'Affine: far away, no perspective change' },
  { value: 'similarity', text: 'Similarity: moves, turns and scales' },
  { value: 'translation', text: 'Translation: slides only' },
  { value: 'still', text: 'Still: locked off' },
];
const EVIDENCE = [
  { value: 'auto', text: 'What the frame offers' },
  { value: 'texture', text: 'The picture alone' },
  { value: 'edges', text: 'The glass edges alone' },
  { value: 'texture,edges', text: 'Picture and edges' },
  { value: 'spots', text: 'The spots alone' },
  { value: 'hand', text: 'The hand alone' },
];
const DENSITIES = [
  { value: 'few', text: 'Few cells' },
  { value: 'usual', text: 'Usual' },
  { value: 'many', text: 'Many cells' },
];
const READINGS = [
  { value: 'auto', text: 'The clearest mix of its channels' },
  { value: 'luma', text: 'Luma' },
  { value: 'red', text: 'Red alone' },
  { value: 'green', text: 'Green alone' },
  { value: 'blue', text: 'Blue alone' },
];
const LEVELS = [
  { value: 'cells', text: 'Anywhere: glare, shadows, lamps' },
  { value: 'screen', text: 'On the whole screen at once' },
  { value: 'fixed', text: 'Not at all' },
];
const evidence = computed(() => (Array.isArray(here.value.evidence) ? here.value.evidence.join(',') : 'auto'));
const others = computed(() => store.screens.filter((s) => s.id !== store.chosenId));
function copyTo(targets: readonly Screen[]): void {
  for (const { id, recipe: own } of targets)
    store.edit('Follow like another Screen', withSettingsOf(own, recipe.value!), own, id);
}
function setLens(text: string): void {
  const v = Number(text.replace(',', '.'));
  set('Set lens', { lens: text.trim() === '' || !Number.isFinite(v) ? 'auto' : clamp(v, -0.35, 0.35) });
}
</script>

<template>
  <template v-if="recipe">
    <details>
      <summary title="Rare choices: how freely the plane may move, what it rests on, and how the plate is read">
        How it is followed
      </summary>
      <label class="d-block mt-2"
        >Motion
        <BFormSelect
          :model-value="here.motion ?? 'perspective'"
          :options="MOTIONS"
          title="How freely the plane may move: less freedom is steadier where less is true"
          data-test="motion"
          @update:model-value="set('Set motion', { motion: $event as NonNullable<Recipe['motion']> })"
      /></label>
      <label class="d-block mt-2"
        >Evidence
        <BFormSelect
          :model-value="evidence"
          :options="EVIDENCE"
          title="What the corners may rest on. Dark or blank glass is followed by its edges."
          data-test="evidence"
          @update:model-value="
            set('Set evidence', {
              evidence: $event === 'auto' ? 'auto' : (String($event).split(',') as ['texture']),
            })
          "
      /></label>
      <label class="d-block mt-2"
        >Cells
        <BFormSelect
          :model-value="here.density ?? 'usual'"
          :options="DENSITIES"
          title="How many small places of the picture are followed: many are surer and slower"
          @update:model-value="set('Set cell density', { density: $event as NonNullable<Recipe['density']> })"
      /></label>
      <label class="d-block mt-2"
        >The plate is read as
        <BFormSelect
          :model-value="here.reading ?? 'auto'"
          :options="READINGS"
          title="Luma, unless another mix shows the outlined picture clearer above its noise on the reference frame"
          data-test="reading"
          @update:model-value="set('Set reading', { reading: $event as NonNullable<Recipe['reading']> })"
      /></label>
      <label class="d-block mt-2"
        >Brightness may change
        <BFormSelect
          :model-value="here.levels ?? 'cells'"
          :options="LEVELS"
          title="A cell that changed otherwise is left out"
          data-test="levels"
          @update:model-value="set('Set brightness', { levels: $event as NonNullable<Recipe['levels']> })"
      /></label>
      <label class="d-block mt-2"
        >Lens, radial term on half the width
        <input
          class="form-control mono"
          :value="typeof here.lens === 'number' ? here.lens : ''"
          placeholder="found from the screen's edges"
          title="How much the lens bows straight lines; empty lets the screen's own edges tell it"
          data-test="lens"
          @change="setLens(($event.target as HTMLInputElement).value)"
      /></label>
      <BDropdown
        v-if="others.length > 0"
        class="mt-2"
        size="sm"
        variant="outline-secondary"
        text="Follow like this"
        title="Give these settings, with their sections, to other Screens of the shot; outlines stay their own"
        data-test="copy-settings"
      >
        <BDropdownItem v-for="s in others" :key="s.id" @click="copyTo([s])">{{ s.recipe.name }}</BDropdownItem>
        <BDropdownItem v-if="others.length > 1" @click="copyTo(others)">All other Screens</BDropdownItem>
      </BDropdown>
    </details>
  </template>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
</style>
