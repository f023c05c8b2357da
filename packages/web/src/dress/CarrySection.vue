<script setup lang="ts">
/** Dresses carried on: ones to begin with, and from Screen to Screen, in this shot or another. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { useStorage } from '@vueuse/core';
import { computed, nextTick } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';
import { PRESETS } from './presets';
import { useDress } from '../edits/use-dress';

const store = useShot();
const { recipe, dress } = useDress();
const held = useStorage<string>('yarlop.dress', '');
/** What was measured stays: it belongs to this plate. */
function lay(name: string, taken: DressRecipe): void {
  if (!recipe.value) return;
  const now = dress.value;
  const merged = Object.fromEntries(
    Object.entries({ ...now, ...taken }).map(([part, value]) => {
      const own = now[part as keyof DressRecipe] as { measured?: unknown } | undefined;
      return [part, own?.measured && !Array.isArray(value) ? { ...(value as object), measured: own.measured } : value];
    }),
  );
  store.edit(name, { ...recipe.value, dress: merged as NonNullable<Recipe['dress']> });
}
/** Other Screens of the shot, to put this dress on at once. */
const others = computed(() => store.screens.filter((s) => s.id !== store.chosenId));
async function give(id: number): Promise<void> {
  const from = store.chosenId;
  const taken = JSON.parse(
    JSON.stringify(dress.value, (key, value: unknown) => (key === 'measured' ? undefined : value)),
  ) as DressRecipe;
  store.chosenId = id;
  await nextTick();
  lay('Paste dress', taken);
  store.chosenId = from;
}
function copy(): void {
  held.value = JSON.stringify(dress.value, (key, value: unknown) => (key === 'measured' ? undefined : value));
}
</script>

<template>
  <BenchSection title="Presets and copying">
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        v-for="p in PRESETS"
        :key="p.name"
        variant="outline-secondary"
        :title="p.what"
        :data-test="`preset-${p.name}`"
        @click="lay(`Preset ${p.name}`, p.dress)"
        >{{ p.name }}</BButton
      >
    </div>
    <div v-if="others.length" class="d-flex gap-1 mt-1 align-items-center">
      <span class="dim">copy it to</span
      ><BButton
        v-for="o in others"
        :key="o.id"
        variant="outline-secondary"
        :disabled="Object.keys(dress).length === 0"
        :title="`Copy this dress to ${o.recipe.name}; what was measured stays here`"
        :data-test="`give-${o.id}`"
        @click="give(o.id)"
        >{{ o.recipe.name }}</BButton
      >
    </div>
    <div class="d-flex gap-1 mt-1">
      <BButton
        variant="outline-secondary"
        :disabled="Object.keys(dress).length === 0"
        title="Copy this dress for another Screen or another shot; what was measured stays here"
        data-test="dress-copy"
        @click="copy"
        >Copy</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!held"
        title="Put the copied dress on this Screen"
        data-test="dress-paste"
        @click="lay('Paste dress', JSON.parse(held))"
        >Paste</BButton
      >
      <BButton
        variant="outline-secondary"
        class="ms-auto"
        :disabled="Object.keys(dress).length === 0"
        title="Remove the whole dress; one undo brings it back"
        data-test="undress"
        @click="recipe && store.edit('Remove dress', (({ dress: d, ...rest }) => (void d, rest))(recipe))"
        >Remove all</BButton
      >
    </div>
  </BenchSection>
</template>
