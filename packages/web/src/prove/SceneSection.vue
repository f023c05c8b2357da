<script setup lang="ts">
/** The scene's camera, judged by the eye: things that stand in it, and a look from outside. */
import BenchSection from '../bench/BenchSection.vue';
import { useCamera } from '../stores/camera';
import { useView } from '../stores/view';

const camera = useCamera();
const view = useView();
</script>

<template>
  <BenchSection v-if="camera.solved" title="Scene" data-test="scene-section">
    <BFormCheckbox
      v-model="camera.cones"
      switch
      title="Ten cones stand on chosen points, on the ground, or on points that last: play, and none may slide"
      data-test="cones"
      >Cones in the scene</BFormCheckbox
    >
    <BFormCheckbox
      v-model="camera.floor"
      switch
      :disabled="!camera.ground"
      title="A ruling on the ground: it may not slide. The ground is told in Follow, under Camera"
      data-test="floor"
      >Ruling on the ground</BFormCheckbox
    >
    <p v-if="!camera.ground" class="dim mb-1">
      No ground is told; choose points of it in Follow, under Camera, "Ground, origin and size".
    </p>
    <BButton
      size="sm"
      variant="outline-secondary"
      title="Points, the camera's way and the Screens from outside"
      data-test="see-room"
      @click="view.look = view.look === 'room' ? 'card' : 'room'"
      >{{ view.look === 'room' ? 'Back to the picture' : 'See it from outside' }}</BButton
    >
  </BenchSection>
</template>
