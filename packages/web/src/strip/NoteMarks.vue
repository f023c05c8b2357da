<script setup lang="ts">
/** Where notes stand in the strip: a bar over the frames of each, the open ones full. */
import { usePlayhead } from '../stores/playhead';
import { useReview } from '../stores/review';

defineProps<{ x: (frame: number) => number }>();
const playhead = usePlayhead();
const review = useReview();
/** Px; a note on one frame of many is still seen. */
const LEAST = 4;

function titleOf({ from, to, words, state }: { from: number; to: number; words: string; state: string }): string {
  const frames = from === to ? `${from}` : `${from} to ${to}`;
  return `Note on ${frames} (${state}): ${words}`;
}
</script>

<template>
  <span
    v-for="n in review.notes"
    :key="n.id"
    class="said"
    :class="n.state"
    :style="{ left: `${x(n.from)}px`, width: `${Math.max(LEAST, x(n.to + 1) - x(n.from))}px` }"
    :title="titleOf(n)"
    :data-test="`note-mark-${n.id}`"
    @click="playhead.go(n.from)"
  />
</template>

<style scoped>
.said {
  position: absolute;
  top: 0;
  height: 5px;
  border: 1px solid var(--on-picture-scene);
}
.said.open {
  background: var(--on-picture-scene);
}
.said.approved {
  opacity: 0.5;
}
</style>
