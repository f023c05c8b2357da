<script setup lang="ts">
/** Track data in an open format: as a file, or to the clipboard. */
import type { DeliverSettings } from '../types';
import { can, isOf } from '@yarlop/contracts/formats';
import { useClipboard, useStorage } from '@vueuse/core';
import { computed, ref } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { useShot } from '../stores/shot';
import ConventionFields from './ConventionFields.vue';
import { DATA, MAP_TYPES } from './formats';
import { useConventions } from './use-conventions';
import { useDeliveries } from './use-deliveries';
import NumberField from '../shared/NumberField.vue';

const store = useShot();
const { deliver, text, tried } = useDeliveries();
const { conventions } = useConventions();
const { copy } = useClipboard();
const copied = ref(false);
const last = useStorage(
  'yarlop.data',
  {
    as: 'csv' as DeliverSettings['as'],
    invert: false,
    overscan: 0,
    crop: null as number | null,
    focal: null as number | null,
    deviceHeight: null as number | null,
    plateBehind: false,
    mapType: 'exr' as NonNullable<DeliverSettings['mapType']>,
    points: '',
    all: true,
    dressed: false,
    at: 'middle' as 'middle' | NonNullable<DeliverSettings['at']>,
  },
  undefined,
  { mergeDefaults: true },
);
const chosen = computed(
  () => DATA.flatMap((g) => g.choices).find((c) => c.value === last.value.as) ?? DATA[0]!.choices[0]!,
);
const map = computed(() => isOf(last.value.as, 'maps'));
const scene = computed(() => can(last.value.as, 'scene'));
const moves = computed(() => can(last.value.as, 'points'));
/** Points as they were typed, "x y; x y"; null where they are not points, undefined where there are none. */
const points = computed((): [number, number][] | null | undefined => {
  if (last.value.points.trim() === '') return undefined;
  const all = last.value.points.split(';').map((p) =>
    p
      .trim()
      .split(/[\s,]+/)
      .map(Number),
  );
  return all.length >= 2 && all.every((p) => p.length === 2 && p.every(Number.isFinite))
    ? all.map(([x, y]): [number, number] => [x!, y!])
    : null;
});
const CORNERS = [
  { value: false, text: 'of the pin' },
  { value: true, text: 'of the dressed fill' },
];
const MOMENTS = [
  { value: 'middle', text: 'mid-frame' },
  { value: 'open', text: 'shutter opens' },
  { value: 'close', text: 'shutter closes' },
];
/** Whether a number was given: what an earlier version kept for none is an empty text. */
const isGiven = (v: unknown): v is number => typeof v === 'number';
type Part = Partial<DeliverSettings>;
function mapSettings(): Part {
  const { mapType, overscan, crop } = last.value;
  return {
    ...(mapType === 'exr' ? {} : { mapType }),
    ...(overscan > 0 ? { overscan } : {}),
    ...(isGiven(crop) ? { crop } : {}),
  };
}
function sceneSettings(): Part {
  const { focal, deviceHeight } = last.value;
  return {
    ...(isGiven(focal) ? { focal } : {}),
    ...(isGiven(deviceHeight) ? { deviceHeight: deviceHeight / 1000 } : {}),
  };
}
function settings(): DeliverSettings {
  const { as, invert, plateBehind, all, dressed, at } = last.value;
  return {
    as,
    ...(can(as, 'conventions') ? conventions.value : {}),
    ...(can(as, 'invert') && invert ? { invert } : {}),
    ...(all || store.chosenId === null ? {} : { screen: store.chosenId }),
    ...(map.value ? mapSettings() : {}),
    ...(scene.value ? sceneSettings() : {}),
    ...(as === 'gltf' && plateBehind ? { plateBehind } : {}),
    ...(dressed ? { dressed } : {}),
    ...(at === 'middle' ? {} : { at }),
    ...(moves.value && points.value ? { points: points.value } : {}),
  };
}
const toClipboard = (): Promise<void> =>
  tried(async () => {
    await copy(await text(settings()));
    copied.value = true;
    setTimeout(() => (copied.value = false), 1500);
  });
</script>

