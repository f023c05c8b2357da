<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import type { Fade, TouchUp } from '@yarlop/core/solve/touch-up';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { changed, touchUpsOf, without } from '../edits/touch-up-edit';
import NumberField from '../shared/NumberField.vue';
import IconButton from '../shared/IconButton.vue';

const store = useShot();
const playhead = usePlayhead();
const view = useView();
const list = computed(() => (store.chosen ? touchUpsOf(store.chosen.recipe) : []));
const repaired = computed(() => list.value.length > 0 || (store.chosen?.recipe.settles ?? []).length > 0);
const SHOWN = computed(() => [
  { value: 'all', text: 'as repaired' },
  {
    value: 'but-last',
    text: 'before the last repair',
    disabled: !store.chosen || !store.beforeLastRepair(store.chosen.id),
  },
  { value: 'none', text: 'as followed' },
]);
const SHAPES = ['linear', 'eased', 'hold'];
const moves = (t: TouchUp): string =>
  t.offsets.flatMap((p, i) => (Math.hypot(...p) > 0.005 ? [CORNER_NAMES[i]!] : [])).join(' ') || 'nothing';
const size = (t: TouchUp): string => Math.max(...t.offsets.map((p) => Math.hypot(...p))).toFixed(2);
const recipe = computed(() => store.chosen!.recipe);
function fade(i: number, side: 'before' | 'after', part: Partial<Fade>): void {
  store.edit('Set fade', changed(recipe.value, i, { [side]: { ...list.value[i]![side], ...part } }));
}
</script>

<template>
  <BenchSection v-if="store.chosen" title="Touch-ups">
    <p v-if="list.length === 0" class="dim mb-0">
      None. A corner that is dragged or nudged in this stage is corrected on this frame and fades to its neighbours.
    </p>
    <label
      v-if="repaired"
      class="dim d-flex gap-1 align-items-center mb-1"
      title="Before and after: the picture and the close-ups with all corrections, without the last repair of this visit, or as followed (E goes through them)"
      >show
      <BFormSelect
        v-model="view.repairs"
        :options="SHOWN"
        aria-label="Which corrections show"
        data-test="repairs-shown"
      />
      <kbd>E</kbd></label
    >
    <ul v-if="list.length" class="list" data-test="touch-ups">
      <li v-for="(t, i) in list" :key="i" :class="{ here: t.frame === playhead.frame, muted: t.muted }">
        <div class="d-flex gap-2 align-items-center">
          <button
            type="button"
            class="frame mono"
            title="Go to this touch-up's frame"
            :data-test="`touch-up-${t.frame}`"
            @click="playhead.go(t.frame)"
          >
            {{ t.frame }}</button><span class="mono dim">{{ moves(t) }}</span
          ><span class="mono ms-auto">{{ size(t) }} px</span>
          <IconButton
            :icon="t.muted ? 'eye-slash' : 'eye'"
            :aria-pressed="Boolean(t.muted)"
            :title="t.muted ? 'Let it work again' : 'Mute: keep it, without effect'"
            :label="`Mute the touch-up on frame ${t.frame}`"
            :data-test="`mute-${t.frame}`"
            @click="store.edit(t.muted ? 'Unmute touch-up' : 'Mute touch-up', changed(recipe, i, { muted: !t.muted }))"
          />
          <IconButton
            icon="x-lg"
            :label="`Delete the touch-up on frame ${t.frame}`"
            title="Delete"
            @click="store.edit('Delete touch-up', without(recipe, i))"
          />
        </div>
        <div v-if="t.frame === playhead.frame" class="fades">
          <template v-for="side in ['before', 'after'] as const" :key="side">
            <label class="dim"
              >{{ side }}
              <NumberField
                class="frames"
                :min="0"
                whole
                :model-value="t[side].frames"
                :aria-label="`Frames ${side}`"
                title="Frames over which the correction fades"
                :data-test="`fade-${side}`"
                @update:model-value="fade(i, side, { frames: $event })"
            /></label>
            <BFormSelect
              :model-value="t[side].shape"
              class="shape"
              :aria-label="`Shape ${side}`"
              title="How it fades: evenly, eased at both ends, or held and then gone"
              :options="SHAPES"
              @update:model-value="fade(i, side, { shape: $event as Fade['shape'] })"
            />
          </template>
        </div>
      </li>
    </ul>
  </BenchSection>
</template>

<style scoped>
.list {
  list-style: none;
  padding: 0;
  margin: 0;
  font-size: 0.8125rem;
  max-height: 11rem;
  overflow: auto;
}
.list li {
  padding: 1px 2px;
}
.here {
  outline: 1px solid var(--brass);
}
.muted .mono {
  text-decoration: line-through;
  opacity: 0.7;
}
.frame {
  background: none;
  border: 0;
  padding: 0;
  color: var(--bs-link-color);
}
.frame {
  text-decoration: underline;
  min-width: 2rem;
  text-align: left;
}
.fades {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 6px;
  margin: 3px 0;
  align-items: center;
}
.frames {
  width: 4rem;
  display: inline-block;
}
.shape {
  width: 100%;
}
</style>
