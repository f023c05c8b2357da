<script setup lang="ts">
/** What lies behind all layers, and the proportions that the content is made for. */
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import NumberField from '../shared/NumberField.vue';
import { hexOf, rgbOf } from '../shared/colour-hex';

defineProps<{ document: MadeFill; proportions: number }>();
const emit = defineEmits<{ change: [name: string, part: Partial<MadeFill>] }>();
const colourOf = (e: Event): MadeFill['ground'] => rgbOf((e.target as HTMLInputElement).value);
</script>

<template>
  <section aria-label="The ground" class="mt-3">
    <h2>Ground</h2>
    <label class="labelled"
      ><span class="dim">Colour</span
      ><input
        type="color"
        :value="hexOf(document.ground)"
        title="Colour where no layer stands"
        data-test="content-ground"
        @change="emit('change', 'Set ground', { ground: colourOf($event) })"
    /></label>
    <label class="labelled"
      ><span class="dim">Proportions</span
      ><NumberField
        :model-value="proportions"
        :min="0.1"
        :max="10"
        :decimals="3"
        title="Width by height that it is made for"
        data-test="content-proportions"
        @update:model-value="emit('change', 'Set proportions', { proportions: $event })"
    /></label>
  </section>
</template>
