<script setup lang="ts">
/** The slot: which fill is in it, when it plays, and how it lies in the plane. */
import { computed, nextTick, onMounted, ref } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { api } from '../api';
import { useLive } from '../stores/live';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import UploadBox from '../upload/UploadBox.vue';
import type { Finished } from '../upload/use-upload';
import ControlList from './ControlList.vue';
import MadeSection from './MadeSection.vue';
import TableSelect from '../shared/TableSelect.vue';
import { PLACEMENT, SECTION_OF } from './dress-controls';
import { useDress, withPart } from '../edits/use-dress';
import type { Placement } from '@yarlop/core/dress/shape/placement';
import { keptProportions, slotAspect } from '@yarlop/core/dress/shape/placement';
import type { Quad } from '@yarlop/core/geometry/quad';
import { proportionsOf } from '@yarlop/core/pin/proportions';
import NumberField from '../shared/NumberField.vue';

type Fill = NonNullable<Recipe['fill']>;
const store = useShot();
const media = useMedia();
const live = useLive();
const playhead = usePlayhead();
const view = useView();
const { recipe, dress, set } = useDress();
const fills = computed(() => media.all.filter((m) => m.hash !== store.shot?.mediaHash));
const clip = computed(() => (recipe.value?.fill?.media ? media.byHash.get(recipe.value.fill.media) : undefined));
const adding = ref(false);
const box = ref<InstanceType<typeof UploadBox> | null>(null);
const FITS = [
  { value: 'stretch', text: 'stretched to the Screen' },
  { value: 'contain', text: 'whole, within the Screen' },
  { value: 'cover', text: 'covering the Screen' },
];
const LAYS = [
  { value: 'pin', text: 'in the pin' },
  { value: 'plate', text: 'over the plate' },
];
const ENDS = [
  { value: 'hold', text: 'holds its last picture' },
  { value: 'loop', text: 'begins again' },
];
const PRIMARIES = [
  { value: 'auto', text: 'as tagged' },
  { value: 'bt709', text: 'Rec.709, sRGB' },
  { value: 'bt2020', text: 'Rec.2020' },
  { value: 'p3', text: 'P3, D65' },
  { value: 'p3-dci', text: 'P3, own white' },
  { value: 'bt601-625', text: 'Rec.601, 625 lines' },
  { value: 'bt601-525', text: 'Rec.601, 525 lines' },
  { value: 'ap0', text: 'AP0' },
  { value: 'ap1', text: 'AP1' },
];
const CURVES = [
  { value: 'auto', text: 'as tagged' },
  { value: 'srgb', text: 'sRGB' },
  { value: 'bt709', text: 'Rec.709' },
  { value: 'gamma22', text: 'gamma 2.2' },
  { value: 'gamma24', text: 'gamma 2.4' },
  { value: 'linear', text: 'linear' },
  { value: 'pq', text: 'PQ' },
  { value: 'hlg', text: 'HLG' },
  { value: 'acescct', text: 'ACEScct' },
  { value: 'acescc', text: 'ACEScc' },
];
onMounted(() => void media.load());
live.on('media', () => void media.load());

/** Swaps the fill and touches nothing else; what was in the slot stays one of its versions. */
function choose(hash: string | null): void {
  if (!recipe.value) return;
  const { fill, ...rest } = recipe.value;
  if (!hash) return store.edit('Take fill out', rest);
  const versions = [
    ...new Set([...(fill?.versions ?? []), ...(fill?.media && fill.media !== hash ? [fill.media] : [])]),
  ]
    .filter((h) => h !== hash)
    .slice(-50);
  const chosen = { ...rest, fill: { ...fill, media: hash, ...(versions.length > 0 ? { versions } : {}) } };
  const placement = firstPlacement(hash);
  store.edit('Choose fill', placement ? withPart(chosen, 'placement', placement) : chosen);
}
/** A fill that was made for other proportions keeps its own; nothing where somebody has placed a fill already. */
function firstPlacement(hash: string): Placement | null {
  const own = media.byHash.get(hash)?.probe;
  const plate = store.shot?.probe;
  if (!own || !plate || !recipe.value || recipe.value.dress?.placement) return null;
  return keptProportions(own.width / own.height, proportionsOf(recipe.value.pin as unknown as Quad, plate));
}
function fillPart(name: string, part: Partial<Fill>): void {
  if (recipe.value?.fill) store.edit(name, { ...recipe.value, fill: { ...recipe.value.fill, ...part } });
}
/**
 * Begins a fill that is made up, on the picture that is in the slot if there is one; or takes what is made up away
 * again.
 */
