<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { BLEND_MODES } from '@yarlop/core/dress/colour/blend';
import type { Animated } from '@yarlop/core/dress/base/keys';
import type { ViewShow } from '../shared/picture-request';
import { computed } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { codeValues, cssColour } from '../shared/format';
import { useTracks } from '../stores/tracks';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import BendSection from './BendSection.vue';
import DepthSection from './DepthSection.vue';
import LightsSection from './LightsSection.vue';
import ScopesSection from './ScopesSection.vue';
import SplitControls from './SplitControls.vue';
import CarrySection from './CarrySection.vue';
import CompareControls from './CompareControls.vue';
import ControlList from './ControlList.vue';
import FillSection from './FillSection.vue';
import HoldoutsSection from './HoldoutsSection.vue';
import MatchSection from './MatchSection.vue';
import RetouchSection from './RetouchSection.vue';
import DisplayNumbers from './DisplayNumbers.vue';
import FlickerPart from './FlickerPart.vue';
import SampledEnds from './SampledEnds.vue';
import { EDGE, GLASS, GRAIN, LEVELS, LOOK, SECTION_OF, SOFTNESS, SPILL } from './dress-controls';
import { useDress } from '../edits/use-dress';
import { setWords } from './part-words';
import NumberField from '../shared/NumberField.vue';

const view = useView();
const store = useShot();
const tracks = useTracks();
const { recipe, dress, set, put } = useDress();
const SHOWS: { value: ViewShow; text: string }[] = [
  { value: 'dressed', text: 'dressed' },
  { value: 'element', text: 'the element alone' },
  { value: 'matte', text: 'its matte' },
  { value: 'overlay', text: 'matte over the plate' },
  { value: 'clean', text: 'clean plate' },
  { value: 'difference', text: 'difference, 4 times' },
];
const shutter = computed(() => (store.chosenId === null ? null : (tracks.tracks.get(store.chosenId)?.shutter ?? null)));
const keyColour = computed(() => dress.value.holdouts?.flatMap((h) => (h.kind === 'key' ? h.colours : []))[0]);
const SIDES = ['Top', 'Right', 'Bottom', 'Left'] as const;
/** The opposite of each side. */
const SIDE_PAIRS = [2, 3, 0, 1] as const;
/** Controls of the edge that are one number for all sides; those that are split stand below. */
const edges = computed(() =>
  EDGE.filter(
    (c) =>
      !(c.field === 'inset' && split(dress.value.edge?.inset, 'sides')) &&
      !(c.field === 'feather' && split(dress.value.edge?.feather, 'sides')) &&
      !(c.field === 'radius' && split(dress.value.edge?.radius, 'corners')),
  ),
);
function split(v: unknown, key: string): readonly Animated[] | undefined {
  return typeof v === 'object' && v !== null && key in v ? (v as Record<string, readonly Animated[]>)[key] : undefined;
}
const steady = (v: unknown): Animated | undefined =>
  typeof v === 'number' || Array.isArray(v) ? (v as Animated) : undefined;
function channels(field: 'lift' | 'gamma' | 'gain', list: Animated[] | undefined, final: boolean): void {
  const next = Object.fromEntries(
    Object.entries({ ...dress.value.levels?.channels, [field]: list }).filter(([, v]) => v),
  );
  put(
    `Set ${field} per channel`,
    'levels',
    { ...dress.value.levels, channels: Object.keys(next).length > 0 ? next : undefined },
    final,
  );
}
/** By the colour of the key where there is one, else by one that is clicked. */
function takeSpillOff(): void {
  const take = (colour: readonly number[]): void =>
    put('Remove spill', 'spill', { colour: [...colour], amount: 1, recolour: 0.3, reach: 60 });
  if (keyColour.value) take(keyColour.value);
  else view.sample("Click the old screen's light, or the screen itself.", (rgb) => take(codeValues(rgb)));
}
</script>

