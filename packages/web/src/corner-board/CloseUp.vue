<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue';
import { useElementSize, useIntervalFn, usePreferredReducedMotion } from '@vueuse/core';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { holdPointer } from '../shared/hold-pointer';
import { hueOf } from '../shared/screen-look';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Still } from '../pictures/use-still';
import { useStill } from '../pictures/use-still';
import { isPlain } from '../shared/view-aid';
import { affineAround, lookFor } from './likeness';
import { usePinEdit } from '../edits/use-pin-edit';

const props = defineProps<{ still: Still | null; corner: number }>();
const canvas = ref<HTMLCanvasElement | null>(null);
const holder = ref<HTMLElement | null>(null);
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const view = useView();
const edit = usePinEdit();
const { width } = useElementSize(holder);
const motion = usePreferredReducedMotion();
/** Canvas px along a side: as many as the screen shows, so that magnified pixels stay square. */
const side = computed(() => Math.max(64, Math.round(width.value * window.devicePixelRatio)));
const zoom = computed(() => view.closeUp * window.devicePixelRatio);
const shown = computed(() => props.still?.frame ?? playhead.frame);
const at = computed(() => {
  const s = store.chosen;
  return s && tracks.corners(s, shown.value)?.[props.corner];
});
const hue = computed(() => hueOf(store.screens.findIndex((s) => s.id === store.chosenId)));
const look = computed(() => (store.chosen ? lookFor(store.chosen.recipe, props.corner, shown.value) : null));
const likeness = useStill(() => (view.compare === 'now' ? null : (look.value?.frame ?? null)));
const turn = ref(false);
useIntervalFn(
  () => {
    if (view.compare === 'blink' && motion.value !== 'reduce') turn.value = !turn.value;
  },
  computed(() => 1000 / view.blinkRate),
);

function drawNow(g: CanvasRenderingContext2D, [x, y]: readonly [number, number]): void {
  const k = zoom.value;
  const c = side.value / 2;
  g.setTransform(k, 0, 0, k, c - k * x, c - k * y);
  const { bitmap, x: left = 0, y: top = 0 } = props.still!;
  g.drawImage(bitmap, left, top);
}
function drawLikeness(g: CanvasRenderingContext2D, p: readonly [number, number]): boolean {
  const s = store.chosen;
  const l = look.value;
  const from = s && l && tracks.plane(s, l.frame);
  const to = s && tracks.plane(s, shown.value);
  if (!l || !from || !to || likeness.value?.frame !== l.frame) return false;
  const k = zoom.value;
  const c = side.value / 2;
  const m = affineAround(from, to, l.at, p as [number, number]);
  g.setTransform(k * m[0], k * m[1], k * m[2], k * m[3], k * (m[4] - p[0]) + c, k * (m[5] - p[1]) + c);
  g.drawImage(likeness.value.bitmap, 0, 0);
  return true;
}
watchEffect(
  () => {
    const c = canvas.value;
    const p = at.value;
    const n = side.value;
    if (!c) return;
    if (c.width !== n) [c.width, c.height] = [n, n];
    const g = c.getContext('2d')!;
    const mode = view.compare;
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.globalCompositeOperation = 'source-over';
    // Beyond the picture's border: a plain ground, and the border itself shows where it begins.
    g.fillStyle = '#2a2a2a';
    g.fillRect(0, 0, n, n);
    if (!props.still || !p) return;
    // Whole pixels of two frames lie beside each other by parts of one: what differs is told between them.
    g.imageSmoothingEnabled = view.smooth || mode === 'difference';
    if (mode === 'likeness' || (mode === 'blink' && turn.value)) {
      if (!drawLikeness(g, p)) drawNow(g, p);
    } else drawNow(g, p);
    if (mode === 'difference') {
      g.globalCompositeOperation = 'difference';
      drawLikeness(g, p);
      g.globalCompositeOperation = 'source-over';
    } else if (mode === 'halves') {
      g.save();
      g.setTransform(1, 0, 0, 1, 0, 0);
      g.beginPath();
      g.rect(n / 2, 0, n / 2, n);
      g.clip();
      drawLikeness(g, p);
      g.restore();
    }
    g.setTransform(1, 0, 0, 1, 0, 0);
  },
  { flush: 'post' },
);
const label = computed(() => {
  const l = look.value;
  if (view.compare === 'now' || !l) return '';
  if (view.compare !== 'blink') return ` / ${l.frame}`;
  return turn.value ? ` as on ${l.frame}` : ' now';
});

function down(e: PointerEvent): void {
  const s = store.chosen;
  const p = at.value;
  if (!s || !p) return;
  view.armed = props.corner;
  const from = [e.clientX, e.clientY];
  const drag = edit.begin(s, playhead.frame, props.corner);
  const k = 1 / view.closeUp;
  holdPointer(
    e,
    e.currentTarget as Element,
    (m) => drag.to([p[0] - (m.clientX - from[0]!) * k, p[1] - (m.clientY - from[1]!) * k]),
    drag.end,
  );
}
</script>

<template>
  <figure
    ref="holder"
    class="close-up"
    :class="{ armed: view.armed === corner }"
    :style="{ '--hue': hue }"
    :data-test="`close-up-${corner}`"
    @pointerdown.stop="down"
  >
    <canvas
      ref="canvas"
      :class="{ aided: !isPlain(view) }"
      role="img"
      :aria-label="`Close-up of corner ${CORNER_NAMES[corner]} at ${view.closeUp}x`"
    />
    <svg viewBox="0 0 100 100" aria-hidden="true">
      <path d="M50 0V44M50 100V56M0 50H44M100 50H56" vector-effect="non-scaling-stroke" />
    </svg>
    <figcaption class="mono">{{ CORNER_NAMES[corner] }}{{ label }}</figcaption>
  </figure>
</template>

<style scoped>
.close-up {
  position: relative;
  margin: 0;
  border: 1px solid var(--line);
  cursor: grab;
  aspect-ratio: 1;
  overflow: hidden;
  touch-action: none;
}
.close-up.armed {
  border-color: var(--brass);
}
.close-up canvas {
  width: 100%;
  height: 100%;
  display: block;
  image-rendering: pixelated;
}
.close-up svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.close-up path {
  stroke: var(--hue);
  stroke-width: 1.2;
}
figcaption {
  position: absolute;
  left: 4px;
  bottom: 2px;
  font-size: 0.6875rem;
  color: #fff;
  background: #000a;
  padding: 0 4px;
}
.close-up canvas.aided {
  filter: url('#view-aid');
}
</style>
