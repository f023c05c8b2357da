<script setup lang="ts">
/** The camera's points: seen on the picture, chosen by a box, dropped. */
import { countText } from '../shared/format';
import { useCamera } from '../stores/camera';
import { useView } from '../stores/view';

const camera = useCamera();
const view = useView();

/** Points are dropped, and the camera is solved again without them. */
function drop(ids: readonly number[]): void {
  camera.say({ dropped: [...new Set([...camera.settings.dropped, ...ids])] });
  camera.choose([], false);
  void camera.solve();
}
function takeBack(): void {
  camera.say({ dropped: [] });
  void camera.solve();
}
</script>

<template>
  <div>
    <BFormCheckbox
      v-model="camera.shown"
      title="Where the camera's points are seen: upright pins keep well, leaning ones miss more than the others"
      data-test="camera-shown"
      >Show its points on the picture</BFormCheckbox
    >
    <div class="d-flex flex-wrap gap-1 mt-1">
      <BButton
        size="sm"
        variant="outline-secondary"
        title="Draw a box around points; with Shift more are added"
        data-test="camera-box"
        @click="view.tool = { kind: 'box-points' }"
        >Choose points</BButton
      >
      <BButton
        v-if="camera.worst.length > 0"
        size="sm"
        variant="outline-secondary"
        :title="`Points that miss by more than ${camera.doubtful.toFixed(2)} px`"
        data-test="camera-worst"
        @click="
          camera.choose(
            camera.worst.map((p) => p.id),
            false,
          )
        "
        >Choose the {{ camera.worst.length }} that miss most</BButton
      >
      <BButton
        v-if="camera.chosen.size > 0"
        size="sm"
        variant="outline-secondary"
        title="The camera is solved again without them"
        data-test="camera-drop"
        @click="drop([...camera.chosen])"
        >Drop {{ countText(camera.chosen.size, 'point') }}</BButton
      >
      <BButton
        v-if="camera.settings.dropped.length > 0"
        size="sm"
        variant="outline-secondary"
        title="The camera is solved again with all points"
        data-test="camera-take-back"
        @click="takeBack"
        >Take {{ countText(camera.settings.dropped.length, 'dropped point') }} back</BButton
      >
    </div>
  </div>
</template>
