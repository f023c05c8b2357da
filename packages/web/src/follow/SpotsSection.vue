<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed, onUnmounted, ref } from 'vue';
import { SPOT_BOX, SPOT_SEARCH, knownPlace } from '@yarlop/core/follow/spots/spots';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { sentence, stream } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Recipe, SpotWord } from '../types';
import { useRecipe } from '../edits/use-recipe';
import NumberField from '../shared/NumberField.vue';

type Spot = NonNullable<Recipe['spots']>[number];
const store = useShot();
const playhead = usePlayhead();
const view = useView();
const { recipe, change } = useRecipe();
const spots = computed(() => recipe.value?.spots ?? []);
const chosen = computed(() => (view.spot === null ? undefined : spots.value[view.spot]));
const onReference = computed(() => playhead.frame === recipe.value?.referenceFrame);
const MATCHES = [
  { value: 'reference', text: 'as on the reference frame' },
  { value: 'previous', text: 'as on the frame before' },
  { value: 'hand', text: 'as on the nearest placed frames' },
];

function edit(name: string, part: Partial<Spot>): void {
  change(name, { spots: spots.value.map((s, i) => (i === view.spot ? { ...s, ...part } : s)) });
}
function without(key: 'from' | 'to'): void {
  change('Undo cut of spot', {
    spots: spots.value.map((s, i) =>
      i === view.spot ? (Object.fromEntries(Object.entries(s).filter(([k]) => k !== key)) as unknown as Spot) : s,
    ),
  });
}
function fourCorners(): void {
  const own = recipe.value!.pin.map((at, corner): Spot => ({ name: `corner ${CORNER_NAMES[corner]}`, at, corner }));
  change('Spots at the corners', {
    spots: [...spots.value.filter((s) => s.corner === undefined), ...own],
    evidence: ['spots'],
  });
}
/** The run of a spot by itself that is on, and where it is. */
const run = ref<{ readonly stop: AbortController; frame: number } | null>(null);
const told = ref('');
const known = computed(
  () => chosen.value && recipe.value && knownPlace(chosen.value, playhead.frame, recipe.value.referenceFrame),
);
const path = computed(() => chosen.value?.path ?? []);
/**
 * Follows the spot alone from here to the working range's end; what was found is one step of undo, also when it is
 * stopped.
 */
async function follow(step: 1 | -1): Promise<void> {
  const index = view.spot!;
  const id = store.chosenId!;
  const name = chosen.value!.name;
  const start = playhead.frame;
  const end = step > 0 ? playhead.to : playhead.from;
  const found: [number, number, number, number][] = [];
  told.value = '';
  run.value = { stop: new AbortController(), frame: start };
  try {
    await store.save();
    await stream<SpotWord>(
      `/screens/${id}/spot-run`,
      { spot: index, start, end },
      run.value.stop.signal,
      ({ frame, at, sigma, reason }) => {
        if (at) found.push([frame, at[0], at[1], sigma]);
        if (reason) told.value = `Frame ${frame}: ${reason}`;
        run.value!.frame = frame;
        playhead.go(frame);
      },
    );
  } catch (e) {
    if (!run.value.stop.signal.aborted) told.value = sentence(e);
  }
  run.value = null;
  const now = recipe.value?.spots?.[index];
  if (store.chosenId !== id || now?.name !== name || found.length === 0) return;
  const again = new Set(found.map((p) => p[0]));
  const last = found.at(-1)![0];
  const kept = (now.path ?? []).filter(
    (p) => !again.has(p[0]) && (step > 0 ? p[0] <= last || !told.value : p[0] >= last || !told.value),
  );
  edit(step > 0 ? 'Follow spot forwards' : 'Follow spot backwards', {
    path: [...kept, ...found].sort((a, b) => a[0] - b[0]),
  });
}
function cut(side: 'from' | 'to'): void {
  const n = playhead.frame;
  edit('Cut spot', { [side]: n, path: path.value.filter((p) => (side === 'to' ? p[0] <= n : p[0] >= n)) });
}
onUnmounted(() => run.value?.stop.abort());
function remove(i: number): void {
  view.spot = null;
  change('Delete spot', { spots: spots.value.filter((_, k) => k !== i) });
}
const size = (s: Spot, k: 'box' | 'search', axis: 0 | 1): number =>
  (s[k] ?? (k === 'box' ? SPOT_BOX : SPOT_SEARCH))[axis];
function setSize(k: 'box' | 'search', axis: 0 | 1, v: number): void {
  const s = chosen.value;
  if (!s) return;
  const next: [number, number] = [size(s, k, 0), size(s, k, 1)];
  next[axis] = v;
  edit(k === 'box' ? 'Size of spot' : 'Reach of spot', { [k]: next });
}
</script>

