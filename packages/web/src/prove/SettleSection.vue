<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { settle } from '@yarlop/core/proof/settle';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useRepairs } from '../stores/repairs';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import { useProof } from './use-proof';

const store = useShot();
const proofs = useProofs();
const playhead = usePlayhead();
const view = useView();
const repairs = useRepairs();
const { screen, ranking } = useProof();
const problem = ref('');
const list = computed(() => screen.value?.recipe.settles ?? []);
const proposed = computed(() => (repairs.settled?.screen === store.chosenId ? repairs.settled : null));
watch(
  () => [store.chosenId, screen.value?.recipe],
  () => (repairs.settled = null),
);
/** Frames that must have been told for a settle to mean anything. */
const LEAST = 8;
const px = (v: number): string => (Number.isFinite(v) ? v.toFixed(2) : '-');
function propose(): void {
  const s = screen.value;
  if (!s) return;
  const made = settle(
    proofs.measured(s),
    s.recipe.pin,
    s.recipe,
    [playhead.from, playhead.to],
    store.shot!.probe.width,
  );
  problem.value =
    made.told < LEAST
      ? `Slip could be told on only ${made.told} frames of the range; jitter cannot be measured there.`
      : '';
  if (problem.value) return;
  repairs.settled = { screen: s.id, ...made };
  view.look = 'curves';
}
function apply(): void {
  const s = screen.value;
  const p = proposed.value;
  if (!s || !p) return;
  store.edit('Settle', {
    ...s.recipe,
    settles: [...list.value, p.settle] as unknown as NonNullable<Recipe['settles']>,
  });
}
function change(name: string, settles: readonly unknown[]): void {
  store.edit(name, { ...screen.value!.recipe, settles: settles as NonNullable<Recipe['settles']> });
}
</script>

<template>
  <details v-if="ranking" class="settle" :open="list.length > 0">
    <summary title="Take measured jitter out where the plate moves more smoothly than the track">Settle jitter</summary>
    <p class="dim mt-1 mb-1">
      Takes out what jumps from frame to frame against the plate, over the working range ({{ playhead.from }} to
      {{ playhead.to }}).
    </p>
    <BButton
      v-if="!proposed"
      variant="outline-secondary"
      class="w-100"
      title="Shows jitter before and after as curves; nothing is changed yet"
      data-test="settle"
      @click="propose"
      >Show what settling does</BButton
    >
    <div v-else data-test="settle-proposed">
      <p class="mb-1">
        Jitter goes from <span class="mono">{{ px(proposed.before) }}</span> to
        <span class="mono">{{ px(proposed.after) }}</span> px; told on {{ proposed.told }} frames.
      </p>
      <div class="d-flex gap-1">
        <BButton
          variant="primary"
          class="flex-fill"
          title="Lay it over the track; results stay as they are"
          data-test="settle-apply"
          @click="apply"
          >Settle</BButton
        ><BButton variant="outline-secondary" title="Forget it; nothing was changed" @click="repairs.settled = null"
          >Discard</BButton
        >
      </div>
    </div>
    <p v-if="problem" class="weak mt-1 mb-0" role="status">{{ problem }}</p>
    <p v-for="(s, i) in list" :key="i" class="d-flex gap-2 mt-1 mb-0">
      <span class="mono" :class="{ off: s.muted }">{{ s.from }} to {{ s.from + s.offsets.length - 1 }}</span>
      <BButton
        variant="link"
        class="p-0 ms-auto"
        :title="s.muted ? 'Let it work again' : 'Keep it, without effect'"
        @click="
          change(
            s.muted ? 'Unmute settle' : 'Mute settle',
            list.map((x, k) => (k === i ? { ...x, muted: !x.muted } : x)),
          )
        "
        >{{ s.muted ? 'Let it work' : 'Mute' }}</BButton
      >
      <BButton
        variant="link"
        class="p-0"
        title="Delete this settle"
        @click="
          change(
            'Delete settle',
            list.filter((_, k) => k !== i),
          )
        "
        >Delete</BButton
      >
    </p>
  </details>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
.settle {
  padding-bottom: 0.8rem;
  margin-bottom: 0.8rem;
  border-bottom: 1px solid var(--line);
}
.off {
  text-decoration: line-through;
}
.weak {
  color: var(--weak);
}
</style>
