<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref, watch } from 'vue';
import { useStorage } from '@vueuse/core';
import type { Quad } from '@yarlop/core/geometry/quad';
import { squareUp } from '@yarlop/core/pin/square-up';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';
import { usePinEdit } from '../edits/use-pin-edit';
import NumberField from '../shared/NumberField.vue';

const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const edit = usePinEdit();
/** Usual shapes of lit screens, by device; common practice, no source. */
const SHAPES: Record<string, readonly (readonly [name: string, width: number, height: number])[]> = {
  phone: [
    ['phone, 9 : 19.5', 9, 19.5],
    ['phone, 9 : 20', 9, 20],
    ['phone, 9 : 16', 9, 16],
  ],
  laptop: [
    ['laptop, 16 : 10', 16, 10],
    ['laptop, 16 : 9', 16, 9],
    ['laptop, 3 : 2', 3, 2],
  ],
  tablet: [
    ['tablet, 4 : 3', 4, 3],
    ['tablet, 16 : 10', 16, 10],
    ['tablet, 3 : 4', 3, 4],
  ],
  tv: [['TV, 16 : 9', 16, 9]],
  other: [
    ['16 : 9', 16, 9],
    ['4 : 3', 4, 3],
    ['1 : 1', 1, 1],
  ],
};
const width = ref(9);
const height = ref(19.5);
const focal = useStorage<number | null>('yarlop.focal', null);
const told = ref('');
const weak = ref(false);
const device = computed(() => store.chosen?.recipe.device ?? 'other');
const options = computed(() => [
  ...SHAPES[device.value]!.map((s, i) => ({ value: i, text: s[0] })),
  { value: -1, text: 'as typed' },
]);
const choice = computed({
  get: () => SHAPES[device.value]!.findIndex((s) => s[1] === width.value && s[2] === height.value),
  set: (i: number) => {
    const s = SHAPES[device.value]![i];
    if (s) [width.value, height.value] = [s[1], s[2]];
  },
});
watch(device, () => (choice.value = 0), { immediate: true });
watch(
  () => [store.chosenId, playhead.frame],
  () => (told.value = ''),
);
const corners = computed((): Quad | null => (store.chosen ? tracks.corners(store.chosen, playhead.frame) : null));

function square(): void {
  const q = corners.value;
  const p = store.shot?.probe;
  if (!q || !p) return;
  try {
    const s = squareUp(q, width.value / height.value, p, focal.value ?? undefined);
    edit.place('Square up the pin', s.corners, playhead.frame);
    weak.value = s.warning !== null;
    const untold = focal.value ? 'the lens was given' : 'too flat-on to tell the lens';
    const lens = s.focal === null ? untold : `the lens is about ${s.focal.toFixed(2)} picture widths`;
    told.value = s.warning ?? `Moved by up to ${s.moved.toFixed(2)} px; ${lens}.`;
  } catch (e) {
    [told.value, weak.value] = [sentence(e), true];
  }
}
/** The content turned in the pin by a quarter, or mirrored: the corners change their names, on every frame. */
function reorder(name: string, order: readonly number[]): void {
  const r = store.chosen?.recipe;
  if (!r) return;
  const own = <T extends readonly unknown[]>(q: T): T => order.map((k) => q[k]) as unknown as T;
  const to = (corner: number): number => order.indexOf(corner);
  store.edit(name, {
    ...r,
    pin: own(r.pin),
    ...(r.hand ? { hand: r.hand.map((k) => ({ ...k, corners: own(k.corners) })) } : {}),
    ...(r.touchUps ? { touchUps: r.touchUps.map((t) => ({ ...t, offsets: own(t.offsets) })) } : {}),
    ...(r.settles
      ? {
          settles: r.settles.map((s) => ({
            ...s,
            offsets: s.offsets.map((o) => order.flatMap((k) => [o[2 * k]!, o[2 * k + 1]!])),
          })) as unknown as NonNullable<Recipe['settles']>,
        }
      : {}),
    ...(r.likenesses ? { likenesses: r.likenesses.map((l) => ({ ...l, corner: to(l.corner) })) } : {}),
    ...(r.spots ? { spots: r.spots.map((s) => (s.corner === undefined ? s : { ...s, corner: to(s.corner) })) } : {}),
  });
}
</script>

<template>
  <BenchSection title="Shape">
    <template #note>of the lit screen</template>
    <div class="d-flex gap-1 align-items-center">
      <BFormSelect
        v-model="choice"
        class="flex-fill shape"
        aria-label="Usual shapes"
        title="Usual shapes of such devices, or your own ratio"
        :options="options"
      />
      <NumberField
        v-model="width"
        class="side"
        :min="0.1"
        :step="0.1"
        aria-label="Width, mm or parts"
        title="Width, in mm or parts"
        data-test="ratio-width"
      />
      <span class="dim">:</span>
      <NumberField
        v-model="height"
        class="side"
        :min="0.1"
        :step="0.1"
        aria-label="Height, mm or parts"
        title="Height, in mm or parts"
        data-test="ratio-height"
      />
    </div>
    <div class="d-flex gap-1 mt-1 align-items-center">
      <BButton
        variant="outline-secondary"
        class="flex-fill"
        :disabled="!corners"
        title="Move the corners as little as may be so that a screen of this shape can look like that"
        data-test="square-up"
        @click="square"
        >Square up</BButton
      >
      <label
        class="dim d-flex gap-1 align-items-center"
        title="Focal length in picture widths, where it is known; empty lets the pin tell it"
        >lens
        <NumberField
          v-model="focal"
          class="side"
          :min="0.3"
          :max="12"
          :step="0.01"
          optional
          aria-label="Focal length, picture widths"
          placeholder="auto"
      /></label>
    </div>
    <p v-if="told" class="mt-1 mb-0" :class="weak ? 'weak' : 'dim'" role="status" data-test="squared">{{ told }}</p>
    <div class="d-flex gap-1 mt-2" role="group" aria-label="How the content lies in the pin">
      <BButton
        variant="outline-secondary"
        class="flex-fill"
        title="Turn the content a quarter to the left"
        data-test="turn-left"
        @click="reorder('Turn content left', [1, 2, 3, 0])"
        ><i class="bi bi-arrow-counterclockwise" aria-hidden="true" /> Turn</BButton
      >
      <BButton
        variant="outline-secondary"
        class="flex-fill"
        title="Turn the content a quarter to the right"
        data-test="turn-right"
        @click="reorder('Turn content right', [3, 0, 1, 2])"
        ><i class="bi bi-arrow-clockwise" aria-hidden="true" /> Turn</BButton
      >
      <BButton
        variant="outline-secondary"
        class="flex-fill"
        title="Mirror the content left to right"
        data-test="mirror"
        @click="reorder('Mirror content', [1, 0, 3, 2])"
        ><i class="bi bi-symmetry-vertical" aria-hidden="true" /> Mirror</BButton
      >
    </div>
  </BenchSection>
</template>

<style scoped>
.shape {
  min-width: 0;
}
.side {
  width: 3.6rem;
  padding-inline: 0.4rem;
  flex: none;
  appearance: textfield;
}
.side::-webkit-inner-spin-button {
  display: none;
}
.weak {
  color: var(--weak);
}
</style>
