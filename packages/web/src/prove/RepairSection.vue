<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref, watch } from 'vue';
import { useStorage } from '@vueuse/core';
import { FRAMES_A_REPAIR, planRepairs } from '@yarlop/core/proof/repair-plan';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useRepairs } from '../stores/repairs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { withMore } from '../edits/touch-up-edit';
import { useProof } from './use-proof';
import NumberField from '../shared/NumberField.vue';

const store = useShot();
const proofs = useProofs();
const tracks = useTracks();
const playhead = usePlayhead();
const view = useView();
const repairs = useRepairs();
const { screen, ranking } = useProof();
const limit = useStorage('yarlop.limit', 1);
const used = ref<boolean[]>([]);
const plan = computed(() => (repairs.plan?.screen === store.chosenId ? repairs.plan : null));
watch(
  () => [store.chosenId, screen.value?.recipe],
  () => (repairs.plan = null),
);
const worst = (v: readonly (number | null)[]): number => Math.max(0, ...v.map((x) => x ?? 0));
function make(): void {
  const s = screen.value;
  if (!s || !(limit.value > 0)) return;
  const frames = proofs.measured(s);
  repairs.plan = {
    screen: s.id,
    limit: limit.value,
    frames: frames.map((f) => f.frame),
    ...planRepairs(frames, s.recipe.pin, s.recipe, {
      limit: limit.value,
      width: store.shot!.probe.width,
      right: proofs.rightFrames(s.recipe),
    }),
  };
  used.value = repairs.plan.touchUps.map(() => true);
  if (repairs.plan.touchUps.length > 0) view.look = 'curves';
}
function apply(): void {
  const p = plan.value;
  const r = screen.value?.recipe;
  if (!p || !r) return;
  const list = p.touchUps.filter((_, i) => used.value[i]);
  if (list.length > 0) store.edit(`Plan of ${list.length} repairs`, withMore(r, list));
  repairs.plan = null;
}
/** What would help more than many repairs, from what the bad stretch rests on. */
const advice = computed(() => {
  const p = plan.value;
  const s = screen.value;
  if (!p?.worstRange || !s) return '';
  const [a, b] = p.worstRange;
  const frames = [...(tracks.tracks.get(s.id)?.frames.values() ?? [])].filter((f) => f.frame >= a && f.frame <= b);
  const share = (kind: string): number =>
    frames.reduce((t, f) => t + (f.evidence[kind] ?? 0), 0) / Math.max(1, frames.length);
  let how = 'place the pin by hand in its middle and follow on from there';
  if (share('edges') > 0.7)
    how =
      'it rests on edges alone there: draw a follow patch over something with texture in the same plane, or ignore what passes along an edge';
  else if (share('texture') > 0.7)
    how =
      'it rests on the picture alone there: draw an ignore patch over what moves or mirrors, or remember a picture of that stretch';
  return `More than one frame in ${FRAMES_A_REPAIR} wants repair, which means a bad track. Rather follow frames ${a} to ${b} again; ${how}.`;
});
</script>

<template>
  <BenchSection v-if="ranking" title="Repair with the fewest touch-ups">
    <div class="d-flex gap-1 align-items-center">
      <label class="dim d-flex gap-1 align-items-center flex-fill"
        >bring all under
        <NumberField
          v-model="limit"
          class="limit"
          :min="0.1"
          :max="20"
          :step="0.1"
          aria-label="Limit, px at 1920 wide"
          title="What may be left of any slip, px of a picture 1920 wide"
          data-test="repair-limit"
        />
        px</label
      >
      <BButton
        :variant="plan ? 'outline-secondary' : 'primary'"
        title="Propose the frames to be repaired and what is left then; nothing is changed yet"
        data-test="plan-repairs"
        @click="make"
        >Plan</BButton
      >
    </div>
    <div v-if="plan" class="mt-1" data-test="plan">
      <p class="mb-1">
        {{
          plan.touchUps.length === 0
            ? 'Nothing to repair: all is under the limit.'
            : `${plan.touchUps.length} ${plan.touchUps.length === 1 ? 'repair brings' : 'repairs bring'} the worst from ${worst(plan.before).toFixed(2)} to ${worst(plan.after).toFixed(2)} px.`
        }}
      </p>
      <p v-if="advice" class="weak mb-1" data-test="plan-advice">{{ advice }}</p>
      <div class="chips">
        <span v-for="(t, i) in plan.touchUps" :key="i" class="chip mono" :class="{ off: !used[i] }"
          ><button type="button" title="Go to the frame that would be touched up" @click="playhead.go(t.frame)">
            {{ t.frame }}{{ t.before.frames === 1 && t.after.frames === 1 ? ' pop' : '' }}</button
          ><button
            type="button"
            :aria-pressed="used[i]"
            :aria-label="`${used[i] ? 'Leave out' : 'Take in'} frame ${t.frame}`"
            :title="used[i] ? 'Leave this repair out' : 'Take this repair in'"
            @click="used[i] = !used[i]"
          >
            {{ used[i] ? '×' : '+' }}
          </button></span
        >
      </div>
      <div v-if="plan.touchUps.length" class="d-flex gap-1 mt-1">
        <BButton
          variant="primary"
          class="flex-fill"
          title="Make the touch-ups; one undo takes them all back"
          data-test="apply-plan"
          @click="apply"
          >Apply {{ used.every(Boolean) ? 'all' : used.filter(Boolean).length }}</BButton
        >
        <BButton variant="outline-secondary" title="Forget the plan; nothing was changed" @click="repairs.plan = null"
          >Discard</BButton
        >
      </div>
    </div>
  </BenchSection>
</template>

<style scoped>
.limit {
  width: 4rem;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
.chip {
  border: 1px solid var(--line);
  border-radius: 3px;
}
.chip.off {
  opacity: 0.55;
  text-decoration: line-through;
}
.chip button {
  background: none;
  border: 0;
  color: inherit;
  padding: 0 0.3rem;
}
.weak {
  color: var(--weak);
}
</style>
