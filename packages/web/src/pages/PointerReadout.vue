<script setup lang="ts">
/** Where the pointer is on the picture, and what is shown and what lies in the plate there. */
import { computed } from 'vue';
import { codeText } from '../shared/format';
import { useView } from '../stores/view';

const view = useView();
const pointer = computed(() => {
  const p = view.pointer;
  if (!p) return '';
  const told = (rgb: readonly number[]): string => {
    const [r, g, b] = rgb.map((v) => codeText(v, view.white));
    return `R ${r} G ${g} B ${b}`;
  };
  const plate = p.plate ? `   plate ${told(p.plate)}` : '';
  return `x ${p.x.toFixed(1)}  y ${p.y.toFixed(1)}   ${p.rgb ? told(p.rgb) : 'outside'}${plate}`;
});
</script>

<template>
  <span data-test="readout">{{ pointer }}</span>
</template>
