<script setup lang="ts">
/** A sign that is pressed. What is said of it besides (disabled, pressed, a name for tests) stands on the button itself. */
defineProps<{
  /** of the set of signs, without its prefix */
  icon: string;
  /** what it does, read out */
  label: string;
  /** what it does, under the pointer */
  title: string;
}>();
</script>

<template>
  <button type="button" class="icon" :aria-label="label" :title="title">
    <i class="bi" :class="`bi-${icon}`" aria-hidden="true" />
  </button>
</template>

<style scoped>
.icon {
  background: none;
  border: 0;
  padding: 0;
  color: var(--text-dim);
}
.icon:disabled {
  opacity: 0.25;
}
</style>
