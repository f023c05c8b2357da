<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import BenchSection from '../bench/BenchSection.vue';
import { CARD_KINDS } from '@yarlop/core/proof/proof-card';
import { useView } from '../stores/view';

const view = useView();
const WHAT: Record<(typeof CARD_KINDS)[number], string> = {
  survey: 'a little of everything',
  slip: 'steps at the edge: a slip hides or bares one',
  shear: 'right angles and diagonals: they lean',
  wobble: 'rings: they breathe one by one',
  scale: 'frames in frames: they swell and shrink',
};
</script>

<template>
  <BenchSection title="Proof card">
    <div class="d-flex gap-1 flex-wrap" role="group" aria-label="Cards">
      <BButton
        v-for="k in CARD_KINDS"
        :key="k"
        variant="outline-secondary"
        class="flex-fill"
        :pressed="view.card === k"
        :title="WHAT[k]"
        :data-test="`card-${k}`"
        @click="view.card = k"
        >{{ k }}</BButton
      >
    </div>
    <label class="d-flex align-items-center gap-2 mt-1"
      >Opacity
      <input
        v-model.number="view.cardOpacity"
        type="range"
        class="form-range"
        min="0.1"
        max="1"
        step="0.05"
        title="How much of the plate shows through the card"
        data-test="card-opacity"
      /><span class="mono text-nowrap">{{ Math.round(100 * view.cardOpacity) }} %</span></label
    >
    <BFormCheckbox
      v-model="view.blinking"
      switch
      data-test="blink-card"
      title="Plate and card take turns, at the rate of the close-ups' blinking"
      >Blink card and plate</BFormCheckbox
    >
    <BFormCheckbox v-model="view.plateOnly" switch :title="sentenceOf('plate-alone')" data-test="plate-only"
      >Show the plate alone <kbd>V</kbd></BFormCheckbox
    >
  </BenchSection>
</template>