<template>
  <BenchSection v-if="recipe" title="Spots">
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        variant="outline-secondary"
        :disabled="!onReference"
        title="Click a small place with contrast; it is followed by itself"
        data-test="add-spot"
        @click="view.tool = { kind: 'add-spot' }"
        >Add a spot</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!onReference"
        title="One spot on each corner, and the pin from them alone"
        data-test="four-spots"
        @click="fourCorners"
        >Four at the corners</BButton
      >
    </div>
    <ul class="spots">
      <li v-for="(s, i) in spots" :key="i">
        <button
          type="button"
          class="name"
          title="Choose this spot: its boxes and its own runs are set below"
          :class="{ now: view.spot === i }"
          :aria-pressed="view.spot === i"
          :data-test="`spot-${i}`"
          @click="view.spot = view.spot === i ? null : i"
        >
          {{ s.name }}
        </button>
        <span class="dim">{{ s.keys?.length ? `${s.keys.length} placed` : '' }}</span>
        <BButton variant="link" size="sm" :aria-label="`Delete ${s.name}`" title="Delete this spot" @click="remove(i)"
          ><i class="bi bi-trash3"
        /></BButton>
      </li>
    </ul>
    <div v-if="chosen" class="own">
      <label
        >Looks
        <select
          class="form-select"
          :value="chosen.match ?? 'reference'"
          title="What its picture is compared with: as on the reference, as on the frame before, or as on the nearest frame where it was placed"
          data-test="spot-match"
          @change="edit('Match of spot', { match: ($event.target as HTMLSelectElement).value as Spot['match'] })"
        >
          <option v-for="m in MATCHES" :key="m.value" :value="m.value">{{ m.text }}</option>
        </select></label
      >
      <div v-for="k in ['box', 'search'] as const" :key="k" class="sizes">
        <span>{{ k === 'box' ? 'Box' : 'Looked for in' }}</span>
        <NumberField
          v-for="axis in [0, 1] as const"
          :key="axis"
          :min="5"
          :max="2000"
          :step="2"
          :aria-label="`${k === 'box' ? 'Box' : 'Search'} ${axis ? 'height' : 'width'}, px`"
          :model-value="size(chosen, k, axis)"
          :title="k === 'box' ? 'Size of the pattern that is followed' : 'How far around its place it is looked for'"
          @update:model-value="setSize(k, axis, $event)"
        />
        <span class="dim">px</span>
      </div>
      <div class="ways">
        <BButton
          variant="outline-secondary"
          size="sm"
          :disabled="!!run || !known || playhead.frame <= playhead.from"
          :title="
            known
              ? 'Follow this spot alone, backwards from here'
              : 'Where the spot is on this frame is not known; place it here first'
          "
          data-test="spot-back"
          @click="follow(-1)"
          ><i class="bi bi-arrow-bar-left" /> Follow it back</BButton
        >
        <BButton
          variant="outline-secondary"
          size="sm"
          :disabled="!!run || !known || playhead.frame >= playhead.to"
          :title="
            known
              ? 'Follow this spot alone, forwards from here'
              : 'Where the spot is on this frame is not known; place it here first'
          "
          data-test="spot-on"
          @click="follow(1)"
          >Follow it on <i class="bi bi-arrow-bar-right"
        /></BButton>
        <BButton
          variant="outline-secondary"
          size="sm"
          title="Forget where it was followed before this frame, and use it no earlier"
          @click="cut('from')"
          ><i class="bi bi-scissors" /> Drop before</BButton
        >
        <BButton
          variant="outline-secondary"
          size="sm"
          title="Forget where it was followed after this frame, and use it no later"
          data-test="spot-cut-after"
          @click="cut('to')"
          >Drop after <i class="bi bi-scissors"
        /></BButton>
      </div>
      <BButton
        v-if="run"
        variant="outline-secondary"
        size="sm"
        title="Stop before the next frame"
        data-test="spot-stop"
        @click="run.stop.abort()"
        ><i class="bi bi-stop-fill" /> Stop at frame {{ run.frame }}</BButton
      >
      <p v-if="path.length > 0" class="dim mb-0" data-test="spot-path">
        Followed alone on {{ path.length }} frames, <span class="mono">{{ path[0]![0] }}</span> to
        <span class="mono">{{ path.at(-1)![0] }}</span>. The pin is followed with these places.
      </p>
      <p v-if="told" class="weak mb-0" role="alert" data-test="spot-told">{{ told }}</p>
      <div class="d-flex gap-1 flex-wrap">
        <span
          v-for="k in ['from', 'to'] as const"
          v-show="chosen[k] !== undefined"
          :key="k"
          class="chip mono"
          title="Where the spot's use begins or ends"
          >{{ k }} {{ chosen[k]
          }}<button
            type="button"
            :aria-label="`Use the spot ${k === 'to' ? 'after' : 'before'} frame ${chosen[k]} again`"
            @click="without(k)"
          >
            ×
          </button></span
        >
        <span
          v-for="k in chosen.keys ?? []"
          :key="k.frame"
          class="chip mono"
          title="A frame on which it was placed by hand"
          ><button type="button" @click="playhead.go(k.frame)">{{ k.frame }}</button
          ><button
            type="button"
            :aria-label="`Delete the place on frame ${k.frame}`"
            @click="edit('Delete spot key', { keys: (chosen.keys ?? []).filter((x) => x.frame !== k.frame) })"
          >
            ×
          </button></span
        >
      </div>
      <p class="dim mb-0">Drag it on any frame to place it by hand there; the next frame comes up by itself.</p>
    </div>
  </BenchSection>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.weak {
  color: var(--weak);
}
.spots {
  list-style: none;
  padding: 0;
  margin: 0.3rem 0;
}
.spots li {
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
.name {
  background: none;
  border: 0;
  border-left: 3px solid transparent;
  color: inherit;
  flex: 1;
  text-align: left;
  padding: 0.1rem 0.4rem;
}
.name.now {
  border-left-color: var(--brass);
  background: var(--ink);
}
.own {
  display: grid;
  gap: 0.35rem;
}
.own label {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  white-space: nowrap;
}
.sizes {
  display: flex;
  gap: 0.3rem;
  align-items: center;
}
.sizes span:first-child {
  flex: 1;
}
.sizes input {
  width: 4.6rem;
}
.chip {
  border: 1px solid var(--line);
  border-radius: 3px;
  padding-left: 0.3rem;
}
.chip button {
  background: none;
  border: 0;
  color: inherit;
  padding: 0 0.3rem;
}
</style>
