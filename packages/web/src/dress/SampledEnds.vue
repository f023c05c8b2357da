<script setup lang="ts">
/** Black and white of the fill as they are sampled from the plate: steady, or keyed where the plate's own change. */
import type { AnimatedRgb } from '@yarlop/core/dress/colour/levels';
import type { Animated } from '@yarlop/core/dress/base/keys';
import { valueAt, withKey, withoutKey } from '@yarlop/core/dress/base/keys';
import { CURVES, linearToSrgb } from '@yarlop/core/dress/colour/transfer';
import { seenTransfer } from '../pictures/layers';
import { putValue, useDress } from '../edits/use-dress';
import { cssColour } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import IconButton from '../shared/IconButton.vue';

type End = 'black' | 'white';
const ENDS = { black: 0, white: 1 } as const;
const { dress, set } = useDress();
const store = useShot();
const view = useView();
const playhead = usePlayhead();

function now(end: End): AnimatedRgb {
  return dress.value.levels?.[end] ?? [ENDS[end], ENDS[end], ENDS[end]];
}
const here = (end: End): number[] => now(end).map((v) => valueAt(v, playhead.frame, ENDS[end]));
const hasKey = (v: Animated): boolean => Array.isArray(v) && v.some((k) => k.frame === playhead.frame);
const isKeyed = (end: End): boolean => now(end).every(hasKey);

/** A place of the plate that is black, or white: the fill's own becomes its light; on this frame where it is keyed. */
function sample(end: End): void {
  view.sample(`Click a place of the plate that is ${end}.`, (rgb) => {
    const light = rgb.map((v) => Number(CURVES[seenTransfer(store.shot!.probe)].decode(v / 255).toFixed(4)));
    set(`Sample ${end}`, 'levels', { [end]: now(end).map((v, i) => putValue(v, playhead.frame, light[i]!)) });
  });
}
function key(end: End): void {
  const { frame } = playhead;
  const keyed = isKeyed(end);
  const next = now(end).map((v) =>
    keyed ? withoutKey(v, frame) : withKey(v, { frame, value: valueAt(v, frame, ENDS[end]) }),
  );
  set(keyed ? `Delete key of ${end}` : `Key ${end}`, 'levels', { [end]: next });
}
</script>

<template>
  <div class="d-flex gap-2 align-items-center mb-1">
    <span class="dim text-nowrap">black and white</span>
    <template v-for="end in ['black', 'white'] as const" :key="end">
      <button
        type="button"
        class="swatch"
        :style="{ background: cssColour(here(end).map(linearToSrgb)) }"
        :title="`Click a place of the plate that is ${end}: the fill's ${end} becomes that`"
        :aria-label="`Sample ${end} from the plate`"
        :data-test="`sample-${end}`"
        @click="sample(end)"
      />
      <IconButton
        :icon="isKeyed(end) ? 'droplet-fill' : 'droplet'"
        :class="{ on: isKeyed(end) }"
        :aria-pressed="isKeyed(end)"
        :label="`Key of ${end} on this frame`"
        :title="
          isKeyed(end)
            ? 'Take the key on this frame away'
            : `Set a key of ${end} on this frame: sampled here, it changes over the shot`
        "
        :data-test="`sample-${end}-key`"
        @click="key(end)"
      />
    </template>
    <BButton
      v-if="dress.levels?.black || dress.levels?.white"
      variant="link"
      class="p-0 ms-auto"
      title="The fill keeps its own black and white"
      @click="set('Own black and white', 'levels', { black: undefined, white: undefined })"
      >its own</BButton
    >
  </div>
</template>

<style scoped>
.swatch {
  width: 1.4rem;
  height: 1.1rem;
  border: 1px solid var(--line);
  border-radius: 2px;
  padding: 0;
}
.icon.on {
  color: var(--brass);
}
</style>
