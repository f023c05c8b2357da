<script setup lang="ts">
/** The Screen laid flat and still: a steady picture is a good track. */
import { computed, ref, shallowRef, watch, watchEffect } from 'vue';
import { useIntervalFn, usePreferredReducedMotion, useStorage } from '@vueuse/core';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import type { FlatArea, FlatStack } from '@yarlop/core/proof/flat-view';
import { flatCorners, fromFlat } from '@yarlop/core/proof/flat-view';
import { api } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Seen } from '../types';
import { isPlain } from '../shared/view-aid';
import type { FlatImage } from './flat-images';
import { asImageData, differenceOf, greyImage, paint } from './flat-images';
import { useFlatPictures } from './use-flat-pictures';
import { useFlatZoom } from './use-flat-zoom';

const props = defineProps<{ stack: FlatStack }>();
const store = useShot();
const playhead = usePlayhead();
const view = useView();
const motion = usePreferredReducedMotion();
const canvas = ref<HTMLCanvasElement | null>(null);
const holder = ref<HTMLElement | null>(null);

type Laid = 'grey' | 'plate' | 'dressed';
const laid = ref(useStorage<Laid>('yarlop.flat', 'grey'));
const LAID = [
  { value: 'grey', text: 'grey, at any speed' },
  { value: 'plate', text: 'in colour' },
  { value: 'dressed', text: 'dressed' },
];
const inColour = computed(() => (laid.value === 'grey' ? null : laid.value));
const colours = useFlatPictures(inColour);

type Against = 'nothing' | 'difference' | 'blink' | 'plate';
const against = ref<Against>('nothing');
const AGAINST = computed(() => [
  { value: 'nothing', text: 'as it is' },
  { value: 'difference', text: 'what differs from the reference' },
  { value: 'blink', text: 'blink with the reference' },
  { value: 'plate', text: 'blink with the bare plate', disabled: laid.value !== 'dressed' },
]);
watch(laid, (now) => {
  if (now !== 'dressed' && against.value === 'plate') against.value = 'nothing';
});

/** The other picture's turn. */
const turn = ref(false);
const blinks = computed(() => against.value === 'blink' || against.value === 'plate');
useIntervalFn(
  () => {
    if (blinks.value && motion.value !== 'reduce') turn.value = !turn.value;
  },
  computed(() => 1000 / view.blinkRate),
);

/** The picture that is drawn, and what it is compared with. */
const own = shallowRef<FlatImage | null>(null);
const other = shallowRef<ImageData | null>(null);
const drawnFrame = ref(-1);
function greyOn(frame: number): ImageData | null {
  const { area, from, frames, data } = props.stack;
  const i = frame - from;
  const size = area.width * area.height;
  if (i < 0 || i >= frames) return null;
  return greyImage(data.subarray(i * size, (i + 1) * size), area.width, area.height);
}
const reference = computed(() => store.chosen?.recipe.referenceFrame ?? -1);
watchEffect(() => {
  if (inColour.value) return;
  own.value = greyOn(playhead.frame);
  drawnFrame.value = playhead.frame;
});
watch(
  colours.now,
  (now) => {
    if (!inColour.value) return;
    own.value = now?.bitmap ?? null;
    drawnFrame.value = now?.frame ?? playhead.frame;
  },
  { immediate: true },
);
/** The frame whose picture it is compared with. */
const compared = computed(() => (against.value === 'plate' ? drawnFrame.value : reference.value));
watch(
  () => [against.value, laid.value, compared.value, props.stack] as const,
  async ([what, as, frame]) => {
    if (what === 'nothing') return void (other.value = null);
    if (as === 'grey') return void (other.value = greyOn(frame));
    const picture = await colours.on(frame, what === 'plate' ? 'plate' : as).catch(() => null);
    const isWanted = against.value === what && laid.value === as && compared.value === frame;
    if (isWanted) other.value = picture && asImageData(picture.bitmap);
    return undefined;
  },
  { immediate: true },
);
watchEffect(
  () => {
    const c = canvas.value;
    const now = own.value;
    if (!c) return;
    if (!now) return c.getContext('2d')!.clearRect(0, 0, c.width, c.height);
    if (c.width !== now.width || c.height !== now.height) [c.width, c.height] = [now.width, now.height];
    let shown: FlatImage = now;
    const beside = other.value;
    const isComparable = beside !== null && beside.width === now.width && beside.height === now.height;
    if (isComparable && blinks.value && turn.value) shown = beside;
    else if (isComparable && against.value === 'difference') shown = differenceOf(asImageData(now), beside);
    paint(c.getContext('2d')!, shown);
    return undefined;
  },
  { flush: 'post' },
);

const trust = ref(false);
const seen = ref<Seen | null>(null);
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
/** As large as the Screen is on its reference frame, whatever size the grey pictures have. */
const natural = computed((): FlatArea => colours.area.value ?? props.stack.area);
const { style, isLarge, onWheel, pan } = useFlatZoom(holder, natural);
</script>

<template>
  <div class="flat" data-test="flat-view" :data-frame="drawnFrame" :data-laid="laid">
    <div class="tools">
      <BFormSelect
        v-model="laid"
        class="pick"
        aria-label="What is laid flat"
        title="Grey pictures of the plate that keep up with any speed, the plate in colour and full pixels, or the dressed picture"
        data-test="flat-laid"
        :options="LAID"
      />
      <BFormSelect
        v-model="against"
        class="pick"
        aria-label="Compare with the reference"
        title="The frame alone, what differs from the reference frame, or two pictures in turn"
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
    <p v-if="inColour && colours.problem.value" class="problem" role="alert">{{ colours.problem.value }}</p>
    <div ref="holder" class="holder" data-test="flat-holder" @wheel.prevent="onWheel" @pointerdown="pan">
      <div class="frame" :style="style">
        <canvas
          ref="canvas"
          role="img"
          :aria-label="`The Screen laid flat on frame ${drawnFrame}`"
          data-test="flat-picture"
          :class="{ aided: !isPlain(view), large: isLarge }"
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
.holder {
  position: relative;
  flex: 1 1 auto;
  align-self: stretch;
  min-height: 0;
  overflow: hidden;
  cursor: grab;
  touch-action: none;
}
.frame {
  position: absolute;
}
.problem {
  margin: 0;
  background: var(--ink);
  padding: 0.2rem 0.6rem;
}
.frame canvas.large {
  image-rendering: pixelated;
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
