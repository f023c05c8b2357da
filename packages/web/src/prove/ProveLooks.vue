<script setup lang="ts">
/** What takes the picture's place in Prove: the Screen laid flat, a line of it over time, curves, the scene. */
import { defineAsyncComponent } from 'vue';
import type { Look } from '../stores/view';
import { useView } from '../stores/view';
import CurvesView from './CurvesView.vue';
import FlatView from './FlatView.vue';
import SlitView from './SlitView.vue';
import FlatLoader from './FlatLoader.vue';

/** Fetched when it is first looked at: what draws in 3D is large. */
const RoomView = defineAsyncComponent(() => import('./RoomView.vue'));

const view = useView();
const LOOKS: readonly (readonly [Look, string, string])[] = [
  ['card', 'In place', 'The card on the plate'],
  ['flat', 'Laid flat', 'Every frame unwarped to the same rectangle'],
  ['slit', 'Slit', 'One line of the flat view over all frames'],
  ['curves', 'Curves', 'Slip, paths, speed, trust over the frames'],
  ['room', 'Room', "The scene from outside: points, the camera's way, Screens"],
];
</script>

<template>
  <div class="tabs" role="group" aria-label="How the track is looked at">
    <button
      v-for="[k, name, what] in LOOKS"
      :key="k"
      type="button"
      :aria-pressed="view.look === k"
      :title="`${what} (Y goes through them)`"
      :data-test="`look-${k}`"
      @click="view.look = k"
    >
      {{ name }}
    </button>
  </div>
  <div v-if="view.look !== 'card'" class="over" @pointerdown.stop @wheel.stop>
    <CurvesView v-if="view.look === 'curves'" />
    <RoomView v-else-if="view.look === 'room'" />
    <FlatLoader v-else v-slot="{ stack }">
      <FlatView v-if="view.look === 'flat'" :stack="stack" />
      <SlitView v-else :stack="stack" />
    </FlatLoader>
  </div>
</template>

<style scoped>
.tabs {
  position: absolute;
  right: 10px;
  top: 8px;
  z-index: 3;
  display: flex;
  border: 1px solid var(--line);
  border-radius: 3px;
  overflow: hidden;
  background: var(--ink);
}
.tabs button {
  background: none;
  border: 0;
  border-left: 1px solid var(--line);
  color: var(--text-dim);
  padding: 0.1rem 0.6rem;
  font-size: 0.8rem;
}
.tabs button:first-child {
  border-left: 0;
}
.tabs button[aria-pressed='true'] {
  color: var(--text);
  box-shadow: inset 0 -2px 0 var(--brass);
}
.over {
  position: absolute;
  inset: 0;
  z-index: 1;
  background: #242424;
}
</style>
