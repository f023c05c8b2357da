<script setup lang="ts">
/** The view aid beside the picture, in every stage: dark glass is brightened where its corners are set. */
import { sentenceOf } from '../commands/catalogue';
import { perform, provideCommand } from '../commands/use-commands';
import { isPlain } from '../shared/view-aid';
import { useView } from '../stores/view';
import AidControls from './AidControls.vue';

const view = useView();
provideCommand('view-aid', () => (view.aidOpen = !view.aidOpen));
</script>

<template>
  <div class="aid-panel">
    <div v-if="view.aidOpen" class="controls" role="group" aria-label="View aid" data-test="aid-panel">
      <AidControls />
    </div>
    <div class="buttons">
      <BButton
        variant="outline-secondary"
        size="sm"
        :pressed="view.tool.kind === 'measure-box' || view.box !== null"
        :title="sentenceOf('measure-box')"
        data-test="measure-box"
        @click="perform('measure-box')"
        >Values of a box <kbd>Shift+A</kbd></BButton
      >
      <BButton
        variant="outline-secondary"
        size="sm"
        :pressed="view.aidOpen"
        :class="{ on: !isPlain(view) }"
        :title="sentenceOf('view-aid')"
        data-test="aid-open"
        @click="perform('view-aid')"
        >View aid <kbd>A</kbd></BButton
      >
    </div>
  </div>
</template>

<style scoped>
.aid-panel {
  position: absolute;
  right: 8px;
  bottom: 8px;
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  gap: 4px;
}
.controls {
  width: 280px;
  padding: 8px;
  background: var(--ink-raised);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.buttons {
  display: flex;
  gap: 4px;
}
.buttons > button {
  background: var(--ink);
  font-size: 0.75rem;
  padding: 1px 7px;
  white-space: nowrap;
}
.buttons kbd {
  padding: 0 3px;
  font-size: 0.7rem;
}
.buttons > button.on {
  border-color: var(--weak);
  color: var(--weak);
}
</style>
