<script setup lang="ts">
/** The picture about the pointer, enlarged, while a corner is being set. */
import { computed, ref, watchEffect } from 'vue';
import { useView } from '../stores/view';
import { isPlain } from '../shared/view-aid';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport>; at: readonly [number, number] }>();
const view = useView();
const canvas = ref<HTMLCanvasElement | null>(null);
/** CSS px of its side, and from the pointer to it. */
const SIDE = 136;
const AWAY = 28;
/** CSS px a plate px; more where the view is as large. */
const LEAST = 8;
const zoom = computed(() => Math.max(LEAST, 2 * props.port.zoom.value));
/** Beside the pointer, on the side where there is room. */
const place = computed(() => {
  const [x, y] = props.port.toView(props.at);
  const left = x + AWAY + SIDE < props.port.w.value ? x + AWAY : x - AWAY - SIDE;
  const top = y + AWAY + SIDE < props.port.h.value ? y + AWAY : y - AWAY - SIDE;
  return { left: `${left}px`, top: `${top}px` };
});
watchEffect(
  () => {
    const c = canvas.value;
    const seen = view.seen;
    const [x, y] = props.at;
    if (!c) return;
    const n = Math.round(SIDE * window.devicePixelRatio);
    if (c.width !== n) [c.width, c.height] = [n, n];
    const g = c.getContext('2d')!;
    g.fillStyle = '#2a2a2a';
    g.fillRect(0, 0, n, n);
    if (!seen) return;
    const k = (zoom.value * n) / SIDE;
    g.imageSmoothingEnabled = false;
    g.drawImage(
      seen.canvas,
      n / 2 + (seen.at.x - x) * k,
      n / 2 + (seen.at.y - y) * k,
      seen.at.width * k,
      seen.at.height * k,
    );
  },
  { flush: 'post' },
);
</script>

<template>
  <div class="loupe" :style="place" data-test="loupe" :data-at="at.map((v) => v.toFixed(1)).join()" aria-hidden="true">
    <canvas ref="canvas" :class="{ aided: !isPlain(view) }" />
    <svg :viewBox="`0 0 ${SIDE} ${SIDE}`">
      <path
        :d="`M${SIDE / 2} 0V${SIDE / 2 - 9}M${SIDE / 2} ${SIDE}V${SIDE / 2 + 9}M0 ${SIDE / 2}H${SIDE / 2 - 9}M${SIDE} ${SIDE / 2}H${SIDE / 2 + 9}`"
      />
    </svg>
  </div>
</template>

<style scoped>
.loupe {
  position: absolute;
  width: 136px;
  height: 136px;
  border: 1px solid var(--brass);
  border-radius: 3px;
  pointer-events: none;
  overflow: hidden;
}
.loupe canvas,
.loupe svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.loupe path {
  stroke: var(--brass);
  stroke-width: 1;
  fill: none;
}
canvas.aided {
  filter: url('#view-aid');
}
</style>