function makeUp(): void {
  if (!recipe.value) return;
  const { fill = {}, ...rest } = recipe.value;
  const { made, ...own } = fill;
  if (!made)
    store.edit('Make up a fill', {
      ...rest,
      fill: {
        ...fill,
        made: { ground: [0.07, 0.17, 0.2], lines: [{ text: 'Gale warning', font: 'sans bold', size: 0.1, y: 0.2 }] },
      },
    });
  else store.edit('Leave made-up fill', own.media ? { ...rest, fill: own } : rest);
}
async function arrived(f: Finished): Promise<void> {
  const m = await api('POST /media', f);
  await media.load();
  choose(m.hash);
  adding.value = box.value?.isNeeded ?? false;
}
/** The file dialog comes with the press; the box stays for who rather drops a file. */
async function bringIn(): Promise<void> {
  adding.value = true;
  await nextTick();
  box.value?.open();
}
function setTable(hash: string | null): void {
  const { table, ...rest } = recipe.value!.fill!;
  void table;
  store.edit('Set colour table of fill', { ...recipe.value!, fill: hash ? { ...rest, table: hash } : rest });
}
function crop(i: number, v: number): void {
  const now = dress.value.placement?.crop ?? [0, 0, 0, 0];
  set('Crop fill', 'placement', { crop: now.map((x, k) => (k === i ? v : x)) });
}
</script>

