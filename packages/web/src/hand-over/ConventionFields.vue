<script setup lang="ts">
import { useConventions } from './use-conventions';

const { conventions } = useConventions();
</script>

<template>
  <details>
    <summary title="How coordinates are written into the file, which says so itself">
      Conventions: {{ conventions.origin }}, {{ conventions.units }}, whole numbers on pixel
      {{ conventions.pixelOrigin }}s
    </summary>
    <label class="d-flex gap-2 mt-1"
      >Origin
      <BFormSelect
        v-model="conventions.origin"
        title="Where coordinates count from; from the bottom, y goes up"
        :options="['top-left', 'bottom-left', 'centre']"
        data-test="origin"
    /></label>
    <label class="d-flex gap-2 mt-1"
      >Units
      <BFormSelect
        v-model="conventions.units"
        title="Pixels, or shares of the picture's width and height"
        :options="['pixels', 'normalised']"
    /></label>
    <label class="d-flex gap-2 mt-1"
      >Whole numbers on pixel
      <BFormSelect
        v-model="conventions.pixelOrigin"
        title="Whether whole numbers lie on corners or on centres of pixels"
        :options="['corner', 'centre']"
    /></label>
  </details>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
</style>
