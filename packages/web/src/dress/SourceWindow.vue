<script setup lang="ts">
/** Which part of the fill's own picture shows: by a frame that is dragged on it, or by px that are cut off. */
import { useEventListener } from '@vueuse/core';
import { fillPicture } from '@yarlop/core/dress/fill/fill-time';
import { computed, nextTick, ref } from 'vue';
import type { Coordinates } from 'vue-advanced-cropper';
import { Cropper } from 'vue-advanced-cropper';
import 'vue-advanced-cropper/dist/style.css';
import { useDress } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';

const SIDES = ['left', 'top', 'right', 'bottom'] as const;
const NOTHING: readonly number[] = [0, 0, 0, 0];
const store = useShot();
const media = useMedia();
const playhead = usePlayhead();
const { recipe, dress, set } = useDress();
const isOpen = ref(false);
const cropper = ref<InstanceType<typeof Cropper> | null>(null);
const crop = computed(() => dress.value.placement?.crop ?? NOTHING);

/** The fill's picture on this frame, as small as it is played. */
const source = computed(() => {
  const fill = recipe.value?.fill;
  const m = fill?.media ? media.byHash.get(fill.media) : undefined;
  const plate = store.shot?.probe;
  if (!fill || fill.made || !m || m.state !== 'ready' || !plate) return null;
  const n = fillPicture(fill, playhead.frame, m.frameCount, m.probe.frameRate, plate.frameRate);
  return { url: `/api/media/${m.hash}/proxy/${n}.jpg`, width: m.probe.width, height: m.probe.height };
});

/** px of the small picture a px of the fill. */
function shrink(image: { readonly width: number }): number {
  return image.width / source.value!.width;
}
/** The frame as it stands at first: around what shows. */
const windowOn = ({ imageSize }: { imageSize: { width: number } }): Coordinates => {
  const k = shrink(imageSize);
  const [left, top, right, bottom] = crop.value as [number, number, number, number];
  const { width, height } = source.value!;
  return { left: left * k, top: top * k, width: (width - left - right) * k, height: (height - top - bottom) * k };
};

/** Somebody has taken hold of the frame; what nobody has dragged is left as it is. */
const wasTaken = ref(false);
/** Whole px of the fill. */
function take(): void {
  const { coordinates: c, image } = cropper.value?.getResult() ?? {};
  if (!c || !image) return;
  const k = shrink(image);
  const { width, height } = source.value!;
  const next = [c.left / k, c.top / k, width - (c.left + c.width) / k, height - (c.top + c.height) / k].map((v) =>
    Math.max(0, Math.round(v)),
  );
  put(next);
}
/** A drag is over when the pointer is let go, however long it rested: one drag is one step of undo. */
useEventListener(window, ['mouseup', 'touchend'], () => {
  if (!wasTaken.value) return;
  wasTaken.value = false;
  void nextTick(take);
});
function put(next: readonly number[]): void {
  if (next.join() === crop.value.join()) return;
  set('Crop fill', 'placement', { crop: next.some((v) => v > 0) ? next : undefined });
}
</script>

<template>
  <div>
    <div class="crop">
      <span class="dim">cut off</span
      ><NumberField
        v-for="(side, i) in SIDES"
        :key="side"
        :min="0"
        :model-value="crop[i] ?? 0"
        :aria-label="`Cut off at the ${side}, px of the fill`"
        :title="`Px of the fill cut off at the ${side}`"
        :data-test="`crop-${side}`"
        @update:model-value="put(crop.map((v, k) => (k === i ? $event : v)))"
      />
    </div>
    <BButton
      v-if="source"
      class="mt-1"
      variant="outline-secondary"
      :pressed="isOpen"
      title="Drag a frame on the fill's own picture around what is to show"
      data-test="source-window"
      @click="isOpen = !isOpen"
      ><i class="bi bi-crop" aria-hidden="true" /> On its own picture</BButton
    >
    <Cropper
      v-if="source && isOpen"
      :key="`${source.url} ${crop.join()}`"
      ref="cropper"
      class="own-picture mt-1"
      :src="source.url"
      :check-orientation="false"
      :canvas="false"
      :round-result="false"
      :transitions="false"
      :resize-image="false"
      :move-image="false"
      image-restriction="fit-area"
      :default-position="windowOn"
      :default-size="windowOn"
      data-test="own-picture"
      @pointerdown="wasTaken = true"
    />
  </div>
</template>

<style scoped>
.crop {
  display: grid;
  grid-template-columns: 3.4rem repeat(4, 1fr);
  gap: 3px;
  align-items: center;
  font-size: 0.8125rem;
}
.crop .form-control {
  padding: 0 0.25rem;
  height: 1.5rem;
  font-size: 0.75rem;
}
.own-picture {
  height: 190px;
  background: #111;
}
</style>
