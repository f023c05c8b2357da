<script setup lang="ts">
/** A part of the bench under a heading that folds it away; the browser remembers which are folded. */
import { useOpen } from './open-parts';

const props = defineProps<{
  title: string;
  /** what is set in it, told while it is folded; empty folds it until somebody opens it */
  said?: string;
  /** folded until somebody opens it, whatever is set in it */
  startsFolded?: boolean;
}>();
const open = useOpen(
  () => props.title,
  () => !props.startsFolded && props.said !== '',
);
</script>

<template>
  <section :aria-label="title" :class="{ folded: !open }">
    <h2 class="d-flex">
      <button
        type="button"
        class="fold"
        :aria-expanded="open"
        :title="open ? 'Fold this part of the bench away' : 'Open this part of the bench'"
        @click="open = !open"
      >
        <i class="bi" :class="open ? 'bi-dash' : 'bi-plus'" aria-hidden="true" /> {{ title }}
      </button>
      <span v-if="open || said === undefined" class="dim fw-normal ms-1"><slot name="note" /></span>
      <span v-if="!open && said !== undefined" class="said dim fw-normal">{{ said || 'nothing set' }}</span>
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
.said {
  flex: 1;
  min-width: 0;
  margin-left: 0.6rem;
  overflow: hidden;
  text-align: right;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
