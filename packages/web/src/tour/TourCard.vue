<script setup lang="ts">
import { useStorage } from '@vueuse/core';
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { api } from '../api';
import type { Stage } from '../stages';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { STEPS, stepAt } from './steps';

const props = defineProps<{ stage: Stage }>();
const store = useShot();
const tracks = useTracks();
const proofs = useProofs();
const playhead = usePlayhead();
const live = useLive();
const view = useView();
const router = useRouter();
/** 'offered' until the person says yes or no. */
const state = useStorage<'offered' | 'on' | 'over'>('yarlop.tour', 'offered');
const played = useStorage('yarlop.tour-played', false);
const boardUsed = useStorage('yarlop.tour-board', false);
const delivered = ref(false);
watch(
  () => playhead.playing,
  (on) => on && (played.value = true),
);
watch(
  () => [props.stage, view.armed, store.undoStack.length] as const,
  ([stage, armed]) => stage === 'pin' && armed !== null && (boardUsed.value = true),
);
watch(
  () => store.undoStack.at(-1)?.name,
  (name) => name === 'Lay the pin onto the glass' && (boardUsed.value = true),
);
async function look(): Promise<void> {
  if (store.shot)
    delivered.value = (await api('GET /shots/:id/deliveries', { id: store.shot.id })).some((d) => d.sha256);
}
const off = live.on('deliveries', (e) => e.shotId === store.shot?.id && void look().catch(() => {}));
onMounted(() => void look().catch(() => {}));
watch(
  () => store.shot?.id,
  () => void look().catch(() => {}),
);
onUnmounted(off);
const at = computed(() => {
  const s = store.chosen;
  return stepAt({
    stage: props.stage,
    played: played.value,
    screens: store.screens.length,
    followed: (s && (tracks.tracks.get(s.id)?.frames.size ?? 0) > 1) || false,
    boardUsed: boardUsed.value,
    proved: Boolean(s && proofs.proofs.get(s.id)),
    filled: store.screens.some((x) => x.recipe.fill),
    delivered: delivered.value,
  });
});
const step = computed(() => STEPS[at.value]);
const go = (): void => void (step.value && router.push(`/shots/${store.shot!.id}/${step.value.stage}`));
</script>

<template>
  <aside v-if="state !== 'over' && store.shot" class="tour" aria-label="Tour" data-test="tour">
    <template v-if="state === 'offered'">
      <span>New here? Six steps lead from this plate to a delivery.</span>
      <BButton
        variant="primary"
        data-test="tour-start"
        @click="
          state = 'on';
          go();
        "
        >Take the tour</BButton
      >
      <BButton variant="outline-secondary" data-test="tour-no" @click="state = 'over'">No</BButton>
    </template>
    <template v-else-if="step">
      <strong class="text-nowrap"
        ><span class="mono dim">{{ at + 1 }}/{{ STEPS.length }}</span> {{ step.title }}</strong
      >
      <span class="text">{{ step.text }}</span>
      <BButton v-if="step.stage !== stage" variant="primary" class="text-nowrap" data-test="tour-go" @click="go"
        >Go there</BButton
      >
      <BButton variant="outline-secondary" class="text-nowrap" @click="state = 'over'">Leave</BButton>
    </template>
    <template v-else>
      <strong>Delivered.</strong
      ><span class="text">That is the whole way, from the plate to the hand-over. Press ? for every key.</span>
      <BButton variant="primary" data-test="tour-end" @click="state = 'over'">Done</BButton>
    </template>
  </aside>
</template>

<style scoped>
.tour {
  display: flex;
  gap: 0.8rem;
  align-items: center;
  padding: 0.3rem 0.8rem;
  background: var(--ink-raised);
  border-bottom: 2px solid var(--brass);
  font-size: 0.8125rem;
}
.text {
  flex: 1;
}
</style>
