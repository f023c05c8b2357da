<script setup lang="ts">
/** What passes in front of the Screen: by its colour, by what differs from the dark glass, or by outline. */
import type { Holdout } from '@yarlop/core/dress/holdout/holdout';
import { coverOf } from '@yarlop/core/dress/front/found-cover';
import { computed, ref } from 'vue';
import { sentence } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { setWords } from './part-words';
import { codeValues, cssColour } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import AnimatedControl from './AnimatedControl.vue';
import KeyHistogram from './KeyHistogram.vue';
import { useShot } from '../stores/shot';
import { holdoutOf } from '../edits/carried-outline';
import { useDressList } from '../edits/use-dress-list';
import { controlOf, useDress } from '../edits/use-dress';
import { matched, useMeasuring } from '../edits/use-match';
import MeasureProgress from './MeasureProgress.vue';
import ListedRow from './ListedRow.vue';
import OutlineControls from './OutlineControls.vue';
import type { Recipe } from '../types';

const NAMES = {
  key: "the screen's colour",
  difference: 'differs from the glass',
  outline: 'outline',
  found: 'found in the plate',
} as const;
const { dress } = useDress();
const { list, change, add, row, on } = useDressList('holdouts');
const view = useView();
const playhead = usePlayhead();
const store = useShot();
const carried = computed(() => store.screens.filter((s) => s.recipe.carried && s.id !== store.chosenId));
function holdOut(recipe: Recipe): void {
  const holdout = holdoutOf(recipe);
  if (holdout) add(holdout);
}
/** On which frames something was found, and how much it covers. */
function foundOn(h: Extract<Holdout, { kind: 'found' }>): string {
  const { frames, from, to, most } = coverOf(h.found);
  const first = store.shot?.probe.firstFrame ?? 0;
  return `on ${frames} frames, ${from + first} to ${to + first}; at most ${Math.max(1, Math.round(100 * most))} % of the glass`;
}
const NOTHING_FOUND = 'Nothing was found that passes before this Screen; draw an outline where something does.';
const { running, measure } = useMeasuring();
let stop = new AbortController();
const said = ref('');
/** Looks the plate through for what stands in front; nothing else of the dress is changed. */
async function find(): Promise<void> {
  const s = store.chosen;
  if (!s) return;
  said.value = '';
  stop = new AbortController();
  await store.save();
  try {
    const proposals = await measure(s, stop);
    const found = proposals?.filter((p) => p.recipe.holdouts?.some((h) => h.kind === 'found')) ?? [];
    const now = store.screens.find((x) => x.id === s.id);
    if (found.length > 0 && now)
      store.edit('Find what stands in front', matched(now.recipe, found), now.recipe, now.id);
    else if (proposals) said.value = NOTHING_FOUND;
  } catch (e) {
    said.value = sentence(e);
  }
}
/** A place of the plate is clicked; its colour begins a key, or joins one. */
function sample(i: number | null): void {
  view.sample("Click the screen's colour.", (rgb) => {
    const colour = codeValues(rgb);
    const h = i === null ? null : list.value[i];
    if (h?.kind === 'key') change(i!, { colours: [...h.colours, colour] }, 'Sample key colour');
    else add({ kind: 'key', colours: [colour], gone: 0.3, solid: 0.7, softness: 1 });
  });
}
const control = (h: Holdout, i: number, field: 'softness' | 'grow') =>
  controlOf(h[field], playhead.frame, 0, (v, final) => change(i, { [field]: v }, `Set holdout ${field}`, final));
</script>

