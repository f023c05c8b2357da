<script setup lang="ts">
/** Bend for curved glass: the sides as curves, whose handles are dragged in the picture. */
import { BEND_SIDES, withHandle } from '@yarlop/core/dress/shape/bend';
import type { Bend } from '@yarlop/core/dress/shape/bend';
import { computed } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { setWords } from './part-words';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import { useDress } from '../edits/use-dress';

const { dress, put } = useDress();
const view = useView();
const playhead = usePlayhead();
const bend = computed<Bend>(() => dress.value.bend ?? {});
const count = computed(() => BEND_SIDES.reduce((n, s) => n + (bend.value[s]?.length ?? 0), 0));
/** Handles a side. */
const MOST = 5;
/** One more handle in the widest gap of every side that is looked at, on its curve: the shape stays. */
function more(): void {
  const sides = Object.fromEntries(
    BEND_SIDES.map((side) => {
      const now = bend.value[side] ?? [];
      if (now.length >= MOST) return [side, now];
      const at = [0, ...now.map((h) => h.at).sort((a, b) => a - b), 1];
      const gaps = at.slice(1).map((v, i) => v - at[i]!);
      const widest = gaps.indexOf(Math.max(...gaps));
      return [side, withHandle(now, Number((at[widest]! + gaps[widest]! / 2).toFixed(4)), playhead.frame)];
    }),
  );
  put('Add bend handles', 'bend', sides);
}
</script>

<template>
  <BenchSection title="Bend" :said="setWords(dress, 'bend')">
    <template #note>for curved glass</template>
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        variant="outline-secondary"
        title="A handle more on every side, on its curve: the shape stays. Drag handles in the picture; with Shift only across the side; Alt-click takes one away"
        data-test="bend-more"
        @click="more"
        >{{ count ? 'More handles' : 'Bend the sides' }}</BButton
      >
      <BButton
        v-if="count"
        variant="outline-secondary"
        title="Straight sides again"
        data-test="bend-none"
        @click="put('Straighten sides', 'bend', undefined)"
        >Straighten</BButton
      >
    </div>
    <template v-if="count">
      <BFormCheckbox
        v-model="view.bendLinked"
        title="The handle in the same place of the opposite side moves along"
        data-test="bend-linked"
        >opposite sides move together</BFormCheckbox
      >
      <div class="d-flex gap-2 align-items-center">
        <span class="dim">handles move</span
        ><BFormSelect
          v-model="view.bendAxis"
          :options="[
            { value: 'free', text: 'freely' },
            { value: 'across', text: 'across their side only' },
            { value: 'along', text: 'along their side only' },
          ]"
          aria-label="How handles move"
          title="Holds the movement to one axis of the Screen"
        />
      </div>
      <BFormCheckbox
        v-model="view.bendKeyed"
        title="What is dragged sets a key on this frame, so that the bend changes over the shot"
        data-test="bend-keyed"
        >drag sets keys</BFormCheckbox
      >
    </template>
  </BenchSection>
</template>
