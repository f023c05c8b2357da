<script setup lang="ts">
/** The fill's values beside the plate's about it: are its black and white of this picture? */
import type { Scopes } from '@yarlop/core/dress/colour/scopes';
import { scopesOf } from '@yarlop/core/dress/colour/scopes';
import type { Quad } from '@yarlop/core/geometry/quad';
import { computed, ref, watchEffect } from 'vue';
import { refDebounced } from '@vueuse/core';
import BenchSection from '../bench/BenchSection.vue';
import { useOpen } from '../bench/open-parts';
import { pixelsOf } from '../shared/pixels';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';

const view = useView();
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const canvas = ref<HTMLCanvasElement | null>(null);
/** px of a scope's width: one a level of 8 bits. */
const W = 256;
/** px of its height. */
const H = 64;
const TITLE = 'Scopes';
const open = useOpen(
  () => TITLE,
  () => false,
);
/** Ms for which the picture stays as it is before it is read back: what is dragged is not held up. */
const AT_REST = 150;
const atRest = refDebounced(
  computed(() => (open.value ? view.seen : null)),
  AT_REST,
);
/** What is looked at: the measured box, or the chosen Screen. */
const looked = computed((): Quad | null => {
  const b = view.box;
  const s = store.chosen;
  if (!b) return s && tracks.corners(s, playhead.frame);
  return [
    [b.x, b.y],
    [b.x + b.width, b.y],
    [b.x + b.width, b.y + b.height],
    [b.x, b.y + b.height],
  ];
});
const named = computed(() => (view.box ? 'the box' : 'the Screen'));
const scopes = computed<Scopes | null>(() => {
  const b = atRest.value;
  const corners = looked.value;
  if (!b || !corners || playhead.playing || b.frame !== playhead.frame) return null;
  const k = b.canvas.width / (store.shot?.probe.width ?? b.canvas.width);
  return scopesOf(pixelsOf(b.canvas), corners.map(([x, y]) => [x * k, y * k]) as unknown as Quad);
});
watchEffect(
  () => {
    const c = canvas.value;
    const s = scopes.value;
    const g = c?.getContext('2d');
    if (!c || !s || !g) return;
    const image = g.createImageData(s.columns, s.bins);
    for (let x = 0; x < s.columns; x++)
      for (let i = 0; i < s.bins; i++) {
        const v = s.waveform[x * s.bins + i]! ** 0.5;
        const on = x >= s.screen[0] && x < s.screen[1];
        const at = ((s.bins - 1 - i) * s.columns + x) * 4;
        image.data.set(on ? [232 * v, 190 * v, 92 * v, 255] : [150 * v, 172 * v, 166 * v, 255], at);
      }
    c.width = s.columns;
    c.height = s.bins;
    g.putImageData(image, 0, 0);
  },
  { flush: 'post' },
);
function line(shares: readonly number[]): string {
  const most = Math.max(1e-6, ...shares.map((v) => v ** 0.5));
  return shares
    .map((v, i) => `${i === 0 ? 'M' : 'L'}${((i + 0.5) * W) / shares.length} ${(H - (H * v ** 0.5) / most).toFixed(1)}`)
    .join('');
}
</script>

<template>
  <BenchSection :title="TITLE" starts-folded>
    <template #note>{{ view.box ? 'in' : 'on' }} {{ named }}, and about it</template>
    <template v-if="scopes">
      <canvas
        ref="canvas"
        class="waveform"
        role="img"
        :aria-label="`Waveform of ${named} and its surroundings, white at the top`"
        :title="`Code values from left to right: brass is ${named}, grey what is beside it; white at the top`"
        data-test="waveform"
      />
      <svg
        :viewBox="`0 0 ${W} ${H}`"
        class="histogram"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`Histograms of ${named} and of its surroundings`"
      >
        <rect :width="W" :height="H" class="ground" />
        <path :d="line(scopes.around)" class="around">
          <title>The picture about {{ named }}</title>
        </path>
        <path :d="line(scopes.inside)" class="inside">
          <title>Within {{ named }}</title>
        </path>
      </svg>
      <div class="says">
        <span>black</span
        ><span><i class="key inside" /> {{ view.box ? 'box' : 'Screen' }} <i class="key around" /> about it</span
        ><span>white</span>
      </div>
    </template>
    <p v-else class="dim mb-0">
      Shown for a paused frame on which the Screen is; of a box too, where one is drawn (Shift+A).
    </p>
  </BenchSection>
</template>

<style scoped>
.waveform {
  width: 100%;
  height: 72px;
  background: #000;
  display: block;
  image-rendering: auto;
}
.histogram {
  width: 100%;
  height: 54px;
  display: block;
  margin-top: 4px;
}
.ground {
  fill: var(--ink);
}
path {
  fill: none;
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
path.inside {
  stroke: var(--brass);
}
path.around {
  stroke: var(--text-dim);
  stroke-dasharray: 4 2;
}
.says {
  display: flex;
  justify-content: space-between;
  font-size: 0.75rem;
  color: var(--text-dim);
}
.key {
  display: inline-block;
  width: 14px;
  height: 0;
  border-top: 2px solid var(--brass);
  vertical-align: middle;
}
.key.around {
  border-top: 2px dashed var(--text-dim);
}
</style>
