<script setup lang="ts">
/** What the tool that is taken asks for. */
import { computed } from 'vue';
import type { DrawnKind } from '../edits/drawn-outline';
import { useView } from '../stores/view';

const props = defineProps<{
  /** the corner that is to be dropped next, and how many are there */
  corner: string;
  dropped: number;
  /** why corners could not be dropped; '' where they could */
  problem: string;
}>();
const view = useView();

/** What the person is asked to draw around. */
const DRAWS: Readonly<Record<DrawnKind, string>> = {
  follow: 'What is to be followed.',
  ignore: 'What is to be ignored.',
  holdout: 'What is to stay in front.',
  grade: 'What is to be graded.',
  'paint-out': 'The mark that is to go.',
  cut: 'What is to show the fill.',
  carried: 'What is to be followed by itself.',
};
const LEAVE = 'Escape leaves off.';
const hint = computed((): string => {
  const { tool } = view;
  switch (tool.kind) {
    case 'select':
      return '';
    case 'drop-corners':
      return `Click the screen's ${props.corner} corner, as the content stands (${props.dropped + 1} of 4). By keys: arrows (Shift: finely), then Enter. ${LEAVE}`;
    case 'draw-patch':
      return `${DRAWS[tool.patch]} Click around it, or draw around it in one stroke. Enter closes the outline, Escape leaves off.`;
    case 'sample':
      return `${tool.asks} ${LEAVE}`;
    case 'add-spot':
      return `Click a small place that has contrast in two directions and moves with the screen. ${LEAVE}`;
    case 'box-points':
      return `Draw a box around points of the scene; Shift adds to what is chosen. ${LEAVE}`;
    case 'measure-box':
      return `Draw a box: its darkest, mean and brightest values are read out, while it plays as well. ${LEAVE}`;
    case 'draw-note':
      return `Draw on the picture, stroke by stroke, for the note. ${LEAVE}`;
    case 'place-surface':
      return `Click a surface of the room: a Screen is laid on it where its points are. ${LEAVE}`;
  }
});
</script>

<template>
  <div v-if="hint" class="hint" role="status">{{ hint }}</div>
  <div v-if="problem" class="hint weak" role="alert">{{ problem }}</div>
</template>

<style scoped>
.hint {
  position: absolute;
  left: 8px;
  bottom: 42px;
  max-width: calc(100% - 310px);
  background: var(--ink);
  color: var(--text);
  border: 1px solid var(--brass);
  padding: 0.3rem 0.8rem;
  border-radius: 3px;
}
.hint.weak {
  border-color: var(--weak);
  bottom: 100px;
}
</style>
