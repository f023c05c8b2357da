<script setup lang="ts">
/** The points of the scene on the picture, and the tools that choose among them. */
import { computed } from 'vue';
import { pointsAbout } from '@yarlop/core/camera/surface';
import { newOnSurface } from '../follow/on-surface';
import { useCamera } from '../stores/camera';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { DrawnBox } from './use-drawn-box';
import { onOverlay, useDrawnBox } from './use-drawn-box';
import type { useViewport } from './use-viewport';

/** Points about a click that tell its surface. By trial. */
const ABOUT = 14;

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const camera = useCamera();
const playhead = usePlayhead();
const store = useShot();
const view = useView();
const isTool = computed(() => view.tool.kind === 'box-points' || view.tool.kind === 'place-surface');

const pins = computed(() =>
  camera.shown || isTool.value
    ? camera.seen.map(({ id, at, error }) => {
        const [x, y] = props.port.toView(at);
        return { id, x, y, isDoubtful: error > camera.doubtful, isChosen: camera.chosen.has(id) };
      })
    : [],
);
/** While a run is on: where points were found on the frame that it looks at. */
const found = computed(() => {
  const f = camera.found;
  if (!f || !camera.job || f.frame !== playhead.frame) return [];
  return Array.from({ length: f.places.length / 2 }, (_, i) =>
    props.port.toView([f.places[2 * i]!, f.places[2 * i + 1]!]),
  );
});

const { box, begin } = useDrawnBox();
function press(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  if (view.tool.kind === 'place-surface') {
    const from = onOverlay(e, (e.currentTarget as SVGElement).ownerSVGElement!);
    view.tool = { kind: 'select' };
    const ids = pointsAbout(camera.seen, props.port.toPlate(...from), ABOUT);
    void newOnSurface(store, camera, ids).catch(() => {});
    return;
  }
  begin(e, (b) => take(b, e.shiftKey));
}
function take(b: DrawnBox, more: boolean): void {
  const inside = pins.value.filter((p) => p.x >= b.left && p.x <= b.right && p.y >= b.top && p.y <= b.bottom);
  camera.choose(
    inside.map((p) => p.id),
    more,
  );
}
</script>

<template>
  <g data-test="camera-points" :data-count="pins.length" :data-frame="playhead.frame">
    <g v-for="p in pins" :key="p.id" :class="{ doubtful: p.isDoubtful, chosen: p.isChosen }">
      <path :d="`M${p.x} ${p.y}l${p.isDoubtful ? 5 : 0} -7`" class="under" />
      <path :d="`M${p.x} ${p.y}l${p.isDoubtful ? 5 : 0} -7`" class="stem" />
      <circle :cx="p.x + (p.isDoubtful ? 5 : 0)" :cy="p.y - 7" r="2.2" class="head" />
      <circle v-if="p.isChosen" :cx="p.x" :cy="p.y" r="6" class="ring" />
    </g>
    <circle v-for="(p, i) in found" :key="`f${i}`" :cx="p[0]" :cy="p[1]" r="2" class="found" />
    <rect
      v-if="isTool"
      x="0"
      y="0"
      width="100%"
      height="100%"
      class="catcher"
      data-test="camera-catcher"
      @pointerdown="press"
    />
    <rect
      v-if="box"
      :x="box.left"
      :y="box.top"
      :width="box.right - box.left"
      :height="box.bottom - box.top"
      class="box"
    />
  </g>
</template>

<style scoped>
.under {
  stroke: #000a;
  stroke-width: 3;
}
.stem {
  stroke: var(--on-picture-scene);
  stroke-width: 1.2;
}
.head {
  fill: var(--on-picture-scene);
  stroke: #000a;
  stroke-width: 0.7;
}
.doubtful .stem {
  stroke: var(--weak);
}
.doubtful .head {
  fill: none;
  stroke: var(--weak);
  stroke-width: 1.2;
}
.ring {
  fill: none;
  stroke: var(--brass);
  stroke-width: 2;
}
.found {
  fill: var(--on-picture-scene);
  stroke: #000a;
  stroke-width: 0.6;
}
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
.box {
  fill: #0002;
  stroke: var(--brass);
  stroke-width: 1.5;
  stroke-dasharray: 2 3;
}
</style>
