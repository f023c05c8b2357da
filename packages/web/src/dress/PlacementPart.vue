<script setup lang="ts">
/** How the fill lies in the Screen's plane: fitted, turned, moved, and how much of it shows. */
import type { Quad } from '@yarlop/core/geometry/quad';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import { useDress } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';
import { useView } from '../stores/view';
import ControlList from './ControlList.vue';
import { PLACEMENT } from './dress-controls';
import SourceWindow from './SourceWindow.vue';

const view = useView();
const { recipe, dress, set } = useDress();
const FITS = [
  { value: 'stretch', text: 'stretched' },
  { value: 'contain', text: 'whole inside' },
  { value: 'cover', text: 'covers it' },
];
const LAYS = [
  { value: 'pin', text: 'in the pin' },
  { value: 'plate', text: 'over the plate' },
];
</script>

<template>
  <details class="mt-2" data-test="placement">
    <summary title="How the fill is fitted, turned, cut and moved within the Screen's plane">Placement</summary>
    <div class="d-flex gap-1 my-1">
      <BFormSelect
        :model-value="dress.placement?.lay ?? 'pin'"
        :options="LAYS"
        aria-label="How it is laid"
        title="In the Screen's plane, or flat over the reference frame and carried by the plane from there"
        data-test="lay"
        @update:model-value="set('Lay fill', 'placement', { lay: $event === 'pin' ? undefined : $event })"
      />
      <BFormSelect
        v-if="dress.placement?.lay !== 'plate'"
        :model-value="dress.placement?.fit ?? 'stretch'"
        :options="FITS"
        aria-label="Fit"
        title="Stretched, or in its own proportions: all of it within the Screen, or as large as covers it"
        data-test="fit"
        @update:model-value="set('Fit fill', 'placement', { fit: $event === 'stretch' ? undefined : $event })"
      />
    </div>
    <div class="d-flex gap-1 align-items-center mb-1">
      <label v-if="dress.placement?.lay !== 'plate'" class="dim d-flex gap-1 align-items-center flex-fill"
        >Width by height
        <NumberField
          class="short"
          :min="0.1"
          :max="10"
          optional
          :model-value="dress.placement?.proportions ?? null"
          :placeholder="recipe && slotAspect(recipe.pin as unknown as Quad).toFixed(2)"
          title="How wide the Screen is for its height: a phone upright 0.46, a laptop 1.6, a TV 1.78; empty takes it as its pin looks"
          data-test="proportions"
          @update:model-value="set('Set proportions', 'placement', { proportions: $event ?? undefined })"
      /></label>
      <BButton
        variant="outline-secondary"
        title="Turn the fill a quarter to the right"
        data-test="quarter"
        @click="
          set('Turn fill', 'placement', { quarterTurns: ((dress.placement?.quarterTurns ?? 0) + 1) % 4 || undefined })
        "
        ><i class="bi bi-arrow-clockwise" aria-hidden="true" /><span class="visually-hidden"
          >Turn a quarter</span
        ></BButton
      >
      <BButton
        variant="outline-secondary"
        :pressed="dress.placement?.mirror ?? false"
        title="Mirror the fill left to right"
        @click="set('Mirror fill', 'placement', { mirror: dress.placement?.mirror ? undefined : true })"
        ><i class="bi bi-symmetry-vertical" aria-hidden="true" /><span class="visually-hidden">Mirror</span></BButton
      >
    </div>
    <ControlList :controls="PLACEMENT" />
    <div v-if="dress.placement?.lay === 'plate'" class="d-flex gap-2 align-items-center">
      <span class="dim">it ends at</span
      ><BFormSelect
        :model-value="dress.placement.cut ? 'outline' : 'pin'"
        :options="[
          { value: 'pin', text: 'the pin' },
          { value: 'outline', text: 'an outline' },
        ]"
        aria-label="Where a laid fill ends"
        title="A fill laid over the plate is cut to the pin, or to an outline that is drawn"
        data-test="cut"
        @update:model-value="
          $event === 'pin'
            ? set('Cut to pin', 'placement', { cut: undefined })
            : (view.tool = { kind: 'draw-patch', patch: 'cut' })
        "
      />
    </div>
    <SourceWindow />
  </details>
</template>

<style scoped>
.short {
  width: 5rem;
}
summary {
  color: var(--text-dim);
}
</style>