<template>
  <div v-if="recipe">
    <section>
      <div class="d-flex gap-2 align-items-center">
        <BFormSelect
          v-model="view.show"
          :options="SHOWS"
          aria-label="What is shown"
          title="The finished picture, a part of it, or what it changes"
          data-test="show"
        />
        <BFormCheckbox v-model="view.plateOnly" switch class="text-nowrap" :title="sentenceOf('plate-alone')"
          >plate <kbd>V</kbd></BFormCheckbox
        >
      </div>
      <CompareControls />
    </section>
    <MatchSection v-if="recipe.fill" />
    <FillSection />
    <template v-if="recipe.fill">
      <BenchSection :title="SECTION_OF.levels" :said="setWords(dress, 'levels')">
        <SampledEnds />
        <ControlList :controls="LEVELS" />
        <FlickerPart />
        <SplitControls
          v-for="(x, field) in {
            lift: { min: -0.2, max: 0.5, step: 0.002, base: 0 },
            gamma: { min: 0.3, max: 3, step: 0.01, base: 1 },
            gain: { min: 0, max: 4, step: 0.01, base: 1 },
          } as const"
          :key="field"
          :what="`${field} per channel`"
          :name="`channels-${field}`"
          :names="['Red', 'Green', 'Blue']"
          :help="`${field} of a channel, beside the common one`"
          v-bind="x"
          :start="x.base"
          :list="dress.levels?.channels?.[field]"
          @write="(list, final) => channels(field, list, final)"
        />
      </BenchSection>
      <BenchSection :title="SECTION_OF.softness" :said="setWords(dress, 'softness', 'motionBlur')">
        <ControlList :controls="SOFTNESS" />
        <div class="d-flex gap-2 align-items-center mt-1">
          <BFormCheckbox
            :model-value="dress.softness?.shape === 'disc'"
            title="An even disc, as an open lens makes it, instead of a bell"
            data-test="disc"
            @update:model-value="set('Set shape of softness', 'softness', { shape: $event ? 'disc' : undefined })"
            >disc</BFormCheckbox
          >
          <BFormCheckbox
            :model-value="dress.motionBlur?.on ?? false"
            title="Smears the fill along the solved motion while the shutter is open"
            data-test="motion-blur"
            @update:model-value="set('Motion blur', 'motionBlur', { on: $event ? true : undefined })"
            >motion blur</BFormCheckbox
          >
          <NumberField
            class="degrees"
            :min="0"
            :max="720"
            optional
            :model-value="dress.motionBlur?.shutter ?? null"
            :placeholder="shutter ? String(Math.round(360 * shutter.share)) : '180'"
            aria-label="Shutter, degrees"
            title="Degrees of 360 for which the shutter is open; empty takes what following estimated"
            data-test="shutter"
            @update:model-value="set('Set shutter', 'motionBlur', { shutter: $event ?? undefined })"
          />
        </div>
      </BenchSection>
      <BenchSection :title="SECTION_OF.edge" :said="setWords(dress, 'edge')">
        <ControlList :controls="edges" />
        <SplitControls
          what="inset per side"
          name="inset"
          :names="SIDES"
          :pairs="SIDE_PAIRS"
          help="Inset of a side, px"
          :min="-20"
          :max="40"
          :step="0.1"
          :base="0"
          :start="steady(dress.edge?.inset)"
          :list="split(dress.edge?.inset, 'sides')"
          @write="
            (list, final) => put('Draw sides in', 'edge', { ...dress.edge, inset: list && { sides: list } }, final)
          "
        />
        <SplitControls
          what="feather per side"
          name="feather"
          :names="SIDES"
          :pairs="SIDE_PAIRS"
          help="Feather of a side, px"
          :min="0"
          :max="60"
          :step="0.5"
          :base="0"
          :start="steady(dress.edge?.feather)"
          :list="split(dress.edge?.feather, 'sides')"
          @write="
            (list, final) => put('Feather sides', 'edge', { ...dress.edge, feather: list && { sides: list } }, final)
          "
        />
        <SplitControls
          what="radius per corner"
          name="radius"
          :names="[...CORNER_NAMES]"
          help="Radius of a corner, shares of the shorter side"
          :min="0"
          :max="0.5"
          :step="0.005"
          :base="0"
          :start="steady(dress.edge?.radius)"
          :list="split(dress.edge?.radius, 'corners')"
          @write="
            (list, final) => put('Round corners', 'edge', { ...dress.edge, radius: list && { corners: list } }, final)
          "
        />
      </BenchSection>
      <BendSection />
      <BenchSection v-if="dress.glare" :title="SECTION_OF.glare" :said="setWords(dress, 'glare')">
        <ControlList :controls="GLASS" />
        <p v-if="!dress.glare.measured" class="dim mb-0">Match the plate to measure the glass's own light.</p>
      </BenchSection>
      <LightsSection />
      <HoldoutsSection />
      <RetouchSection />
      <BenchSection :title="SECTION_OF.spill" :said="setWords(dress, 'rim', 'spill')">
        <BFormCheckbox
          class="mb-1"
          :model-value="dress.rim?.on ?? false"
          title="Continues the plate inwards where the old picture's light lies over the glass edge, so that no lit rim is left about the fill"
          data-test="rim"
          @update:model-value="set('Replace rim', 'rim', { on: $event ? true : undefined })"
          >replace its rim</BFormCheckbox
        >
        <BButton
          v-if="!dress.spill"
          variant="outline-secondary"
          :title="
            keyColour
              ? 'Remove the key colour\'s hue from what stands around the Screen'
              : 'Click the hue that is to be removed from what stands around the Screen'
          "
          data-test="spill-on"
          @click="takeSpillOff"
          >Remove it</BButton
        >
        <template v-else>
          <ControlList :controls="SPILL" />
          <div class="d-flex gap-2 align-items-center mt-1">
            <span class="swatch" :style="{ background: cssColour(dress.spill.colour) }" /><label
              class="dim d-flex gap-1 align-items-center"
              >reaches
              <NumberField
                class="degrees"
                :min="0"
                optional
                :model-value="dress.spill.reach ?? null"
                placeholder="all"
                aria-label="Reach of spill, px"
                title="Px beyond the pin to which it reaches, fading; empty is everywhere"
                @update:model-value="set('Set reach of spill', 'spill', { reach: $event ?? undefined })"
              />
              px</label
            >
            <BButton
              variant="link"
              class="p-0 ms-auto"
              title="Leave the plate as it is"
              @click="put('Leave spill', 'spill', undefined)"
              >Leave it</BButton
            >
          </div>
        </template>
      </BenchSection>
      <BenchSection :title="SECTION_OF.grain" :said="setWords(dress, 'grain', 'look')">
        <ControlList v-if="dress.grain?.measured" :controls="GRAIN" />
        <p v-else class="dim mb-1">Match the plate to measure its grain.</p>
        <ControlList :controls="LOOK" />
        <DisplayNumbers />
      </BenchSection>
      <BenchSection title="Blend" :said="setWords(dress, 'blend')">
        <div class="d-flex gap-1">
          <BFormSelect
            :model-value="dress.blend?.mode ?? 'over'"
            :options="[...BLEND_MODES]"
            aria-label="Blend"
            title="How the fill's light meets the plate's"
            data-test="blend"
            @update:model-value="set('Set blend', 'blend', { mode: $event === 'over' ? undefined : $event })"
          />
          <BFormSelect
            :model-value="dress.blend?.space ?? 'light'"
            :options="[
              { value: 'light', text: 'in light' },
              { value: 'display', text: 'as shown' },
            ]"
            aria-label="Blend in"
            title="In scene-linear light, as a camera would, or in the plate's code values"
            @update:model-value="set('Set blend space', 'blend', { space: $event === 'light' ? undefined : $event })"
          />
        </div>
        <DepthSection />
      </BenchSection>
    </template>
    <RetouchSection v-else />
    <ScopesSection v-if="recipe.fill" />
    <CarrySection />
  </div>
  <p v-else class="dim">Drop four corners on a screen first.</p>
</template>

<style scoped>
.degrees {
  width: 4.6rem;
  padding: 0 0.4rem;
}
.swatch.large {
  width: 2rem;
  height: 1.2rem;
  padding: 0;
}
.swatch {
  width: 1rem;
  height: 1rem;
  border: 1px solid var(--line);
  border-radius: 2px;
}
</style>
