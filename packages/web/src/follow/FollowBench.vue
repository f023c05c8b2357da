<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { api, sentence } from '../api';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Job, Recipe } from '../types';

const store = useShot(), tracks = useTracks(), playhead = usePlayhead(), live = useLive(), view = useView();
const problem = ref(''), keepLooking = ref(false), watching = ref(true);
const recipe = computed(() => store.chosen?.recipe);
const track = computed(() => (store.chosenId === null ? undefined : tracks.tracks.get(store.chosenId)));
const job = computed(() => live.running.find((j) => j.kind === 'follow' && j.screenId === store.chosenId));
const last = computed(() => [...live.jobs.values()].filter((j) => j.kind === 'follow' && j.screenId === store.chosenId).at(-1));
const patches = computed(() => recipe.value?.patches ?? []);

const MOTIONS = [
  { value: 'perspective', text: 'Perspective: turns and tilts freely' }, { value: 'affine', text: 'Affine: far away, no perspective change' },
  { value: 'similarity', text: 'Similarity: moves, turns and scales' }, { value: 'translation', text: 'Translation: slides only' }, { value: 'still', text: 'Still: locked off' },
];
const EVIDENCE = [
  { value: 'auto', text: 'What the frame offers: picture and glass edges' }, { value: 'texture', text: 'The picture alone' }, { value: 'edges', text: 'The glass edges alone' },
];
const evidence = computed(() => (Array.isArray(recipe.value?.evidence) && recipe.value.evidence.length === 1 ? recipe.value.evidence[0]! : 'auto'));
const resting = computed(() => {
  const f = track.value?.frames.get(playhead.frame);
  if (!f) return null;
  const shares = Object.entries(f.evidence);
  if (shares.length === 0) return 'nothing; it is bridged from its neighbours';
  return shares.sort((a, b) => b[1] - a[1]).map(([kind, v]) => `${Math.round(100 * v)} % ${kind === 'texture' ? 'picture' : kind}`).join(', ');
});
const DENSITIES = [{ value: 'few', text: 'Few cells' }, { value: 'usual', text: 'Usual' }, { value: 'many', text: 'Many cells' }];

async function follow(way: 'forwards' | 'backwards' | 'both' | 'one'): Promise<void> {
  const s = store.chosen!;
  problem.value = '';
  await store.save();
  const r = s.recipe.referenceFrame, lo = Math.min(playhead.from, r), hi = Math.max(playhead.to, r), ends = solvedEnds(r);
  const range = { forwards: [r, hi], backwards: [lo, r], both: [lo, hi], one: [r, Math.min(ends.hi + 1, hi)] }[way];
  try {
    const started = await api<Job>('POST', `/screens/${s.id}/follow`, { from: range[0], to: range[1], keepLooking: keepLooking.value });
    live.jobs.set(started.id, started);
  } catch (e) {
    problem.value = sentence(e);
  }
}
function solvedEnds(r: number): { hi: number } {
  const frames = track.value?.outdated ? [] : [...(track.value?.frames.keys() ?? [])];
  return { hi: Math.max(r, ...frames) };
}
function change(name: string, part: Partial<Recipe>): void {
  if (recipe.value) store.edit(name, { ...recipe.value, ...part });
}
function removePatch(i: number): void {
  change('Delete patch', { patches: patches.value.filter((_, k) => k !== i) });
}
watch(() => job.value?.id, (now, before) => {
  if (before && !now && store.chosenId !== null) void tracks.load(store.chosenId);
});
watch(() => track.value?.frames, (now, before) => {
  if (!job.value || !watching.value || !now || !before) return;
  const fresh = [...now.keys()].filter((f) => !before.has(f));
  if (fresh.length > 0) playhead.go(fresh.at(-1)!);
});
const share = computed(() => {
  const f = [...(track.value?.frames.values() ?? [])];
  if (f.length === 0) return null;
  const mean = Math.sqrt(f.reduce((s, v) => s + v.sigma.reduce((a, b) => a + b * b, 0) / 4, 0) / f.length);
  return { frames: f.length, sigma: mean, least: Math.min(...f.map((v) => v.trust)) };
});
</script>

