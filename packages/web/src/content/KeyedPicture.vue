<script setup lang="ts">
/** The colour that is taken out of a picture: taken from the picture itself or chosen, with its range, spill and edge. */
import type { PictureKey, PictureLayer } from '@yarlop/core/dress/content/layers';
import NumberField from '../shared/NumberField.vue';
import { hexOf, rgbOf } from '../shared/colour-hex';

const props = defineProps<{ layer: PictureLayer; picking: boolean }>();
const emit = defineEmits<{ key: [key: PictureKey | undefined, name: string]; pick: [] }>();

/** Green as it is painted, and a range that lets its shadows go. By eye. */
const FIRST: PictureKey = { colour: [0.16, 0.62, 0.26], gone: 0.25, solid: 0.6, spill: 1 };
const NUMBERS = [
  { field: 'gone', label: 'Stays below', min: 0, max: 2, step: 0.01, help: 'Strength of the colour up to which the picture stays' },
  { field: 'solid', label: 'Gone above', min: 0, max: 2, step: 0.01, help: 'Strength of the colour from which it is gone' },
  { field: 'spill', label: 'Spill', min: 0, max: 1, step: 0.05, help: 'How much of the colour is taken off what stays' },
  { field: 'grow', label: 'Grow', min: -100, max: 100, step: 0.5, help: 'By which what stays grows, or shrinks; thousandths of the height' },
  { field: 'softness', label: 'Softness', min: 0, max: 100, step: 0.5, help: 'Width of its edge; thousandths of the height' },
] as const; // prettier-ignore
const set = (part: Partial<PictureKey>, name: string): void =>
  emit('key', { ...(props.layer.key ?? FIRST), ...part }, name);
</script>

<template>
  <div>
    <BFormCheckbox
      :model-value="Boolean(layer.key)"
      title="Takes a colour out of it, such as the paint behind a person"
      data-test="layer-keyed"
      @update:model-value="emit('key', $event ? FIRST : undefined, 'Key picture')"
      >Take a colour out</BFormCheckbox
    >
    <template v-if="layer.key">
      <div class="labelled">
        <span class="dim">Colour</span>
        <span class="d-flex gap-1">
          <input
            type="color"
            :value="hexOf(layer.key.colour)"
            title="The colour that is taken out"
            aria-label="Colour that is taken out"
            @change="set({ colour: rgbOf(($event.target as HTMLInputElement).value) }, 'Set colour of key')"
          />
          <BButton
            size="sm"
            variant="outline-secondary"
            :class="{ active: picking }"
            :aria-pressed="picking"
            title="Take the colour from the picture: press where it is"
            data-test="pick-key"
            @click="emit('pick')"
            >From the picture</BButton
          >
        </span>
      </div>
      <label v-for="n in NUMBERS" :key="n.field" class="labelled">
        <span class="dim" :title="n.help">{{ n.label }}</span>
        <NumberField
          :model-value="layer.key[n.field] ?? 0"
          :min="n.min"
          :max="n.max"
          :step="n.step"
          :title="n.help"
          :data-test="`key-${n.field}`"
          @update:model-value="set({ [n.field]: $event }, `Set ${n.field} of key`)"
        />
      </label>
    </template>
  </div>
</template>
