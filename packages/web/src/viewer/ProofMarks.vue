<script setup lang="ts">
/** Cones and a ruling that stand in the scene: where the camera is right, neither slides. */
import { computed } from 'vue';
import { coneOn, rulingOn } from '@yarlop/core/camera/proof-marks';
import { flipped } from '@yarlop/core/camera/view-model';
import type { Point } from '@yarlop/core/geometry/point';
import { useCamera } from '../stores/camera';
import { usePlayhead } from '../stores/playhead';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const camera = useCamera();
const playhead = usePlayhead();
const view = computed(() => camera.views.get(playhead.frame));
const text = (points: readonly Point[]): string => points.map((p) => props.port.toView(p).join(',')).join(' ');

const cones = computed(() => {
  const { solved, stand } = camera;
  const file = solved?.file;
  if (!camera.cones || !file || !view.value || !stand) return [];
  const wanted = new Set(camera.conePoints);
  return file.points.flatMap((p) => {
    const cone = wanted.has(p.id) ? coneOn(file, view.value!, stand, flipped(p.position), camera.coneHeight) : null;
    return cone ? [{ id: p.id, ...cone }] : [];
  });
});
const lines = computed(() => {
  const { solved, ground } = camera;
  return camera.floor && solved && ground && view.value
    ? rulingOn(solved.file, view.value, ground, camera.coneHeight)
    : [];
});
</script>

<template>
  <g data-test="proof-marks" :data-cones="cones.length" :data-lines="lines.length">
    <polyline v-for="(l, i) in lines" :key="`l${i}`" :points="text(l)" class="line" />
    <g v-for="c in cones" :key="c.id" class="cone">
      <polygon :points="text(c.foot)" class="foot" />
      <polyline v-for="k in [0, 5, 10, 15]" :key="k" :points="text([c.foot[k]!, c.tip])" class="side" />
    </g>
  </g>
</template>

<style scoped>
.line {
  fill: none;
  stroke: var(--on-picture-scene);
  stroke-width: 1;
  opacity: 0.75;
}
.foot {
  fill: #0004;
  stroke: #f6e7bd;
  stroke-width: 1.2;
}
.side {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.4;
}
</style>
