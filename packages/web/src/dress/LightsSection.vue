<script setup lang="ts">
/** Light added over the fill: soft shapes on the glass, or still in the room. */
import type { AddedLight } from '@yarlop/core/dress/light/added-light';
import { linearToSrgb, srgbToLinear } from '@yarlop/core/dress/colour/transfer';
import { computed } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { setWords } from './part-words';
import { cssColour } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import AnimatedControl from './AnimatedControl.vue';
import { controlOf, useDress } from '../edits/use-dress';
import IconButton from '../shared/IconButton.vue';

const { dress, put } = useDress();
const view = useView();
const playhead = usePlayhead();
const list = computed(() => dress.value.lights ?? []);
const FIELDS = [
  {
    field: 'amount',
    label: 'Strength',
    min: 0,
    max: 1,
    step: 0.01,
    base: 0.15,
    help: 'How much light is added, times its colour',
  },
  {
    field: 'x',
    label: 'Across',
    min: -0.5,
    max: 1.5,
    step: 0.01,
    base: 0.5,
    help: "Where its middle lies, shares of the Screen's width",
  },
  {
    field: 'y',
    label: 'Down',
    min: -0.5,
    max: 1.5,
    step: 0.01,
    base: 0.5,
    help: "Where its middle lies, shares of the Screen's height",
  },
  {
    field: 'size',
    label: 'Size',
    min: 0.02,
    max: 3,
    step: 0.01,
    base: 0.4,
    help: "How far it reaches, shares of the Screen's height",
  },
  {
    field: 'stretch',
    label: 'Stretch',
    min: 0.1,
    max: 8,
    step: 0.05,
    base: 1,
    help: 'Its width by its height (pools only)',
  },
  { field: 'turn', label: 'Turn', min: -90, max: 90, step: 1, base: 0, help: 'Degrees, clockwise' },
] as const;
function change(i: number, part: Partial<AddedLight>, name: string, final = true): void {
  put(
    name,
    'lights',
    list.value.map((l, k) => (k === i ? { ...l, ...part } : l)),
    final,
  );
}
function add(shape: AddedLight['shape']): void {
  put('Add light', 'lights', [
    ...list.value,
    { shape, rides: 'plane', colour: [1, 1, 1], amount: 0.15, ...(shape === 'band' ? { turn: 20, size: 0.25 } : {}) },
  ]);
}
/** The plate's own light gives it its colour: a window, a lamp. */
function sample(i: number): void {
  view.sample('Click the light in the plate whose colour it takes.', (rgb) =>
    change(
      i,
      { colour: rgb.map((v) => Number(srgbToLinear(v / 255).toFixed(4))) as unknown as AddedLight['colour'] },
      'Sample colour of light',
    ),
  );
}
</script>

<template>
  <BenchSection title="Added light" :said="setWords(dress, 'lights')">
    <div v-for="(l, i) in list" :key="i" class="light" :data-test="`light-${i}`">
      <div class="d-flex gap-2 align-items-center">
        <b>{{ l.shape }}</b><button
          type="button"
          class="swatch"
          :style="{ background: cssColour(l.colour.map(linearToSrgb)) }"
          title="Click the plate to take a colour from it: a window, a lamp"
          :aria-label="`Colour of light ${i + 1}`"
          @click="sample(i)"
        />
        <BFormSelect
          class="ms-auto rides"
          :model-value="l.rides"
          :options="[
            { value: 'plane', text: 'moves with the glass' },
            { value: 'room', text: 'stays in the room' },
          ]"
          :aria-label="`What light ${i + 1} rides on`"
          title="Whether it moves with the Screen, or stays while the Screen moves beneath it"
          @update:model-value="change(i, { rides: $event as AddedLight['rides'] }, 'Set what light rides on')"
        />
        <IconButton
          icon="trash3"
          title="Delete this light"
          :label="`Delete light ${i + 1}`"
          @click="
            put(
              'Delete light',
              'lights',
              list.filter((_, k) => k !== i),
            )
          "
        />
      </div>
      <AnimatedControl
        v-for="f in FIELDS.filter((f) => f.field !== 'stretch' || l.shape === 'pool')"
        :key="f.field"
        :name="`light-${i}-${f.field}`"
        :label="f.label"
        :help="f.help"
        :min="f.min"
        :max="f.max"
        :step="f.step"
        v-bind="
          controlOf(l[f.field], playhead.frame, f.base, (v, final) =>
            change(i, { [f.field]: v }, `Set light ${f.field}`, final),
          )
        "
      />
    </div>
    <div class="d-flex gap-1">
      <BButton
        variant="outline-secondary"
        title="A soft pool of light, as of a lamp"
        data-test="light-pool"
        @click="add('pool')"
        >Pool</BButton
      >
      <BButton
        variant="outline-secondary"
        title="A soft band of light across the glass, as of a window"
        data-test="light-band"
        @click="add('band')"
        >Band</BButton
      >
    </div>
  </BenchSection>
</template>

<style scoped>
.light {
  border-left: 2px solid var(--line);
  padding-left: 0.5rem;
  margin-bottom: 0.5rem;
  font-size: 0.8125rem;
}
.swatch {
  width: 1.2rem;
  height: 1rem;
  border: 1px solid var(--line);
  border-radius: 2px;
  padding: 0;
}
.rides {
  width: 10.5rem;
}
</style>
