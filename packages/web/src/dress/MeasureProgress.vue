<script setup lang="ts">
/** How far the plate is looked through, with a way to stop. */
defineProps<{ readonly name: string; readonly done: number; readonly total: number }>();
defineEmits<{ stop: [] }>();
</script>

<template>
  <div>
    <BProgress :value="done" :max="Math.max(1, total)" />
    <div class="d-flex align-items-center mt-1">
      <span class="dim mono" role="status">{{ name }}: {{ done }} of {{ total || '...' }} frames</span
      ><BButton
        variant="outline-secondary"
        class="ms-auto"
        title="Stop measuring; nothing is changed"
        @click="$emit('stop')"
        >Stop</BButton
      >
    </div>
  </div>
</template>
