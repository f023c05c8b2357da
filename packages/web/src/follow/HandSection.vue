<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import { computed } from 'vue';
import { withoutSettings } from '@yarlop/core/follow/outline/section-list';
import type { Quad } from '@yarlop/core/geometry/quad';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import { useRecipe } from '../edits/use-recipe';

const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const view = useView();
const { recipe, track, change } = useRecipe();
const hand = computed(() => recipe.value?.hand ?? []);
const presence = computed(() => recipe.value?.presence ?? []);
const keys = computed(() => recipe.value?.keyFrames ?? []);
const onReference = computed(() => playhead.frame === recipe.value?.referenceFrame);
const here = computed(() => hand.value.find((k) => k.frame === playhead.frame));

/** The next frame in the direction of work, away from the reference; null at the shot's end. */
const onward = computed(() => {
  const n = playhead.frame + Math.sign(playhead.frame - (recipe.value?.referenceFrame ?? 0));
  return n >= 0 && n < playhead.count ? n : null;
});

/** The pin as it is here, or as it was on the nearest frame that has one. */
function nearest(): Quad {
  const s = store.chosen!;
  for (let d = 0; d < playhead.count; d++)
    for (const n of [playhead.frame - d, playhead.frame + d]) {
      const q = tracks.corners(s, n);
      if (q) return q;
    }
  return s.recipe.pin;
}
/** Places the pin on this frame; where it is placed, on the next one, so that a key and a drag do a frame. */
function place(): void {
  if (here.value) {
    playhead.go(onward.value!);
    if (here.value) return;
  }
  change('Place pin by hand', {
    hand: [...hand.value, { frame: playhead.frame, corners: nearest() as Recipe['pin'] }].sort(
      (a, b) => a.frame - b.frame,
    ),
  });
  // A pin that is placed is off as a whole first, and then in its corners.
  view.whole = true;
}
function drop(frame: number): void {
  change('Delete hand key', { hand: hand.value.filter((k) => k.frame !== frame) });
}
/** A range that begins or ends here; an open one reaches to the shot's own end. */
function presenceFrom(edge: 'from' | 'to'): void {
  const n = playhead.frame;
  const last = playhead.count - 1;
  const list = presence.value.map((p) => ({ ...p }));
  const open = list.find((p) => n >= p.from && n <= p.to);
  if (open) open[edge] = n;
  else list.push(edge === 'from' ? { from: n, to: last } : { from: 0, to: n });
  change('Set presence', { presence: list.sort((a, b) => a.from - b.from) });
}
function reference(): void {
  change('Set reference frame', {
    referenceFrame: playhead.frame,
    pin: (tracks.corners(store.chosen!, playhead.frame) ?? recipe.value!.pin) as Recipe['pin'],
    patches: [],
    sections: withoutSettings(recipe.value!.sections ?? [], ['patches', 'over']),
    area: undefined,
    hand: hand.value.filter((k) => k.frame !== playhead.frame),
  });
}
provideCommand('hand-here', place, () => !onReference.value && (!here.value || onward.value !== null));
</script>

<template>
  <template v-if="recipe">
    <BenchSection title="Reference frame and other pictures to remember">
      <div class="d-flex align-items-center gap-1 flex-wrap">
        <span class="mono" data-test="reference">{{ recipe.referenceFrame }}</span>
        <BButton
          variant="outline-secondary"
          title="Go to the frame on which pin and outlines are set"
          @click="playhead.go(recipe.referenceFrame)"
          >Go there</BButton
        >
        <BButton
          variant="outline-secondary"
          :disabled="onReference"
          title="Set this frame as the reference; the pin keeps its place in the picture, outlines are drawn anew"
          data-test="set-reference"
          @click="reference"
          >Set this frame</BButton
        >
        <BButton
          variant="outline-secondary"
          :disabled="onReference || keys.includes(playhead.frame)"
          title="Remember how the screen looks here, beside the reference: another state, view or light"
          data-test="key-picture"
          @click="change('Remember picture', { keyFrames: [...keys, playhead.frame].sort((a, b) => a - b) })"
          >Remember this one too</BButton
        >
        <span v-for="k in keys" :key="k" class="chip mono"
          ><button type="button" title="Go to this remembered picture" @click="playhead.go(k)">{{ k }}</button
          ><button
            type="button"
            :aria-label="`Forget the picture of frame ${k}`"
            title="Forget this picture"
            @click="change('Forget picture', { keyFrames: keys.filter((x) => x !== k) })"
          >
            ×
          </button></span
        >
      </div>
    </BenchSection>
    <BenchSection title="Placed by hand">
      <div class="d-flex align-items-center gap-1 flex-wrap">
        <BButton
          variant="outline-secondary"
          :disabled="!isReady('hand-here')"
          :title="sentenceOf('hand-here')"
          data-test="hand-here"
          @click="perform('hand-here')"
          >{{ here ? `On to frame ${onward ?? playhead.frame}` : 'Place the pin here' }} <kbd>K</kbd></BButton
        >
        <BButton
          v-if="here"
          variant="outline-secondary"
          title="Take the hand's word back on this frame"
          data-test="hand-drop"
          @click="drop(playhead.frame)"
          >Leave this frame to the follower</BButton
        >
        <span v-for="k in hand" :key="k.frame" class="chip mono" :class="{ now: k.frame === playhead.frame }"
          ><button
            type="button"
            title="Go to this frame, where the pin was placed by hand"
            @click="playhead.go(k.frame)"
          >
            {{ k.frame }}</button
          ><button
            type="button"
            :aria-label="`Delete the hand key on frame ${k.frame}`"
            title="Leave this frame to the follower"
            @click="drop(k.frame)"
          >
            ×
          </button></span
        >
      </div>
      <p v-if="here" class="dim mt-1 mb-0">
        Corners dragged on this frame belong to it alone. Frames between are joined on both sides{{
          track?.frames.size ? '' : ', along the shortest smooth path'
        }}.
      </p>
    </BenchSection>
    <BenchSection title="In the shot">
      <div class="d-flex align-items-center gap-1 flex-wrap">
        <BButton
          variant="outline-secondary"
          title="The screen is in the shot from this frame on"
          data-test="presence-from"
          @click="presenceFrom('from')"
          >Comes in here</BButton
        >
        <BButton
          variant="outline-secondary"
          title="This is the last frame with the screen"
          data-test="presence-to"
          @click="presenceFrom('to')"
          >Last one here</BButton
        >
        <span v-if="presence.length === 0" class="dim">the whole time</span>
        <span v-for="(p, i) in presence" :key="i" class="chip mono"
          ><button type="button" title="Go to where the screen comes in" @click="playhead.go(p.from)">
            {{ p.from }} to {{ p.to }}</button
          ><button
            type="button"
            :aria-label="`Delete the range ${p.from} to ${p.to}`"
            title="Delete this range"
            @click="change('Delete presence', { presence: presence.filter((_, k) => k !== i) })"
          >
            ×
          </button></span
        >
      </div>
    </BenchSection>
  </template>
</template>

<style scoped>
.chip {
  border: 1px solid var(--line);
  border-radius: 3px;
}
.chip.now {
  border-color: var(--brass);
}
.chip button {
  background: none;
  border: 0;
  color: inherit;
  padding: 0 0.3rem;
}
</style>
