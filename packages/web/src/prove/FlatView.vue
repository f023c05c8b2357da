<script setup lang="ts">
/** The Screen laid flat and still: a steady picture is a good track. */
import { computed, ref, watch, watchEffect } from 'vue';
import { useIntervalFn, usePreferredReducedMotion } from '@vueuse/core';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import type { FlatStack } from '@yarlop/core/proof/flat-view';
import { flatCorners, fromFlat } from '@yarlop/core/proof/flat-view';
import { api } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Seen } from '../types';
import { isPlain } from '../shared/view-aid';
import { greyImage } from './grey';

const props = defineProps<{ stack: FlatStack }>();
const store = useShot();
const playhead = usePlayhead();
const view = useView();
const motion = usePreferredReducedMotion();
const canvas = ref<HTMLCanvasElement | null>(null);
const against = ref<'nothing' | 'difference' | 'blink'>('nothing');
const turn = ref(false);
const trust = ref(false);
const seen = ref<Seen | null>(null);
const AGAINST = [
  { value: 'nothing', text: 'as it is' },
  { value: 'difference', text: 'what differs from the reference' },
  { value: 'blink', text: 'blink with the reference' },
];
/** How much differences are lifted to be seen. */
const LIFTED = 3;
useIntervalFn(
  () => {
    if (against.value === 'blink' && motion.value !== 'reduce') turn.value = !turn.value;
  },
  computed(() => 1000 / view.blinkRate),
);
function picture(frame: number): ArrayLike<number> | null {
  const { area, from, frames, data } = props.stack;
  const i = frame - from;
  const size = area.width * area.height;
  return i >= 0 && i < frames ? data.subarray(i * size, (i + 1) * size) : null;
}
watchEffect(
  () => {
    const c = canvas.value;
    const { width, height } = props.stack.area;
    if (!c) return;
    if (c.width !== width || c.height !== height) [c.width, c.height] = [width, height];
    const now = picture(playhead.frame);
    const reference = picture(store.chosen?.recipe.referenceFrame ?? -1);
    const g = c.getContext('2d')!;
    if (!now) return g.clearRect(0, 0, width, height);
    let shown = now;
    if (against.value === 'blink' && turn.value && reference) shown = reference;
    else if (against.value === 'difference' && reference)
      shown = Uint8ClampedArray.from(now, (v, i) => 128 + LIFTED * (v - reference[i]!));
    g.putImageData(greyImage(shown, width, height), 0, 0);
    return undefined;
  },
  { flush: 'post' },
);
watch(
  () => [trust.value, store.chosenId, playhead.frame, playhead.playing] as const,
  async ([on, id, frame, playing]) => {
    if (!on || id === null || playing) return (seen.value = null);
    const data = await api('GET /screens/:id/seen/:frame', { id, frame }).catch(() => null);
    if (store.chosenId === id && playhead.frame === frame) seen.value = data;
    return undefined;
  },
  { immediate: true },
);
const cells = computed(() => {
  const list = seen.value?.cells ?? [];
  const r = store.chosen?.recipe;
  const out: { x: number; y: number; trust: number }[] = [];
  if (!r) return out;
  const back = inverse(fromFlat(props.stack.area, r.pin));
  for (let i = 0; i + 3 < list.length; i += 4) {
    const [x, y] = mapPoint(back, [list[i]!, list[i + 1]!]);
    out.push({ x, y, trust: list[i + 3]! / 100 });
  }
  return out;
});
const outline = computed(() =>
  flatCorners(props.stack.area)
    .map((p) => p.join(','))
    .join(' '),
);
</script>

<template>
  <div class="flat" data-test="flat-view" :data-frame="playhead.frame">
    <div class="tools">
      <BFormSelect
        v-model="against"
        class="pick"
        aria-label="Compare with the reference"
        title="The frame alone, what differs from the reference frame, or both in turn"
        data-test="flat-against"
        :options="AGAINST"
      />
      <BFormCheckbox
        v-model="trust"
        title="Where the picture was followed, and how far it was believed"
        data-test="flat-trust"
        >Paint the trust of cells</BFormCheckbox
      >
    </div>
    <div
      class="frame"
      :style="{
        aspectRatio: `${stack.area.width} / ${stack.area.height}`,
        '--ratio': stack.area.width / stack.area.height,
      }"
    >
      <canvas
        ref="canvas"
        role="img"
        :aria-label="`The Screen laid flat on frame ${playhead.frame}`"
        :class="{ aided: !isPlain(view) }"
      />
      <svg :viewBox="`0 0 ${stack.area.width} ${stack.area.height}`" aria-hidden="true">
        <polygon :points="outline" class="pin" vector-effect="non-scaling-stroke" />
        <circle
          v-for="(c, i) in cells"
          :key="i"
          :cx="c.x"
          :cy="c.y"
          :r="stack.area.width / 110"
          :class="c.trust >= 0.3 ? 'agrees' : 'differs'"
          :style="{ opacity: c.trust >= 0.3 ? 0.25 + 0.6 * c.trust : 1 }"
          vector-effect="non-scaling-stroke"
        />
      </svg>
    </div>
  </div>
</template>

<style scoped>
.flat {
  position: absolute;
  inset: 0;
  padding: 42px 12px 12px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-items: center;
}
.tools {
  display: flex;
  gap: 1rem;
  align-items: center;
  background: var(--ink);
  padding: 0.25rem 0.6rem;
  border-radius: 3px;
}
.pick {
  width: auto;
}
.frame {
  position: relative;
  flex: 0 1 auto;
  max-width: 100%;
  max-height: calc(100% - 40px);
  width: min(100%, calc((100vh - 210px) * var(--ratio)));
}
.frame canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.frame svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.pin {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1;
  stroke-dasharray: 2 5;
}
.agrees {
  fill: #f6e7bd;
}
.differs {
  fill: none;
  stroke: var(--weak);
  stroke-width: 1.5;
}
canvas.aided {
  filter: url('#view-aid');
}
</style>
