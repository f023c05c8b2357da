<script setup lang="ts">
/** What every outline of a dress has: what it rides on, corners or curves, and the softness of the taken point. */
import { isCurved, withCurves } from '@yarlop/core/dress/shape/outline-by-hand';
import type { RidingOutline } from '@yarlop/core/dress/shape/outline-matte';
import { computed } from 'vue';
import type { Riding } from '../edits/use-outlines';
import { useOutlines } from '../edits/use-outlines';
import NumberField from '../shared/NumberField.vue';
import type { OutlineRef } from '../stores/outline-choice';
import { useOutlineChoice } from '../stores/outline-choice';
import { useShot } from '../stores/shot';

const props = defineProps<{ of: OutlineRef; outline: RidingOutline }>();
const store = useShot();
const choice = useOutlineChoice();
const outlines = useOutlines();

/** Values of the menu that are no Screen's name: names never hold a line's end. */
const OWN = '';
const PICTURE = '\n';
const rides = computed(() => [
  { value: OWN, text: 'this Screen' },
  ...store.screens.filter((s) => s.id !== store.chosenId).map((s) => ({ value: s.recipe.name, text: s.recipe.name })),
  { value: PICTURE, text: 'the picture' },
]);
const ridesOn = computed(() => (props.outline.onPicture ? PICTURE : (props.outline.plane ?? OWN)));
function rideOn(value: string): void {
  let next: Riding;
  if (value === PICTURE) next = { onPicture: true };
  else if (value === OWN) next = {};
  else next = { plane: value };
  outlines.rideOn(props.of, next);
}

function curve(isOn: boolean): void {
  outlines.change(isOn ? 'Curve outline' : 'Straighten outline', props.of, (o) => {
    const { points, handles, keys } = withCurves(o, isOn);
    return { points, handles, ...(keys ? { keys } : {}), smooth: undefined };
  });
}

const point = computed(() => (choice.isChosen(props.of.part, props.of.index) ? choice.point : null));
function soften(i: number, value: number): void {
  outlines.change('Soften outline', props.of, ({ points, soft }) => ({
    soft: points.map((_, k) => (k === i ? value : (soft?.[k] ?? 0))),
  }));
}
</script>

<template>
  <label class="labelled"
    ><span>rides on</span
    ><BFormSelect
      :model-value="ridesOn"
      :options="rides"
      title="What the outline moves with; on the picture only its own keys move it"
      :data-test="`rides-${of.part}-${of.index}`"
      @update:model-value="rideOn(String($event))"
  /></label>
  <div class="labelled">
    <span>points</span>
    <span class="d-flex gap-2 align-items-center">
      <BFormCheckbox
        :model-value="isCurved(outline)"
        title="Curves with handles through all points, or corners; a point alone: take it and press 7"
        :data-test="`curved-${of.part}-${of.index}`"
        @update:model-value="curve(Boolean($event))"
        >curved</BFormCheckbox
      >
      <label v-if="point !== null" class="d-flex gap-1 align-items-center ms-auto"
        >point {{ point + 1 }} soft by
        <NumberField
          class="short"
          :model-value="outline.soft?.[point] ?? 0"
          :min="0"
          :max="1000"
          :step="1"
          title="Width of the edge at the taken point, px of the reference frame; Alt and a sideways drag of the point do the same"
          data-test="point-soft"
          @update:model-value="soften(point, $event)"
      /></label>
    </span>
  </div>
</template>

<style scoped>
.short {
  width: 3.6rem;
  padding: 0 0.3rem;
}
</style>
