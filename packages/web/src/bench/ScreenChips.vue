<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { perform } from '../commands/use-commands';
import { hueOf, iconOf } from '../shared/screen-look';
import { steady } from '../shared/steady';
import { useShot } from '../stores/shot';

const store = useShot();
const chips = steady(() => store.screens.map(({ id, recipe }) => ({ id, name: recipe.name, icon: iconOf(recipe) })));
</script>

<template>
  <div class="chips" role="group" aria-label="Screens of the shot">
    <button
      v-for="(s, i) in chips"
      :key="s.id"
      type="button"
      class="chip"
      :class="{ chosen: s.id === store.chosenId }"
      :style="{ '--hue': hueOf(i) }"
      :aria-pressed="s.id === store.chosenId"
      :data-test="`chip-${s.id}`"
      @click="store.chosenId = s.id"
    >
      <i class="bi" :class="s.icon" aria-hidden="true" />{{ s.name }}
    </button>
    <button
      type="button"
      class="chip add"
      :title="sentenceOf('new-screen')"
      data-test="add-screen"
      @click="perform('new-screen')"
    >
      <i class="bi bi-plus-lg" aria-hidden="true" /> Screen
    </button>
  </div>
</template>

<style scoped>
.chips {
  position: absolute;
  left: 10px;
  top: 8px;
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  z-index: 2;
}
.chip {
  background: color-mix(in srgb, var(--ink) 88%, transparent);
  color: var(--text);
  border: 1px solid var(--line);
  border-left: 4px solid var(--hue, var(--line));
  border-radius: 3px;
  padding: 0.1rem 0.55rem;
  font-size: 0.8rem;
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
.chip.chosen {
  border-color: var(--brass);
  border-left-color: var(--hue);
}
.chip.add {
  border-left-width: 1px;
}
</style>