<template>
  <BenchSection title="Track data">
    <select
      v-model="last.as"
      class="form-select"
      aria-label="Format of the track data"
      :title="chosen.what"
      data-test="data-format"
    >
      <optgroup v-for="g in DATA" :key="g.label" :label="g.label">
        <option v-for="c in g.choices" :key="c.value" :value="c.value">{{ g.label }}: {{ c.text }}</option>
      </optgroup>
    </select>
    <p class="dim mb-1 mt-1">{{ chosen.what }}.</p>
    <ConventionFields v-if="can(last.as, 'conventions')" />
    <div class="pairs">
      <span>corners</span
      ><BFormSelect
        v-model="last.dressed"
        :options="CORNERS"
        aria-label="Which corners"
        title="The pin's own, or those of the fill as it is dressed: placement, offset and lift taken in"
        data-test="data-dressed"
      /><span>at</span
      ><BFormSelect
        v-model="last.at"
        :options="MOMENTS"
        aria-label="Moment of the frame"
        title="Corners as the shutter opens and closes let the receiving program blur by itself"
        data-test="data-at"
      />
    </div>
    <BFormCheckbox
      v-if="can(last.as, 'invert')"
      v-model="last.invert"
      title="Matrices from the frame to the reference; moves that hold the Screen still"
      data-test="invert"
      >inverted</BFormCheckbox
    >
    <BFormSelect
      v-if="map"
      v-model="last.mapType"
      :options="[...MAP_TYPES]"
      aria-label="Pictures of the maps"
      title="Whole numbers hold 0 to 1 alone; what a map needs beyond is refused with the mend"
      data-test="map-type"
    />
    <div v-if="map" class="pairs">
      <span>beyond the picture</span
      ><NumberField
        v-model="last.overscan"
        :min="0"
        :max="2000"
        whole
        aria-label="Overscan, px"
        title="Px that the map goes on beyond the picture on every side"
      /><span>cut to Screen and</span
      ><NumberField
        v-model="last.crop"
        :min="0"
        :max="4000"
        whole
        optional
        placeholder="not cut"
        aria-label="Margin about the Screen, px"
        title="Px about the Screen to which the map is cut; empty keeps the whole picture"
      />
    </div>
    <div v-if="scene" class="pairs">
      <span>lens</span
      ><NumberField
        v-model="last.focal"
        :min="0.2"
        :max="20"
        :step="0.01"
        optional
        placeholder="from the views"
        aria-label="Focal length, picture widths"
        title="Focal length in picture widths; empty is told from how the Screen leans"
      /><span>lit height, mm</span
      ><NumberField
        v-model="last.deviceHeight"
        :min="10"
        :max="20000"
        optional
        placeholder="usual"
        aria-label="Height of the lit part, mm"
        title="Height of the device's lit part, which gives the scene its size; empty takes a usual one for its kind"
      />
    </div>
    <BFormCheckbox
      v-if="last.as === 'gltf'"
      v-model="last.plateBehind"
      title="Pictures of the plate hang behind the scene, each shown at its time; the file grows by some megabytes"
      data-test="plate-behind"
      >plate behind it</BFormCheckbox
    >
    <div v-if="moves" class="pairs">
      <span>go by points</span
      ><input
        v-model="last.points"
        class="form-control mono"
        :class="{ 'is-invalid': points === null }"
        placeholder="the pin's corners"
        aria-label="Points, px of the plate on the reference frame"
        title="Points of the Screen by which position, scale and rotation are told: x y; x y, px of the plate on the reference frame; empty takes the pin's corners"
        data-test="move-points"
      />
    </div>
    <p v-if="moves && points === null" class="text-warning mb-0" role="alert">Type two points or more as x y; x y.</p>
    <BFormCheckbox
      v-if="store.screens.length > 1"
      v-model="last.all"
      title="All Screens of the shot, or the chosen one alone"
      >all Screens</BFormCheckbox
    >
    <div class="d-flex gap-1 mt-1">
      <BButton
        variant="outline-secondary"
        :disabled="moves && points === null"
        title="Write the file"
        data-test="deliver-data"
        @click="deliver(settings())"
        >Deliver</BButton
      ><BButton
        v-if="!map"
        variant="outline-secondary"
        title="Put the text on the clipboard"
        data-test="copy-data"
        @click="toClipboard"
        >{{ copied ? 'Copied' : 'Copy' }}</BButton
      >
    </div>
  </BenchSection>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: 8rem 1fr;
  gap: 3px 6px;
  align-items: center;
  font-size: 0.8125rem;
  margin-top: 3px;
}
.form-control {
  padding: 0 0.3rem;
  height: 1.5rem;
}
</style>
