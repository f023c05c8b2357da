<script setup lang="ts">
/** The points of the scene on the picture, and the tools that choose among them. */
import { computed, ref } from 'vue';
import { pointsAbout } from '@yarlop/core/camera/surface';
import { newOnSurface } from '../follow/on-surface';
import { holdPointer } from '../shared/hold-pointer';
import { useCamera } from '../stores/camera';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
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

const box = ref<readonly [number, number, number, number] | null>(null);
function local(e: PointerEvent, svg: SVGElement): [number, number] {
  const r = svg.getBoundingClientRect();
  return [e.clientX - r.left, e.clientY - r.top];
}
function press(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  const svg = (e.currentTarget as SVGElement).ownerSVGElement!;
  const from = local(e, svg);
  if (view.tool.kind === 'place-surface') {
    view.tool = { kind: 'select' };
    const ids = pointsAbout(camera.seen, props.port.toPlate(...from), ABOUT);
    void newOnSurface(store, camera, ids).catch(() => {});
    return;
  }
  holdPointer(
    e,
    e.currentTarget as Element,
    (m) => {
      const to = local(m, svg);
      box.value = [
        Math.min(from[0], to[0]),
        Math.min(from[1], to[1]),
        Math.max(from[0], to[0]),
        Math.max(from[1], to[1]),
      ];
    },
    () => take(e.shiftKey),
  );
}
function take(more: boolean): void {
  const b = box.value;
  box.value = null;
  if (!b) return;
  const inside = pins.value.filter((p) => p.x >= b[0] && p.x <= b[2] && p.y >= b[1] && p.y <= b[3]);
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
    <rect v-if="box" :x="box[0]" :y="box[1]" :width="box[2] - box[0]" :height="box[3] - box[1]" class="box" />
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
