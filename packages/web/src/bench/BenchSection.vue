<script setup lang="ts">
/** A part of the bench under a heading that folds it away; the browser remembers which are folded. */
import { useStorage } from '@vueuse/core';

const props = defineProps<{ title: string }>();
const open = useStorage(`yarlop.open.${props.title}`, true);
</script>

<template>
  <section :aria-label="title">
    <h2>
      <button
        type="button"
        class="fold"
        :aria-expanded="open"
        :title="open ? 'Fold this part of the bench away' : 'Open this part of the bench'"
        @click="open = !open"
      >
        <i class="bi" :class="open ? 'bi-dash' : 'bi-plus'" aria-hidden="true" /> {{ title }}
      </button>
      <span class="dim fw-normal ms-1"><slot name="note" /></span>
    </h2>
    <!-- Kept while folded: keys press its buttons all the same. -->
    <div v-show="open"><slot /></div>
  </section>
</template>

<style scoped>
.fold {
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  font: inherit;
  text-align: left;
}
.fold .bi {
  color: var(--text-dim);
  font-size: 0.75rem;
}
</style>