<template>
  <div v-if="recipe">
    <section>
      <div class="ways">
        <BButton variant="outline-secondary" :disabled="!!job" title="From the reference frame to the working range's begin (Shift+F)" data-test="follow-backwards" @click="follow('backwards')"><i class="bi bi-arrow-left" /> Backwards</BButton>
        <BButton variant="primary" :disabled="!!job" title="Backwards and forwards (F)" data-test="follow-both" @click="follow('both')">Follow both ways</BButton>
        <BButton variant="outline-secondary" :disabled="!!job" title="From the reference frame to the working range's end" data-test="follow-forwards" @click="follow('forwards')">Forwards <i class="bi bi-arrow-right" /></BButton>
        <BButton variant="outline-secondary" :disabled="!!job" title="One frame beyond the last followed one" data-test="follow-one" @click="follow('one')">One frame</BButton>
        <BButton variant="outline-secondary" :disabled="!job" title="Stop before the next frame (Escape)" data-test="follow-stop" @click="job && live.cancel(job.id)"><i class="bi bi-stop-fill" /> Stop</BButton>
      </div>
      <BProgress v-if="job" class="mt-2" :value="job.framesDone" :max="Math.max(1, job.framesTotal)" />
      <p v-if="problem" class="weak mt-2 mb-0" role="alert" data-test="follow-problem">{{ problem }}</p>
      <p v-else-if="last?.message && !job" class="mt-2 mb-0" :class="{ weak: last.state !== 'done' || track?.halted.length }" data-test="follow-message">{{ last.message }}</p>
      <div v-if="track && track.halted.length && !job" class="mt-1 dim">
        Draw an ignore patch over what covers the screen, put the reference frame nearer, or go on past it.
        <BButton v-for="h in track.halted" :key="h.frame" variant="outline-secondary" class="mt-1" @click="playhead.go(h.frame)">Go to frame {{ h.frame }}</BButton>
      </div>
      <p v-if="track?.outdated" class="weak mt-2 mb-0">The outline or the settings changed since this was followed. Follow again.</p>
      <p v-if="share" class="dim mt-2 mb-0">{{ share.frames }} frames, corners to about <span class="mono">{{ share.sigma.toFixed(2) }}</span> px, least trust <span class="mono">{{ share.least.toFixed(2) }}</span></p>
    </section>
    <section>
      <h2>Reference frame</h2>
      <div class="d-flex align-items-center gap-2">
        <span class="mono" data-test="reference">{{ recipe.referenceFrame }}</span>
        <BButton variant="outline-secondary" @click="playhead.go(recipe.referenceFrame)">Go there</BButton>
        <BButton variant="outline-secondary" :disabled="recipe.referenceFrame === playhead.frame" title="Set this frame as the reference; the pin keeps its place in the picture" data-test="set-reference" @click="change('Set reference frame', { referenceFrame: playhead.frame, pin: (tracks.corners(store.chosenId!, playhead.frame, recipe.pin, recipe.referenceFrame) ?? recipe.pin) as Recipe['pin'] })">Set this frame</BButton>
      </div>
    </section>
    <section>
      <h2>Outlines</h2>
      <p v-if="patches.length === 0" class="dim mb-2">None: the screen, its edges, and what around it proves to move with it are followed.</p>
      <ul class="patches">
        <li v-for="(p, i) in patches" :key="i">{{ p.kind === 'follow' ? 'Follow' : 'Ignore' }}, {{ p.points.length }} points <BButton variant="link" size="sm" :aria-label="`Delete patch ${i + 1}`" @click="removePatch(i)"><i class="bi bi-trash3" /></BButton></li>
      </ul>
      <div class="d-flex gap-1">
        <BButton variant="outline-secondary" :disabled="playhead.frame !== recipe.referenceFrame" title="Outline what moves with the screen (P)" data-test="draw-follow" @click="view.tool = { kind: 'draw-patch', patch: 'follow' }">Draw follow patch</BButton>
        <BButton variant="outline-secondary" :disabled="playhead.frame !== recipe.referenceFrame" title="Outline what is to be left out" data-test="draw-ignore" @click="view.tool = { kind: 'draw-patch', patch: 'ignore' }">Draw ignore patch</BButton>
      </div>
      <p v-if="playhead.frame !== recipe.referenceFrame" class="dim mt-1 mb-0">Outlines are drawn on the reference frame.</p>
    </section>
    <section>
      <h2><label for="motion">Motion</label></h2>
      <BFormSelect id="motion" :model-value="recipe.motion ?? 'perspective'" :options="MOTIONS" data-test="motion" @update:model-value="change('Set motion', { motion: $event as Recipe['motion'] })" />
    </section>
    <section>
      <h2><label for="evidence">Evidence</label></h2>
      <BFormSelect id="evidence" :model-value="evidence" :options="EVIDENCE" title="What the corners may rest on. Dark or blank glass is followed by its edges." data-test="evidence" @update:model-value="change('Set evidence', { evidence: $event === 'auto' ? 'auto' : [$event as 'texture' | 'edges'] })" />
      <p v-if="resting" class="dim mt-1 mb-0" data-test="resting">This frame rests on {{ resting }}.</p>
    </section>
    <details>
      <summary>More</summary>
      <label class="d-flex align-items-center gap-2 mt-2">Cells <BFormSelect :model-value="recipe.density ?? 'usual'" :options="DENSITIES" @update:model-value="change('Set cell density', { density: $event as Recipe['density'] })" /></label>
      <BFormCheckbox v-model="keepLooking" class="mt-2">Go on past frames that cannot be vouched for, bridge them, and look for the screen again</BFormCheckbox>
      <BFormCheckbox v-model="watching" class="mt-1">Show each frame as it is followed</BFormCheckbox>
    </details>
  </div>
  <p v-else class="dim">Go to a good frame and drop four corners on a screen first: press <kbd>N</kbd> or "+ Screen" on the picture.</p>
</template>

<style scoped>
.ways { display: grid; grid-template-columns: 1fr 1fr; gap: 4px; }
.ways .btn-primary { grid-column: 1 / -1; order: -1; }
.weak { color: var(--weak); }
.patches { list-style: none; padding: 0; margin: 0 0 0.3rem; }
summary { color: var(--text-dim); }
</style>
