<script setup lang="ts">
/** How the scene is set into a world: ground, origin and a true length, by chosen points. */
import { computed, ref } from 'vue';
import { countText } from '../shared/format';
import NumberField from '../shared/NumberField.vue';
import { useCamera } from '../stores/camera';
import type { CameraSettings } from '../types';

type World = NonNullable<CameraSettings['world']>;
const camera = useCamera();
const world = computed((): World => camera.settings.world ?? {});
const chosen = computed(() => [...camera.chosen]);
const metres = ref<number | null>(1);

function set(part: World): void {
  camera.say({ world: { ...world.value, ...part } });
  camera.choose([], false);
}
</script>

<template>
  <details class="mt-2" data-test="camera-world">
    <summary title="The solver knows neither up nor size: tell them for 3D programs and for the view in Prove">
      Ground, origin and size
    </summary>
    <p class="dim mb-1 mt-1">
      {{ world.ground ? `The ground goes through ${countText(world.ground.length, 'point')}` : 'No ground is told' }};
      {{ world.origin === undefined ? 'the origin is its middle' : `the origin is point ${world.origin}` }};
      {{ world.length ? `two points are ${world.length.metres} m apart` : 'nothing tells the size' }}.
    </p>
    <div class="d-flex flex-wrap gap-1 align-items-center">
      <BButton
        size="sm"
        variant="outline-secondary"
        :disabled="chosen.length < 3"
        title="Three points and more that lie on the ground, chosen on the picture"
        data-test="world-ground"
        @click="set({ ground: chosen as [number, number, number] })"
        >These lie on the ground</BButton
      >
      <BButton
        size="sm"
        variant="outline-secondary"
        :disabled="chosen.length !== 1"
        title="One point, chosen on the picture"
        data-test="world-origin"
        @click="set({ origin: chosen[0]! })"
        >This is the origin</BButton
      >
      <BButton
        size="sm"
        variant="outline-secondary"
        :disabled="chosen.length !== 2 || metres === null"
        title="Two points, chosen on the picture, and how far they are apart"
        data-test="world-length"
        @click="set({ length: { from: chosen[0]!, to: chosen[1]!, metres: metres! } })"
        >These two are apart by</BButton
      >
      <NumberField v-model="metres" class="metres" :min="0.001" :max="100000" aria-label="Metres between two points" />
      m
      <BButton
        v-if="camera.settings.world"
        size="sm"
        variant="link"
        class="p-0"
        title="Back to what the solver has: the first frame's camera at the origin"
        @click="camera.say({ world: undefined })"
        >Forget these</BButton
      >
    </div>
  </details>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
.metres {
  width: 4.6rem;
}
</style>