<template>
  <BenchSection :title="SECTION_OF.placement">
    <template #note>of {{ recipe?.name }}</template>
    <div class="fills">
      <button
        v-for="m in fills"
        :key="m.hash"
        type="button"
        class="fill"
        title="Put this into the slot; nothing else changes"
        :class="{ chosen: recipe?.fill?.media === m.hash }"
        :aria-pressed="recipe?.fill?.media === m.hash"
        :data-test="`fill-${m.name}`"
        @click="choose(m.hash)"
      >
        <img v-if="m.state === 'ready'" :src="`/api/media/${m.hash}/proxy/0.jpg`" :alt="''" /><span
          v-else
          class="dim"
          >{{ m.state === 'failed' ? 'failed' : 'reading in ...' }}</span
        >
        <span class="name">{{ m.name }}</span><span class="dim mono"
          >{{ m.probe.width }}x{{ m.probe.height }}{{ m.frameCount > 1 ? `, ${m.frameCount} fr` : ''
          }}{{ recipe?.fill?.versions?.includes(m.hash) ? ', was in' : '' }}</span
        >
      </button>
    </div>
    <p v-if="fills.length === 0" class="dim">The library holds no fill yet. Bring in a picture or a clip.</p>
    <div class="d-flex gap-1 mt-2">
      <BButton
        :variant="recipe?.fill ? 'outline-secondary' : 'primary'"
        title="Add pictures or clips to the library; the last one comes into this slot"
        data-test="bring-in"
        @click="bringIn"
        >Bring in</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!recipe?.fill"
        title="Leave the slot empty"
        data-test="take-fill-out"
        @click="choose(null)"
        >Take out</BButton
      >
      <BButton
        variant="outline-secondary"
        :pressed="Boolean(recipe?.fill?.made)"
        title="Lay a clip and lines of text over a colour or over the picture that is chosen: a call arriving, a message sliding in"
        data-test="make-up"
        @click="makeUp"
        >Make up</BButton
      >
    </div>
    <MadeSection />
    <UploadBox v-if="adding" ref="box" class="mt-2" prompt="Drop pictures or clips here" :done="arrived" />
    <details v-if="recipe?.fill" class="mt-2">
      <summary title="When the clip begins, how fast it plays, and how its code values become light">
        Time and colour
      </summary>
      <div v-if="(clip?.frameCount ?? 1) > 1" class="pairs">
        <span>begins on frame</span
        ><span class="d-flex gap-1"
          ><NumberField
            whole
            :model-value="recipe.fill.start ?? 0"
            aria-label="Frame on which the clip begins"
            title="Frame of the plate on which the clip begins"
            data-test="fill-start"
            @update:model-value="fillPart('Set start of fill', { start: $event })"
          /><BButton
            variant="outline-secondary"
            title="The clip begins on this frame"
            @click="fillPart('Set start of fill', { start: playhead.frame })"
            >Here</BButton
          ></span
        >
        <span>speed</span
        ><NumberField
          :min="0"
          :max="100"
          :step="0.1"
          :model-value="recipe.fill.speed ?? 1"
          aria-label="Speed of the clip"
          title="1 as it is; 0 stands still"
          data-test="fill-speed"
          @update:model-value="fillPart('Set speed of fill', { speed: $event })"
        />
        <span>after its end</span
        ><BFormSelect
          :model-value="recipe.fill.end ?? 'hold'"
          :options="ENDS"
          title="What follows the clip's last picture"
          data-test="fill-end"
          @update:model-value="fillPart('Set end of fill', { end: $event as Fill['end'] })"
        />
        <span>its rate</span
        ><BFormSelect
          :model-value="recipe.fill.rate ?? 'time'"
          :options="[
            { value: 'time', text: 'keeps its own time' },
            { value: 'frames', text: 'a picture a frame' },
          ]"
          title="Whether a clip of another rate keeps its time or goes picture by picture"
          @update:model-value="fillPart('Set rate of fill', { rate: $event as Fill['rate'] })"
        />
        <BFormCheckbox
          :model-value="recipe.fill.reverse ?? false"
          title="Play it from its end to its beginning"
          @update:model-value="fillPart('Reverse fill', { reverse: Boolean($event) })"
          >backwards</BFormCheckbox
        >
      </div>
      <div class="pairs">
        <span>its curve</span
        ><BFormSelect
          :model-value="recipe.fill.transfer ?? 'auto'"
          :options="CURVES"
          title="By which curve its code values become light; pictures made for displays keep their code values in a display plate"
          @update:model-value="fillPart('Set curve of fill', { transfer: $event as Fill['transfer'] })"
        />
        <span>its primaries</span
        ><BFormSelect
          :model-value="recipe.fill.primaries ?? 'auto'"
          :options="PRIMARIES"
          title="Which red, green and blue its numbers mean"
          data-test="fill-primaries"
          @update:model-value="fillPart('Set primaries of fill', { primaries: $event as Fill['primaries'] })"
        />
        <span>goes through</span>
        <div>
          <TableSelect
            :chosen="recipe.fill.table ?? null"
            label="Colour table of the fill"
            help="A colour table that its code values go through first"
            name="fill-table"
            @choose="setTable"
          />
        </div>
      </div>
    </details>
    <details v-if="recipe?.fill" class="mt-2" data-test="placement">
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
      <label v-if="dress.placement?.lay !== 'plate'" class="dim d-flex gap-1 align-items-center mb-1"
        >Screen, width by height
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
      <div class="crop">
        <span class="dim">cut off</span
        ><NumberField
          v-for="(side, i) in ['left', 'top', 'right', 'bottom']"
          :key="side"
          :min="0"
          :model-value="dress.placement?.crop?.[i] ?? 0"
          :aria-label="`Cut off at the ${side}, px of the fill`"
          :title="`Px of the fill cut off at the ${side}`"
          @update:model-value="crop(i, $event)"
        />
      </div>
    </details>
  </BenchSection>
</template>

<style scoped>
.short {
  width: 4.6rem;
}
.fills {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px;
  max-height: 200px;
  overflow: hidden auto;
}
.fill {
  display: flex;
  flex-direction: column;
  background: var(--ink);
  border: 1px solid var(--line);
  color: var(--text);
  padding: 4px;
  border-radius: 3px;
  text-align: left;
  font-size: 0.75rem;
}
.fill.chosen {
  border-color: var(--brass);
  outline: 1px solid var(--brass);
}
.fill img {
  width: 100%;
  height: 62px;
  object-fit: contain;
  background: #111;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.pairs {
  display: grid;
  grid-template-columns: 6.2rem 1fr;
  gap: 3px 6px;
  align-items: center;
  font-size: 0.8125rem;
  margin-top: 3px;
}
.crop {
  display: grid;
  grid-template-columns: 5.4rem repeat(4, 1fr);
  gap: 4px;
  align-items: center;
  font-size: 0.8125rem;
}
.crop .form-control {
  padding: 0 0.3rem;
  height: 1.5rem;
}
summary {
  color: var(--text-dim);
}
</style>
