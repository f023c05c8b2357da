<script setup lang="ts">
/** The finished picture, or a part of it, as a clip or a sequence. */
import type { DeliverSettings } from '../types';
import { can, isOf } from '@yarlop/contracts/formats';
import { useStorage } from '@vueuse/core';
import type { LoopRange } from '@yarlop/core/image/loop-range';
import { roughBytes } from '@yarlop/core/formats/rough-size';
import { computed, ref, watch } from 'vue';
import { api, sentence } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { bytesText } from '../shared/format';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { usePlayhead } from '../stores/playhead';
import { PASSES, PICTURES, SHOWS } from './formats';
import { useDeliveries } from './use-deliveries';
import { durationText, useRates } from './use-rates';
import NumberField from '../shared/NumberField.vue';

const store = useShot();
const playhead = usePlayhead();
const { deliver } = useDeliveries();
const last = useStorage(
  'yarlop.picture',
  {
    as: 'mp4' as DeliverSettings['as'],
    show: 'dressed' as NonNullable<DeliverSettings['show']>,
    premultiplied: false,
    fullFloat: false,
    sound: true,
    dissolve: 8,
    handles: 0,
  },
  undefined,
  { mergeDefaults: true },
);
const loop = ref<LoopRange | null>(null);
const range = computed((): readonly [number, number] => {
  if (loop.value) return [loop.value.from, loop.value.to];
  const { rangeFrom = 0, rangeTo = 0, frameCount = 1 } = store.shot ?? {};
  // What an earlier version kept of an emptied field is no number.
  const handles = Number.isInteger(last.value.handles) ? last.value.handles : 0;
  return [Math.max(0, rangeFrom - handles), Math.min(frameCount - 1, rangeTo + handles)];
});
const name = ref('');
const firstNumber = ref<number | null>(null);
const chosen = computed(() => PICTURES.find((p) => p.value === last.value.as) ?? PICTURES[0]!);
const frames = computed(() => range.value[1] - range.value[0] + 1);
const alpha = computed(() => can(last.value.as, 'alpha'));
const { seconds } = useRates();
const time = computed(() =>
  durationText(
    seconds(last.value.as, (store.shot?.probe.width ?? 0) * (store.shot?.probe.height ?? 0) * frames.value * 1e-6),
  ),
);
const about = computed(() =>
  bytesText(
    roughBytes(
      last.value.as,
      store.shot?.probe.width ?? 0,
      store.shot?.probe.height ?? 0,
      frames.value,
      (store.shot?.probe.bitDepth ?? 8) > 8,
    ),
  ),
);
function settingsOf(): DeliverSettings {
  const { as, show, premultiplied, fullFloat, sound } = last.value;
  return {
    as,
    ...(show === 'dressed' ? {} : { show }),
    ...(show === 'element' && premultiplied ? { premultiplied } : {}),
    ...(as === 'exr' && fullFloat ? { fullFloat } : {}),
    ...(can(as, 'sound') && sound ? { sound } : {}),
    ...(['stabilised', 'flat'].includes(show) && store.chosenId !== null ? { screen: store.chosenId } : {}),
    from: range.value[0],
    to: range.value[1],
    ...(loop.value ? { loop: loop.value.dissolve } : {}),
    ...(name.value.trim() ? { name: name.value.trim() } : {}),
    ...(firstNumber.value === null ? {} : { firstFrame: firstNumber.value }),
  };
}
const go = (): void => void deliver(settingsOf());
/** The frame on view alone, as a picture: the working range stays as it is. */
const still = computed(() => (isOf(last.value.as, 'sequence') ? last.value.as : 'png'));
function goStill(): void {
  const { loop: _loop, sound: _sound, ...settings } = settingsOf();
  void deliver({ ...settings, as: still.value, from: playhead.frame, to: playhead.frame });
}
const shows = computed(() => [
  ...SHOWS.filter((s) => s.value !== 'element' || alpha.value),
  ...(last.value.as === 'exr' ? PASSES : []),
]);
/** A kind that the format cannot hold gives way to the finished picture. */
watch(shows, (all) => {
  if (!all.some((s) => s.value === last.value.show)) last.value.show = 'dressed';
});
async function goPasses(): Promise<void> {
  for (const show of ['clean', ...PASSES.map((p) => p.value)] as const) await deliver({ ...settingsOf(), show });
}
/** Grey, 0 to 255; difference along a seam from which it is seen: by eye, on the demo's shots. */
const SEEN_LEVELS = 6;
/** px at 1920 wide; movement along it from which it is seen: likewise. */
const SEEN_PX = 12;
const searching = ref(false);
const problem = ref('');
async function search(): Promise<void> {
  searching.value = true;
  try {
    loop.value = await api(
      'POST /shots/:id/loop',
      { id: store.shot!.id },
      {
        dissolve: last.value.dissolve,
        ...(store.chosenId === null ? {} : { screen: store.chosenId }),
      },
    );
    problem.value = '';
  } catch (e) {
    [loop.value, problem.value] = [null, sentence(e)];
  } finally {
    searching.value = false;
  }
}
/** Fills of the library, each for a delivery of its own: the next versions of the content in one go. */
const media = useMedia();
const fills = computed(() => media.all.filter((m) => m.hash !== store.shot?.mediaHash && m.state === 'ready'));
const batch = ref<string[]>([]);
async function goBatch(): Promise<void> {
  for (const fill of batch.value) await deliver({ ...settingsOf(), fill });
  batch.value = [];
}
</script>

