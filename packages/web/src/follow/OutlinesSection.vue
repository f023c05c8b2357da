<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import { computed } from 'vue';
import { isCurved, withCurves, withShapeOn } from '@yarlop/core/dress/shape/outline-by-hand';
import type { Outline } from '@yarlop/core/follow/outline/outlines';
import { shapeOn } from '@yarlop/core/follow/outline/outlines';
import { withOutlineOf } from '../edits/copy-settings';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Recipe, Screen } from '../types';
import { useRecipe } from '../edits/use-recipe';
import { useWays } from '../edits/use-ways';

type Patch = NonNullable<Recipe['patches']>[number];
type Key = NonNullable<Patch['keys']>[number];
const store = useShot();
const playhead = usePlayhead();
const view = useView();
const { recipe, track, change } = useRecipe();
const { here, set } = useWays();
const patches = computed(() => here.value.patches ?? []);
const onReference = computed(() => playhead.frame === recipe.value?.referenceFrame);
const others = computed(() => store.screens.filter((s) => s.id !== store.chosenId));
const CHANGES = [
  { value: 'linear', text: 'changes evenly' },
  { value: 'eased', text: 'starts and ends softly' },
  { value: 'hold', text: 'changes at once' },
];

function edit(name: string, i: number, part: Partial<Patch>): void {
  set(name, { patches: patches.value.map((p, k) => (k === i ? ({ ...p, ...part } as Patch) : p)) });
}
function remove(i: number): void {
  set('Delete patch', { patches: patches.value.filter((_, k) => k !== i) });
}
/** Keeps the shape as it is here and lets the person reshape it from this frame on. */
function keyHere(i: number): void {
  const p = patches.value[i]!;
  const f = playhead.frame;
  const reference = recipe.value!.referenceFrame;
  const outline = p as Outline;
  edit('Key patch', i, withShapeOn(outline, f, reference, shapeOn(outline, f, reference)) as Partial<Patch>);
}
/** What is led by handles gets or loses them; else the curve goes through its points by itself. */
function curve(i: number, isOn: boolean): void {
  const p = patches.value[i]!;
  edit('Smooth patch', i, p.handles ? (withCurves(p as Outline, isOn) as Partial<Patch>) : { smooth: isOn });
}
function dropKey(i: number, frame: number): void {
  edit('Delete patch key', i, { keys: (patches.value[i]!.keys ?? []).filter((k) => k.frame !== frame) });
}
/** The shape of a key on the frame shown, in the key's place or beside it. */
function bringKey(i: number, key: Key, isMoved: boolean): void {
  const frame = playhead.frame;
  const rest = (patches.value[i]!.keys ?? []).filter((k) => k.frame !== frame && !(isMoved && k === key));
  edit(isMoved ? 'Move patch key' : 'Copy patch key', i, {
    keys: [...rest, { ...key, frame }].sort((a, b) => a.frame - b.frame),
  });
}
function copyTo(i: number, target: Screen): void {
  const after = withOutlineOf(target.recipe, recipe.value!, patches.value[i]!);
  store.edit('Copy outline', after, target.recipe, target.id);
}
/** What may pass in front: outlines of such things, and other Screens. */
const passers = computed(() => [...others.value].sort((a, b) => Number(!a.recipe.carried) - Number(!b.recipe.carried)));
function ignore(name: string, isIgnored: boolean): void {
  const others = (recipe.value?.ignores ?? []).filter((n) => n !== name);
  const ignores = isIgnored ? [...others, name] : others;
  change(isIgnored ? 'Ignore outline' : 'Follow under outline', { ignores: ignores.length > 0 ? ignores : undefined });
}
const solvedHere = computed(() => onReference.value || (track.value?.frames.has(playhead.frame) ?? false));
</script>

