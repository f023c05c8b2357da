<script setup lang="ts">
/** What the camera is to the chosen Screen, and new Screens on surfaces of the scene. */
import { computed } from 'vue';
import { asSentence, countText } from '../shared/format';
import { useCamera } from '../stores/camera';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { newOnSurface } from './on-surface';
import { useRecipe } from '../edits/use-recipe';
import { useWays, withWays } from '../edits/use-ways';
import { DEVICE_SHAPES } from '@yarlop/core/pin/proportions';
import NumberField from '../shared/NumberField.vue';

const camera = useCamera();
const store = useShot();
const view = useView();
const { recipe, track, change } = useRecipe();
const { here, span, reach } = useWays();
const byPoints = computed(() => recipe.value?.scenePlane?.points.length ?? 0);
const SHAPES = [
  { value: '', text: 'as far as the points reach' },
  ...DEVICE_SHAPES.map(({ id, name }) => ({ value: id, text: `of ${name}` })),
];
const offset = computed(() => 100 * (recipe.value?.scenePlane?.offset ?? 0));
const canPlane = computed(() => camera.chosen.size >= 3);

/** It stands still throughout, unless a section or the working range was named for changes. */
function restOnScene(isOn: boolean): void {
  const isPart = reach.value === 'section' || reach.value === 'range';
  const after = withWays(recipe.value!, isPart ? span.value : null, { scene: isOn });
  store.edit(isOn ? 'Rest on the scene' : 'Rest on itself alone', after);
}
function planeByPoints(): void {
  change('Set plane by points', {
    scene: true,
    scenePlane: { points: [...camera.chosen] as [number, number, number] },
  });
}
function setOffset(percent: number): void {
  const { points } = recipe.value!.scenePlane!;
  change('Set distance before the points', { scenePlane: { points, ...(percent ? { offset: percent / 100 } : {}) } });
}
function planeByFollowing(): void {
  change('Take plane from following', { scenePlane: undefined });
}
</script>

<template>
  <div class="mt-2">
    <template v-if="recipe && !recipe.carried">
      <BFormCheckbox
        :model-value="here.scene ?? false"
        switch
        title="It does not move by itself: the camera tells its corners together with what is followed. Nothing has to be followed again"
        data-test="rests-on-scene"
        @update:model-value="restOnScene(Boolean($event))"
        >{{ recipe.name }} stands still: it rests on the scene too</BFormCheckbox
      >
      <p v-if="track?.scene?.note" class="weak mb-1" role="alert" data-test="scene-note">
        {{ asSentence(track.scene.note) }}
      </p>
      <p v-if="here.scene && byPoints > 0" class="dim mb-1">
        Its plane goes through {{ countText(byPoints, 'point') }}.
        <BButton
          size="sm"
          variant="link"
          class="p-0"
          title="The plane that explains the followed corners on all frames"
          data-test="plane-by-following"
          @click="planeByFollowing"
          >Take it from what was followed</BButton
        >
      </p>
      <label v-if="here.scene && byPoints > 0" class="pair mb-1"
        >The screen lies
        <NumberField
          :model-value="offset"
          :min="-100"
          :max="100"
          :step="0.5"
          aria-label="How far before the points the screen lies, % of its width"
          title="Glass may lie before the bezel or the wall that the points are on; a share of the length of its upper side"
          data-test="plane-offset"
          @update:model-value="setOffset($event)"
        />
        % of its width before them</label
      >
      <BButton
        v-if="canPlane"
        size="sm"
        variant="outline-secondary"
        title="The chosen points lie in the screen's plane: nothing has to be followed"
        data-test="plane-by-points"
        @click="planeByPoints"
        >{{ recipe.name }} lies in the plane of the {{ camera.chosen.size }} points</BButton
      >
    </template>
    <label class="d-block mt-1"
      >A new Screen is
      <BFormSelect
        v-model="camera.surfaceShape"
        :options="SHAPES"
        title="Width by height of the Screen that is laid on a surface, in true perspective"
        data-test="surface-shape"
    /></label>
    <div class="d-flex flex-wrap gap-1 mt-1">
      <BButton
        size="sm"
        variant="outline-secondary"
        title="Click a surface: a Screen is laid on it, carried by the camera alone; then set its corners"
        data-test="surface"
        @click="view.tool = { kind: 'place-surface' }"
        >New Screen on a surface</BButton
      >
      <BButton
        v-if="canPlane"
        size="sm"
        variant="outline-secondary"
        title="A Screen is laid on the plane through the chosen points, carried by the camera alone"
        data-test="surface-by-points"
        @click="newOnSurface(store, camera, [...camera.chosen])"
        >New Screen on the chosen points</BButton
      >
    </div>
  </div>
</template>

<style scoped>
.pair {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  align-items: center;
}
.pair .form-control {
  width: 4.6rem;
}
.weak {
  color: var(--weak);
}
</style>