<template>
  <BenchSection title="Pictures">
    <BFormSelect
      v-model="last.as"
      :options="[...PICTURES]"
      aria-label="Format of the pictures"
      :title="chosen.what"
      data-test="picture-format"
    />
    <BFormSelect
      v-model="last.show"
      class="mt-1"
      :options="shows"
      aria-label="What the pictures show"
      title="The finished picture, the fills alone, the plate without the old screen's marks and hue, or how much of the fills shows"
      data-test="picture-show"
    />
    <p class="dim mb-1 mt-1">{{ chosen.what }}.</p>
    <BFormCheckbox
      v-if="last.show === 'element'"
      v-model="last.premultiplied"
      title="Colours times alpha, instead of straight"
      >alpha multiplied in</BFormCheckbox
    >
    <BFormCheckbox v-if="last.as === 'exr'" v-model="last.fullFloat" title="32 bits a channel instead of 16"
      >32 bits a channel</BFormCheckbox
    >
    <BFormCheckbox v-if="can(last.as, 'sound')" v-model="last.sound" title="The plate's sound goes along, if it has any"
      >the plate's sound</BFormCheckbox
    >
    <div class="d-flex flex-wrap align-items-center gap-2 mt-1">
      <BButton
        variant="primary"
        class="text-nowrap"
        :title="loop ? 'Render the loop' : 'Render the working range'"
        data-test="deliver-picture"
        @click="go"
        >Deliver {{ frames }} {{ frames === 1 ? 'frame' : 'frames' }}</BButton
      ><BButton
        variant="outline-secondary"
        class="text-nowrap"
        :title="`The frame on view alone, as a ${still.toUpperCase()} picture; the working range stays as it is`"
        data-test="deliver-still"
        @click="goStill"
        >This frame</BButton
      ><span
        class="dim mono text-nowrap"
        title="A rough size and time: noise makes it larger, and the time goes by what was delivered here before"
        data-test="estimate"
        >about {{ about }}, {{ time }}</span
      >
    </div>
    <BButton
      v-if="last.as === 'exr'"
      class="mt-1"
      variant="outline-secondary"
      title="Clean plate, element, kept light, spill change and holdouts, a delivery each: clean plate times what the element's alpha leaves, and element, and kept light, are the finished picture"
      data-test="deliver-passes"
      @click="goPasses"
      >Deliver the passes</BButton
    >
    <details class="mt-1" data-test="range-and-names">
      <summary class="dim" title="Frames beyond the working range, what the file is called, and its first number">
        Handles, name, numbers
      </summary>
      <div class="pairs mt-1">
        <span>handles</span
        ><NumberField
          v-model="last.handles"
          :min="0"
          :max="1000"
          whole
          :disabled="loop !== null"
          aria-label="Handles, frames"
          title="Frames before and after the working range, as far as the plate has them"
          data-test="handles"
        /><span>name</span
        ><input
          v-model="name"
          class="form-control"
          maxlength="80"
          :placeholder="store.shot?.name ?? ''"
          aria-label="Name of the file"
          title="What the file is called; show, revision and ending are put behind it"
          data-test="picture-name"
        /><span>first number</span
        ><NumberField
          v-model="firstNumber"
          :min="0"
          :max="10000000"
          whole
          optional
          :placeholder="String(store.shot?.probe.firstFrame ?? 0)"
          aria-label="Number of the plate's first frame"
          title="What frame 0 of the plate is called in the numbers of a sequence"
          data-test="first-number"
        />
      </div>
    </details>
    <details class="mt-1" data-test="loop">
      <summary class="dim" title="The range in which plate and Screen differ least where the end meets the beginning">
        As a loop
      </summary>
      <div class="d-flex align-items-center gap-1 mt-1">
        <span class="dim">fading for</span
        ><NumberField
          v-model="last.dissolve"
          class="frames"
          :min="0"
          :max="240"
          whole
          aria-label="Frames of the dissolve"
          title="Frames at the end that fade into what comes before the beginning; 0 cuts"
          data-test="loop-dissolve"
        /><span class="dim">frames</span>
        <BButton
          class="ms-auto"
          variant="outline-secondary"
          :disabled="searching || !Number.isInteger(last.dissolve)"
          title="Compare every pair of frames of the working range"
          data-test="loop-find"
          @click="search"
          >Find a range</BButton
        >
      </div>
      <p v-if="loop" class="mb-0 mt-1" data-test="loop-found">
        Frames {{ loop.from }} to {{ loop.to }}: along the seam the plate differs by
        <span class="mono">{{ loop.levels.toFixed(1) }}</span> of 255 levels<template v-if="loop.px > 0">
          and the Screen by <span class="mono">{{ loop.px.toFixed(1) }}</span> px</template
        >.
        <button type="button" class="plain" title="Deliver the working range again" @click="loop = null">
          No loop
        </button>
      </p>
      <p v-if="loop && (loop.levels > SEEN_LEVELS || loop.px > SEEN_PX)" class="weak mb-0 mt-1" role="alert">
        Nowhere does this shot come back to where it was: the seam will be seen.
      </p>
      <p v-if="problem" class="weak mb-0 mt-1" role="alert">{{ problem }}</p>
    </details>
    <details v-if="fills.length > 0 && store.screens.length === 1" class="mt-1">
      <summary class="dim" title="One delivery for each fill that is ticked; the slot itself stays as it is">
        A delivery for each of several fills
      </summary>
      <BFormCheckboxGroup v-model="batch" class="d-flex flex-column"
        ><BFormCheckbox
          v-for="m in fills"
          :key="m.hash"
          :value="m.hash"
          :title="`Deliver the shot with ${m.name} in its slot`"
          :data-test="`batch-${m.name}`"
          >{{ m.name }}</BFormCheckbox
        ></BFormCheckboxGroup
      >
      <BButton
        variant="outline-secondary"
        :disabled="batch.length === 0"
        title="Each is a job of its own; one that fails holds none of the others up"
        data-test="deliver-batch"
        @click="goBatch"
        >Deliver {{ batch.length }}</BButton
      >
    </details>
  </BenchSection>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: 6rem 1fr;
  gap: 3px 6px;
  align-items: center;
  font-size: 0.8125rem;
}
.pairs .form-control {
  padding: 0 0.3rem;
  height: 1.5rem;
}
.frames {
  width: 4rem;
  padding: 0 0.3rem;
  height: 1.5rem;
}
.plain {
  background: none;
  border: 0;
  padding: 0;
  color: var(--text-dim);
  text-decoration: underline;
}
.weak {
  color: var(--weak);
}
</style>
