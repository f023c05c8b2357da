<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { holdPointer } from '../shared/hold-pointer';
import { hueOf } from '../shared/screen-look';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { usePinEdit } from './use-pin-edit';

const props = defineProps<{ bitmap: ImageBitmap | null; corner: number; plateWidth: number }>();
const SIDE = 168;
const canvas = ref<HTMLCanvasElement | null>(null);
const store = useShot(), tracks = useTracks(), playhead = usePlayhead(), view = useView(), edit = usePinEdit();
const at = computed(() => {
  const s = store.chosen;
  return s && tracks.corners(s, playhead.frame)?.[props.corner];
});
const hue = computed(() => hueOf(store.screens.findIndex((s) => s.id === store.chosenId)));

watchEffect(() => {
  const c = canvas.value, p = at.value;
  if (!c) return;
  const g = c.getContext('2d')!, k = props.bitmap ? props.bitmap.width / props.plateWidth : 1, half = SIDE / view.closeUp / 2;
  g.fillStyle = '#2a2a2a';
  g.fillRect(0, 0, SIDE, SIDE);
  if (!props.bitmap || !p) return;
  g.imageSmoothingEnabled = false;
  g.filter = view.brighten === 1 ? 'none' : `brightness(${view.brighten})`;
  g.drawImage(props.bitmap, (p[0] - half) * k, (p[1] - half) * k, 2 * half * k, 2 * half * k, 0, 0, SIDE, SIDE);
  g.filter = 'none';
}, { flush: 'post' });

function down(e: PointerEvent): void {
  const s = store.chosen, p = at.value;
  if (!s || !p) return;
  view.armed = props.corner;
  const from = [e.clientX, e.clientY], drag = edit.begin(s, playhead.frame, props.corner), k = SIDE / (e.currentTarget as Element).clientWidth;
  holdPointer(e, e.currentTarget as Element, (m) => drag.to([p[0] - ((m.clientX - from[0]!) * k) / view.closeUp, p[1] - ((m.clientY - from[1]!) * k) / view.closeUp]), drag.end);
}
</script>

<template>
  <figure class="close-up" :class="{ armed: view.armed === corner }" :style="{ '--hue': hue }" @pointerdown.stop="down">
    <canvas ref="canvas" :width="SIDE" :height="SIDE" role="img" :aria-label="`Close-up of corner ${CORNER_NAMES[corner]} at ${view.closeUp}x`" />
    <svg :viewBox="`0 0 ${SIDE} ${SIDE}`" aria-hidden="true">
      <path :d="`M${SIDE / 2} 0V${SIDE / 2 - 9}M${SIDE / 2} ${SIDE}V${SIDE / 2 + 9}M0 ${SIDE / 2}H${SIDE / 2 - 9}M${SIDE} ${SIDE / 2}H${SIDE / 2 + 9}`" />
    </svg>
    <figcaption class="mono">{{ CORNER_NAMES[corner] }}</figcaption>
  </figure>
</template>

<style scoped>
.close-up { position: relative; margin: 0; border: 1px solid var(--line); cursor: grab; aspect-ratio: 1; }
.close-up.armed { border-color: var(--brass); }
.close-up canvas { width: 100%; height: 100%; display: block; image-rendering: pixelated; }
.close-up svg { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; }
.close-up path { stroke: var(--hue); stroke-width: 1.2; }
figcaption { position: absolute; left: 4px; bottom: 2px; font-size: 0.6875rem; color: #fff; background: #000a; padding: 0 4px; }
</style>
