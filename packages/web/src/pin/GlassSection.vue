<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref, watch } from 'vue';
import type { Quad } from '@yarlop/core/geometry/quad';
import { grownPin, scaledPin } from '@yarlop/core/pin/inset';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { usePinEdit } from '../edits/use-pin-edit';
import type { Snapped } from '../types';
import { useSnapGlass } from '../edits/use-snap-glass';
import NumberField from '../shared/NumberField.vue';

const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const edit = usePinEdit();
const SIDES = ['Top', 'Right', 'Bottom', 'Left'] as const;
const used = ref([true, true, true, true]);
const glass = useSnapGlass();
const { busy, problem } = glass;
const found = ref<Snapped['sides'] | null>(null);
const by = ref(1);
const unit = ref<'px' | '%'>('px');
const corners = computed((): Quad | null => (store.chosen ? tracks.corners(store.chosen, playhead.frame) : null));
watch(
  () => [store.chosenId, playhead.frame],
  () => {
    found.value = null;
    problem.value = '';
  },
);

async function snap(): Promise<void> {
  const from = corners.value;
  if (!from) return;
  const [top, right, bottom, left] = used.value;
  const got = await glass.snap(from, [!top, !right, !bottom, !left]);
  if (got) found.value = got.sides;
}
function grow(sign: 1 | -1): void {
  const from = corners.value;
  if (!from) return;
  try {
    edit.place(
      sign > 0 ? 'Enlarge the pin' : 'Shrink the pin',
      unit.value === 'px' ? grownPin(from, sign * by.value) : scaledPin(from, 1 + (sign * by.value) / 100),
      playhead.frame,
    );
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
const tell = (i: number): string => {
  const s = found.value?.[i];
  if (!s) return '';
  return s.found
    ? `moved ${s.moved >= 0 ? '+' : ''}${s.moved.toFixed(2)}, scatter ${s.residual!.toFixed(2)} px`
    : (s.reason ?? '');
};
provideCommand('snap-glass', snap, () => !busy.value && !!corners.value);
</script>

<template>
  <BenchSection title="Glass edges">
    <template #note>on this frame</template>
    <BButton
      variant="primary"
      class="w-100"
      :disabled="!isReady('snap-glass')"
      data-test="snap-glass"
      :title="sentenceOf('snap-glass')"
      @click="perform('snap-glass')"
      >{{ busy ? 'Looking ...' : 'Lay the pin onto the glass' }} <kbd>G</kbd></BButton
    >
    <ul class="sides">
      <li v-for="(n, i) in SIDES" :key="n">
        <BFormCheckbox
          v-model="used[i]"
          :title="`Take the ${n.toLowerCase()} side's edge into account`"
          :data-test="`side-${i}`"
          >{{ n }}</BFormCheckbox
        >
        <span
          class="mono dim"
          :class="{ weak: found?.[i] && !found[i].found && used[i] }"
          :data-test="`side-found-${i}`"
          >{{ tell(i) }}</span
        >
      </li>
    </ul>
    <div class="d-flex gap-1 align-items-center">
      <BButton
        variant="outline-secondary"
        :disabled="!corners"
        data-test="shrink"
        title="Move every side inwards"
        @click="grow(-1)"
        >Smaller</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!corners"
        data-test="enlarge"
        title="Move every side outwards: a pixel or two hides the old screen's lit edge"
        @click="grow(1)"
        >Larger</BButton
      >
      <span class="dim">by</span>
      <NumberField
        v-model="by"
        class="by"
        :min="0.1"
        :max="50"
        :step="0.5"
        aria-label="By how much"
        title="By how much the pin grows or shrinks"
      />
      <BFormSelect
        v-model="unit"
        class="unit"
        aria-label="Unit"
        title="Pixels on each side, or per cent of the size"
        :options="[
          { value: 'px', text: 'px' },
          { value: '%', text: '%' },
        ]"
      />
    </div>
    <p v-if="problem" class="weak mt-2 mb-0" role="alert" data-test="snap-problem">{{ problem }}</p>
  </BenchSection>
</template>

<style scoped>
.sides {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0;
}
.sides li {
  display: flex;
  justify-content: space-between;
  gap: 0.5rem;
  align-items: baseline;
  font-size: 0.8125rem;
}
.sides span {
  font-size: 0.72rem;
  text-align: right;
}
.by {
  width: 3.9rem;
  min-width: 0;
  flex: 0 1 auto;
  padding-inline: 0.5rem;
}
.unit {
  width: 3.7rem;
  padding-inline: 0.5rem 1.6rem;
  flex: none;
}
.weak {
  color: var(--weak);
}
</style>
