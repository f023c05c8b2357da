<script setup lang="ts">
/** The head of one thing of a list that works in its order: chosen, muted, moved up and down, deleted. */
defineProps<{
  /** what it is, as it is called */
  title: string;
  /** as its parts are called where they are read out: "Holdout 2" */
  name: string;
  chosen: boolean;
  off: boolean;
  isFirst: boolean;
  isLast: boolean;
}>();
const emit = defineEmits<{ choose: []; mute: []; move: [by: 1 | -1]; remove: [] }>();
</script>

<template>
  <div class="d-flex gap-2 align-items-center">
    <button type="button" class="name" :aria-pressed="chosen" title="Shape it on the picture" @click="emit('choose')">
      {{ title }}
    </button>
    <slot />
    <span class="ms-auto" />
    <button
      type="button"
      class="icon"
      :disabled="isFirst"
      title="Earlier in the list: it works before the others"
      :aria-label="`${name} earlier`"
      @click="emit('move', -1)"
    >
      <i class="bi bi-arrow-up" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="icon"
      :disabled="isLast"
      title="Later in the list: it works on what the others left"
      :aria-label="`${name} later`"
      @click="emit('move', 1)"
    >
      <i class="bi bi-arrow-down" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="icon"
      :aria-pressed="off"
      :title="off ? 'Let it work again' : 'Keep it, without effect'"
      :aria-label="`${name} works`"
      @click="emit('mute')"
    >
      <i class="bi" :class="off ? 'bi-eye-slash' : 'bi-eye'" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="icon"
      :title="`Delete this ${name.toLowerCase().replace(/ \d+$/, '')}`"
      :aria-label="`Delete ${name.toLowerCase()}`"
      @click="emit('remove')"
    >
      <i class="bi bi-trash3" aria-hidden="true" />
    </button>
  </div>
</template>

<style scoped>
.name {
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  font-weight: 600;
  text-align: left;
}
.name[aria-pressed='true'] {
  color: var(--brass);
}
</style>
