<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref, watch } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import { useProof } from './use-proof';

const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const view = useView();
const { screen, ranking, followed, snapped } = useProof();
/** Rows that are listed. */
const ROWS = 8;
/** px at 1920 wide; slip that is worth a row. */
const WORTH = 0.4;
/** Neighbours of a listed frame tell the same drift again. */
const APART = 6;
const list = computed(() => {
  const out: { frame: number; corner: number; kind: 'drift' | 'pop'; size: number }[] = [];
  for (const t of ranking.value?.troubles ?? []) {
    if (t.size < WORTH || out.length >= ROWS) break;
    if (out.every((o) => o.kind !== t.kind || Math.abs(o.frame - t.frame) > (t.kind === 'pop' ? 0 : APART)))
      out.push(t);
  }
  return out;
});
/** px of the sides of the corner's small picture, out of the playback proxy. */
const CROP = 26;
/** CSS px a plate px in it. */
const CROP_ZOOM = 0.45;
function crop(t: { frame: number; corner: number }): Record<string, string> {
  const s = screen.value;
  const shot = store.shot!;
  const [x, y] = (s && tracks.corners(s, t.frame)?.[t.corner]) ?? [0, 0];
  return {
    backgroundImage: `url(/api/media/${shot.mediaHash}/proxy/${t.frame}.jpg)`,
    backgroundSize: `${shot.probe.width * CROP_ZOOM}px auto`,
    backgroundPosition: `${CROP / 2 - x * CROP_ZOOM}px ${CROP / 2 - y * CROP_ZOOM}px`,
  };
}
const told = ref('');
const weak = ref(false);
const busy = ref(false);
watch(
  () => [store.chosenId, playhead.frame],
  () => (told.value = ''),
);
function go(t: { frame: number; corner: number }): void {
  playhead.playing = false;
  playhead.go(t.frame);
  view.armed = t.corner;
}
async function snap(all: boolean): Promise<void> {
  const s = screen.value;
  const { frame } = playhead;
  const corners = view.armed === null || all ? [0, 1, 2, 3] : [view.armed];
  if (!s || busy.value) return;
  busy.value = true;
  try {
    await store.save();
    const r = await snapped(s, s.recipe, frame, corners);
    if (typeof r === 'string') [told.value, weak.value] = [r, true];
    else {
      store.edit(
        corners.length > 1 ? 'Snap to likeness' : `Snap corner ${CORNER_NAMES[corners[0]!]} to its likeness`,
        r,
      );
      [told.value, weak.value] = [`Touched up on frame ${frame}.`, false];
    }
  } catch (e) {
    [told.value, weak.value] = [sentence(e), true];
  } finally {
    busy.value = false;
  }
}
async function snapListed(): Promise<void> {
  const s = screen.value;
  if (!s || busy.value) return;
  busy.value = true;
  let recipe: Recipe = s.recipe;
  let done = 0;
  const refused: string[] = [];
  try {
    for (const frame of [...new Set(list.value.map((t) => t.frame))]) {
      const r = await snapped(s, recipe, frame, [0, 1, 2, 3]);
      if (typeof r === 'string') refused.push(`${frame}: ${r}`);
      else [recipe, done] = [r, done + 1];
    }
    if (done > 0) store.edit('Snap listed frames to their likeness', recipe);
    [told.value, weak.value] = [
      `${done} frames touched up.${refused.length > 0 ? ` ${refused[0]}` : ''}`,
      refused.length > 0,
    ];
  } catch (e) {
    [told.value, weak.value] = [sentence(e), true];
  } finally {
    busy.value = false;
  }
}
provideCommand(
  'snap-likeness',
  () => snap(false),
  () => !busy.value && playhead.frame !== screen.value?.recipe.referenceFrame,
);
</script>

<template>
  <BenchSection v-if="followed > 1" title="Worst frames">
    <table v-if="list.length" class="worst" data-test="worst">
      <tbody>
        <tr v-for="t in list" :key="`${t.frame} ${t.kind}`" :class="{ here: t.frame === playhead.frame }">
          <td><span class="crop" :style="crop(t)" aria-hidden="true" /></td>
          <td>
            <button
              type="button"
              class="row-button mono"
              title="Go to this frame and take its corner"
              :data-test="`worst-${t.frame}`"
              @click="go(t)"
            >
              {{ t.frame }}
            </button>
          </td>
          <td class="mono">{{ CORNER_NAMES[t.corner] }}</td>
          <td>{{ t.kind }}</td>
          <td class="bar"><span :style="{ width: `${Math.min(100, (100 * t.size) / list[0]!.size)}%` }" /></td>
          <td class="mono size">{{ t.size.toFixed(2) }} px</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="ranking" class="dim mb-1">Nothing slips by {{ WORTH }} px or more where it could be told.</p>
    <p v-else class="dim mb-1">Measure slip to see them ranked.</p>
    <div class="d-flex gap-1 mt-1">
      <BButton
        variant="outline-secondary"
        class="flex-fill"
        :disabled="!isReady('snap-likeness')"
        :title="sentenceOf('snap-likeness')"
        data-test="snap-likeness"
        @click="perform('snap-likeness')"
        >Snap {{ view.armed === null ? 'corners' : CORNER_NAMES[view.armed] }} here <kbd>S</kbd></BButton
      >
      <BButton
        v-if="list.length > 1"
        variant="outline-secondary"
        :disabled="busy"
        title="The same on every listed frame, all four corners"
        data-test="snap-listed"
        @click="snapListed"
        >All listed</BButton
      >
    </div>
    <p v-if="told" class="mt-1 mb-0" :class="weak ? 'weak' : 'dim'" role="status" data-test="snap-told">{{ told }}</p>
  </BenchSection>
</template>

<style scoped>
.worst {
  width: 100%;
  font-size: 0.8125rem;
}
.worst td {
  padding: 0 0.35rem 0 0;
}
.row-button {
  background: none;
  border: 0;
  color: var(--bs-link-color);
  padding: 0;
  text-decoration: underline;
  min-width: 2rem;
  text-align: left;
}
.crop {
  display: block;
  width: 26px;
  height: 26px;
  background-repeat: no-repeat;
  border: 1px solid var(--line);
}
.here {
  outline: 1px solid var(--brass);
}
.bar {
  width: 30%;
}
.bar span {
  display: block;
  height: 6px;
  background: var(--weak);
}
.size {
  text-align: right;
  white-space: nowrap;
  padding-right: 0.2rem !important;
}
.weak {
  color: var(--weak);
}
</style>
