<script setup lang="ts">
/** Numbers of a display's look that stay the same over a shot: its own pixels, the bands of its scan, which noise. */
import { computed } from 'vue';
import { useDress } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';

const { dress, set } = useDress();
/** A phone's, until somebody says. */
const USUAL = [1170, 2532] as const;
const look = computed(() => dress.value.look);
function resolution(i: 0 | 1, v: number): void {
  const now = look.value?.resolution ?? USUAL;
  set('Set resolution', 'look', { resolution: i === 0 ? [v, now[1]] : [now[0], v] });
}
</script>

<template>
  <div class="numbers mt-1">
    <span class="dim">device px</span
    ><NumberField
      v-for="i in [0, 1] as const"
      :key="i"
      :min="1"
      whole
      :model-value="look?.resolution?.[i] ?? null"
      :placeholder="i ? 'down' : 'across'"
      :aria-label="i ? 'Pixels down' : 'Pixels across'"
      title="The device's own resolution: it gives the grid its pitch"
      @update:model-value="resolution(i, $event!)"
    />
    <span class="dim">scan</span
    ><NumberField
      :min="0.1"
      :max="50"
      optional
      :model-value="look?.scanBands ?? null"
      placeholder="1 band"
      aria-label="Bands of the scan"
      title="Bands on the Screen at once"
      data-test="scan-bands"
      @update:model-value="set('Set bands of scan', 'look', { scanBands: $event ?? undefined })"
    /><NumberField
      :min="-20"
      :max="20"
      optional
      :model-value="look?.scanSpeed ?? null"
      placeholder="0.3 / s"
      aria-label="Speed of the scan"
      title="Screens a second that the bands roll down; below zero up"
      data-test="scan-speed"
      @update:model-value="set('Set speed of scan', 'look', { scanSpeed: $event ?? undefined })"
    />
    <span class="dim">noise no.</span
    ><NumberField
      whole
      :min="0"
      :max="1000000"
      optional
      :model-value="look?.noiseSeed ?? null"
      placeholder="0"
      aria-label="Which panel noise"
      title="Another number is another noise"
      data-test="noise-seed"
      @update:model-value="set('Set panel noise', 'look', { noiseSeed: $event ?? undefined })"
    />
  </div>
</template>

<style scoped>
.numbers {
  display: grid;
  grid-template-columns: 5.4rem 1fr 1fr;
  gap: 3px;
  align-items: center;
  font-size: 0.8125rem;
}
.numbers .form-control {
  padding: 0 0.3rem;
  height: 1.5rem;
}
</style>