<template>
  <BenchSection title="Holdouts" :said="setWords(dress, 'holdouts')">
    <template #note>what stays in front</template>
    <div v-for="(h, i) in list" :key="i" class="holdout" :data-test="`holdout-${i}`">
      <ListedRow v-bind="row(i)" :title="NAMES[h.kind]" v-on="on(i)">
        <span
          v-for="(c, k) in h.kind === 'key' ? h.colours : []"
          :key="k"
          class="swatch"
          :style="{ background: cssColour(c) }"
          :title="`Key colour ${c.map((v) => Math.round(255 * v)).join(' ')}`"
        />
      </ListedRow>
      <KeyHistogram
        v-if="h.kind === 'key'"
        :name="`key-${i}`"
        :colours="h.colours"
        :gone="h.gone"
        :solid="h.solid"
        @put="(part, final) => change(i, part, 'Set key', final)"
      />
      <p v-if="h.kind === 'found'" class="dim mb-1" :data-test="`found-${i}`">{{ foundOn(h) }}</p>
      <template v-if="h.kind === 'difference'">
        <label class="handle"
          ><span>gone above</span
          ><input
            type="range"
            class="form-range"
            min="0"
            max="0.6"
            step="0.01"
            :value="h.gone"
            title="Where the fill is gone and what stands in front shows whole"
            :data-test="`gone-${i}`"
            @input="change(i, { gone: Number(($event.target as HTMLInputElement).value) }, 'Set gone', false)"
            @change="change(i, { gone: Number(($event.target as HTMLInputElement).value) }, 'Set gone')"
          /><span class="mono">{{ h.gone.toFixed(2) }}</span></label
        >
        <label class="handle"
          ><span>solid below</span
          ><input
            type="range"
            class="form-range"
            min="0"
            max="0.6"
            step="0.01"
            :value="h.solid"
            title="Where the fill covers wholly"
            :data-test="`solid-${i}`"
            @input="change(i, { solid: Number(($event.target as HTMLInputElement).value) }, 'Set solid', false)"
            @change="change(i, { solid: Number(($event.target as HTMLInputElement).value) }, 'Set solid')"
          /><span class="mono">{{ h.solid.toFixed(2) }}</span></label
        >
      </template>
      <template v-if="h.kind === 'outline'">
        <label class="handle two"
          ><span>does</span
          ><BFormSelect
            :model-value="h.givesBack ? 'back' : 'out'"
            :options="[
              { value: 'out', text: 'hold out' },
              { value: 'back', text: 'give back to the fill' },
            ]"
            title="Holds out what it is drawn around; or lets the fill show again there, where holdouts before it in the list took it away"
            :data-test="`does-${i}`"
            @update:model-value="
              change(i, { givesBack: $event === 'back' ? true : undefined }, 'Set what holdout does')
            "
        /></label>
        <OutlineControls :of="{ part: 'holdouts', index: i }" :outline="h" />
      </template>
      <label v-if="h.kind === 'key'" class="handle"
        ><span>crosses</span
        ><input
          type="range"
          class="form-range"
          min="0"
          max="80"
          step="1"
          :value="h.crosses ?? 0"
          title="Marks on the screen up to so many px across are filled before the key is used"
          :data-test="`crosses-${i}`"
          @change="change(i, { crosses: Number(($event.target as HTMLInputElement).value) }, 'Fill crosses')"
        /><span class="mono">{{ h.crosses ?? 0 }}</span></label
      >
      <AnimatedControl
        :name="`holdout-soft-${i}`"
        label="edge width"
        help="Width of the matte's edge, px"
        :min="0"
        :max="20"
        :step="0.1"
        v-bind="control(h, i, 'softness')"
      />
      <AnimatedControl
        :name="`holdout-grow-${i}`"
        label="edge at"
        help="Moves the matte's edge by so many px: what is held out grows, or shrinks"
        :min="-20"
        :max="20"
        :step="0.1"
        v-bind="control(h, i, 'grow')"
      />
      <div class="d-flex gap-2">
        <BFormCheckbox
          :model-value="h.invert ?? false"
          title="Turn the matte round"
          @update:model-value="change(i, { invert: Boolean($event) }, 'Invert holdout')"
          >inverted</BFormCheckbox
        >
        <BButton
          v-if="h.kind === 'key'"
          variant="link"
          class="p-0 ms-auto"
          title="Click another shade of the screen in the picture"
          @click="sample(i)"
          >Add a shade</BButton
        >
      </div>
    </div>
    <MeasureProgress v-if="running" v-bind="running" @stop="stop.abort()" />
    <p v-if="said" class="weak mb-1" role="status" data-test="nothing-in-front">{{ said }}</p>
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        variant="outline-secondary"
        :disabled="!!running"
        title="Look the plate through for what passes before the Screen: fingers, hands, people. Keyed screens are held out by their colour"
        data-test="holdout-find"
        @click="find"
        >Find in the plate</BButton
      >
      <BButton
        variant="outline-secondary"
        title="Click the screen's colour in the picture; whatever has another colour stays in front"
        data-test="holdout-key"
        @click="sample(null)"
        >By colour</BButton
      >
      <BButton
        variant="outline-secondary"
        title="Draw around what stays in front; the outline rides on the Screen's plane"
        data-test="holdout-outline"
        @click="view.tool = { kind: 'draw-patch', patch: 'holdout' }"
        >By outline</BButton
      >
      <BButton
        v-for="c in carried"
        :key="c.id"
        variant="outline-secondary"
        title="Hold out what this outline was drawn about; it moves as its own run found it"
        :data-test="`holdout-carried-${c.id}`"
        @click="holdOut(c.recipe)"
        >By {{ c.recipe.name }}</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!dress.glare?.measured"
        :title="
          dress.glare?.measured
            ? 'Whatever differs from the dark glass stays in front'
            : 'Match the plate first: the glass must be measured'
        "
        data-test="holdout-difference"
        @click="add({ kind: 'difference', solid: 0.06, gone: 0.16, softness: 1 })"
        >By difference</BButton
      >
    </div>
  </BenchSection>
</template>

<style scoped>
.holdout {
  border-left: 2px solid var(--line);
  padding-left: 0.5rem;
  margin-bottom: 0.5rem;
  font-size: 0.8125rem;
}
.swatch {
  width: 0.9rem;
  height: 0.9rem;
  border: 1px solid var(--line);
  border-radius: 2px;
}
.handle {
  display: grid;
  grid-template-columns: 5.4rem 1fr 3.6rem;
  gap: 4px;
  align-items: center;
}
.handle.two {
  grid-template-columns: 5.4rem 1fr;
}
.handle span:first-child {
  color: var(--text-dim);
}
</style>