<template>
  <BenchSection v-if="recipe" title="Outlines">
    <p v-if="patches.length === 0" class="dim mb-2">
      None: the screen, its edges, and what around it proves to move with it are followed. A screen that cannot be
      followed itself is carried by follow patches on its plane or on what moves with it; touch-ups mend what is left.
    </p>
    <ul class="patches">
      <li v-for="(p, i) in patches" :key="i" :data-test="`patch-row-${i}`">
        <div class="row-head">
          <span>{{ i + 1 }} {{ p.kind === 'follow' ? 'Follow' : 'Ignore' }}</span>
          <BFormCheckbox
            :model-value="isCurved(p as Outline)"
            title="A smooth curve through the points instead of straight sides"
            :data-test="`patch-smooth-${i}`"
            @update:model-value="curve(i, Boolean($event))"
            >curved</BFormCheckbox
          >
          <BDropdown
            v-if="others.length > 0"
            size="sm"
            variant="outline-secondary"
            text="Copy to"
            title="The same outline for another Screen of the shot"
          >
            <BDropdownItem v-for="s in others" :key="s.id" @click="copyTo(i, s)">{{ s.recipe.name }}</BDropdownItem>
          </BDropdown>
          <BButton
            variant="link"
            size="sm"
            :aria-label="`Delete patch ${i + 1}`"
            title="Delete this outline"
            @click="remove(i)"
            ><i class="bi bi-trash3"
          /></BButton>
        </div>
        <div class="row-keys">
          <BButton
            variant="outline-secondary"
            size="sm"
            :disabled="onReference || !solvedHere"
            title="Keep the shape here and reshape it from this frame on; dragging a point does the same"
            :data-test="`patch-key-${i}`"
            @click="keyHere(i)"
            >Reshape from here</BButton
          >
          <template v-if="p.keys?.length">
            <select
              class="form-select"
              :value="p.change ?? 'linear'"
              :aria-label="`How patch ${i + 1} goes from shape to shape`"
              title="How the outline goes from one shape to the next"
              @change="
                edit('Patch change', i, { change: ($event.target as HTMLSelectElement).value as Patch['change'] })
              "
            >
              <option v-for="c in CHANGES" :key="c.value" :value="c.value">{{ c.text }}</option>
            </select>
            <BDropdown
              v-for="k in p.keys"
              :key="k.frame"
              size="sm"
              variant="outline-secondary"
              toggle-class="mono"
              :text="String(k.frame)"
              :title="`The shape on frame ${k.frame}: go there, bring it to the frame shown, delete it`"
              :data-test="`patch-key-${i}-${k.frame}`"
            >
              <BDropdownItem @click="playhead.go(k.frame)">Go to frame {{ k.frame }}</BDropdownItem>
              <BDropdownItem :disabled="onReference" @click="bringKey(i, k, true)"
                >Move it to the frame shown</BDropdownItem
              >
              <BDropdownItem :disabled="onReference" @click="bringKey(i, k, false)"
                >Copy it to the frame shown</BDropdownItem
              >
              <BDropdownItem @click="dropKey(i, k.frame)">Delete it</BDropdownItem>
            </BDropdown>
          </template>
        </div>
      </li>
    </ul>
    <div class="d-flex gap-1">
      <BButton
        variant="outline-secondary"
        :disabled="!isReady('draw-patch')"
        :title="sentenceOf('draw-patch')"
        data-test="draw-follow"
        @click="perform('draw-patch')"
        >Draw follow patch</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!solvedHere"
        title="Outline what is to be left out"
        data-test="draw-ignore"
        @click="view.tool = { kind: 'draw-patch', patch: 'ignore' }"
        >Draw ignore patch</BButton
      >
    </div>
    <div v-if="!recipe.carried" class="mt-1">
      <BButton
        variant="outline-secondary"
        title="Outline a hand, a cup, a head on the frame shown: it is followed by a run of its own, to be ignored here or held out in Dress"
        data-test="draw-carried"
        @click="view.tool = { kind: 'draw-patch', patch: 'carried' }"
        >Outline what passes in front</BButton
      >
      <BFormCheckbox
        v-for="c in passers"
        :key="c.id"
        :model-value="recipe.ignores?.includes(c.recipe.name) ?? false"
        title="It passes in front: what lies under it, where its own run has it, is not followed"
        :data-test="`ignore-${c.id}`"
        @update:model-value="ignore(c.recipe.name, Boolean($event))"
        >ignore {{ c.recipe.name }}</BFormCheckbox
      >
    </div>
    <p v-else class="dim mt-1 mb-0">
      This outline passes in front of Screens: follow it, then let a Screen ignore it here, or hold it out in Dress.
    </p>
    <p v-if="!onReference" class="dim mt-1 mb-0">
      Follow patches are drawn on the reference frame; on a followed frame, dragging a point, or the line, reshapes from
      there on.
    </p>
  </BenchSection>
</template>

<style scoped>
.patches {
  list-style: none;
  padding: 0;
  margin: 0 0 0.4rem;
}
.row-head,
.row-keys {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  flex-wrap: wrap;
}
.row-head > span {
  flex: 1;
}
.row-keys .form-select {
  width: auto;
}
.row-keys {
  padding: 0.15rem 0 0.35rem 0.8rem;
}
</style>
