<script setup lang="ts">
import { useView } from '../stores/view';
import type { Channel } from '../shared/view-aid';
import { PLAIN, isPlain } from '../shared/view-aid';

const view = useView();
const CHANNELS: Channel[] = ['all', 'red', 'green', 'blue', 'luma'];
const WHAT = {
  brighten: 'Multiplies the light, to see into dark parts',
  contrast: 'Stretches grey levels about the middle',
  gamma: 'Lifts or lowers the middle tones',
} as const;
const SLIDERS = [
  ['brighten', 'Brighten', 0.5, 8, 0.1],
  ['contrast', 'Contrast', 0.5, 6, 0.1],
  ['gamma', 'Gamma', 0.4, 3, 0.05],
] as const;
</script>

<template>
  <label v-for="[key, name, min, max, step] in SLIDERS" :key="key" class="slider"
    ><span>{{ name }}</span
    ><input
      v-model.number="view[key]"
      type="range"
      class="form-range"
      :title="WHAT[key]"
      :min="min"
      :max="max"
      :step="step"
      :data-test="key"
    /><span class="mono value">{{ view[key].toFixed(step < 0.1 ? 2 : 1) }}x</span></label
  >
  <div class="d-flex align-items-center gap-1 mt-1">
    <BFormSelect
      v-model="view.channel"
      class="channel"
      aria-label="Channel"
      title="Look at one channel, or at luma, in grey"
      data-test="channel"
      :options="CHANNELS"
    />
    <BFormCheckbox v-model="view.edges" title="Lift edges out, to see where the glass ends" data-test="edges"
      >Edges</BFormCheckbox
    >
    <BFormCheckbox v-model="view.smooth" title="Smooth the magnified pixels of the close-ups">Smooth</BFormCheckbox>
    <BButton
      variant="outline-secondary"
      class="ms-auto px-2"
      title="The picture as it is, without any aid"
      :disabled="isPlain(view)"
      data-test="aid-plain"
      @click="Object.assign(view, PLAIN)"
      >Plain</BButton
    >
  </div>
</template>

<style scoped>
.slider {
  display: grid;
  grid-template-columns: 4.2rem 1fr 3rem;
  align-items: center;
  gap: 0.5rem;
}
.value {
  text-align: right;
}
.channel {
  width: 5.2rem;
  min-width: 0;
  flex: 0 1 auto;
}
:deep(.form-check) {
  margin: 0;
  min-height: 0;
}
</style>
