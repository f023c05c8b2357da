<script setup lang="ts">
/** The head of one thing of a list that works in its order: chosen, muted, moved up and down, deleted. */
import IconButton from '../shared/IconButton.vue';

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
    <IconButton
      icon="arrow-up"
      :disabled="isFirst"
      title="Earlier in the list: it works before the others"
      :label="`${name} earlier`"
      @click="emit('move', -1)"
    />
    <IconButton
      icon="arrow-down"
      :disabled="isLast"
      title="Later in the list: it works on what the others left"
      :label="`${name} later`"
      @click="emit('move', 1)"
    />
    <IconButton
      :icon="off ? 'eye-slash' : 'eye'"
      :aria-pressed="off"
      :title="off ? 'Let it work again' : 'Keep it, without effect'"
      :label="`${name} works`"
      @click="emit('mute')"
    />
    <IconButton
      icon="trash3"
      :title="`Delete this ${name.toLowerCase().replace(/ \d+$/, '')}`"
      :label="`Delete ${name.toLowerCase()}`"
      @click="emit('remove')"
    />
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
