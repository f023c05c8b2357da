<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { useView } from '../stores/view';

const view = useView();
const DENSITIES = [4, 8, 16].map((value) => ({ value, text: `${value} parts` }));
const EXTENTS = [
  { value: 0, text: 'the screen' },
  { value: 1, text: 'around it' },
  { value: 4, text: 'far beyond' },
  { value: 12, text: 'whole picture' },
];
</script>

<template>
  <section aria-label="Ruling">
    <BFormCheckbox v-model="view.ruling" switch :title="sentenceOf('ruling')" data-test="ruling-switch"
      >Perspective ruling <kbd>R</kbd></BFormCheckbox
    >
    <div v-if="view.ruling" class="d-flex gap-1 mt-1 align-items-center flex-wrap">
      <BFormSelect
        v-model="view.rulingParts"
        class="pick"
        aria-label="Density of the ruling"
        title="Parts to each side of the screen"
        :options="DENSITIES"
      />
      <BFormSelect
        v-model="view.rulingExtent"
        class="pick"
        aria-label="Extent of the ruling"
        title="How far beyond the screen it is drawn"
        data-test="ruling-extent"
        :options="EXTENTS"
      />
      <BFormCheckbox
        v-model="view.horizon"
        data-test="horizon-switch"
        title="The plane's horizon, and the points to which the screen's sides run"
        >Horizon and vanishing points</BFormCheckbox
      >
    </div>
  </section>
</template>

<style scoped>
.pick {
  width: auto;
  flex: 1 1 45%;
}
</style>
