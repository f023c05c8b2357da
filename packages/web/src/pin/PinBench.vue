<script setup lang="ts">
import { computed, ref } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Recipe } from '../types';
import CloseUp from './CloseUp.vue';
import GlassSection from './GlassSection.vue';
import { usePinEdit } from './use-pin-edit';

defineProps<{ bitmap: ImageBitmap | null }>();
const store = useShot(), view = useView(), playhead = usePlayhead(), edit = usePinEdit();
const recipe = computed(() => store.chosen?.recipe), problem = ref('');
/** TL, TR above BL, BR: each close-up stands where its corner does. */
const IN_PLACE = [0, 1, 3, 2], ZOOMS = [2, 4, 8, 16].map((value) => ({ value, text: `${value}x` }));
const DEVICES = ['phone', 'laptop', 'tablet', 'tv', 'other'];
function rename(name: string): void {
  if (recipe.value && name.trim() && name !== recipe.value.name) store.edit('Rename Screen', { ...recipe.value, name: name.trim() });
}
async function remove(): Promise<void> {
  const s = store.chosen;
  if (!s || !window.confirm(`Delete the Screen "${s.recipe.name}" with all that was followed for it?`)) return;
  await store.removeScreen(s.id).catch((e: unknown) => (problem.value = sentence(e)));
}
</script>

<template>
  <div v-if="recipe">
    <section>
      <div class="board" data-test="corner-board">
        <CloseUp v-for="i in IN_PLACE" :key="i" :bitmap="bitmap" :corner="i" :plate-width="store.shot!.probe.width" />
      </div>
      <div class="d-flex gap-1 mt-2 align-items-center" role="group" aria-label="Corners and their magnification">
        <BButton v-for="(n, i) in CORNER_NAMES" :key="n" variant="outline-secondary" class="flex-fill" :pressed="view.armed === i" :title="`Take corner ${n} (${i + 1})`" :data-test="`arm-${n}`" @click="view.armed = view.armed === i ? null : i">{{ n }}</BButton>
        <BFormSelect v-model="view.closeUp" class="zoom mono" aria-label="Magnification of the close-ups" data-test="close-up-zoom" :options="ZOOMS" />
      </div>
      <p class="dim mt-2 mb-0">Arrow keys nudge the taken corner by 1 px, with Shift by 0.1 px. Escape lets go.</p>
    </section>
    <GlassSection />
    <section>
      <h2>Corners on reference frame <span class="mono">{{ recipe.referenceFrame }}</span></h2>
      <table class="corners mono">
        <tbody>
          <tr v-for="(n, i) in CORNER_NAMES" :key="n">
            <th scope="row">{{ n }}</th>
            <td v-for="axis in ([0, 1] as const)" :key="axis"><input class="form-control" type="number" step="0.1" :aria-label="`${n} ${axis ? 'y' : 'x'}`" :value="recipe.pin[i]![axis].toFixed(2)" :data-test="`${n}-${axis ? 'y' : 'x'}`" @change="edit.set(i, axis ? [recipe.pin[i]![0], Number(($event.target as HTMLInputElement).value)] : [Number(($event.target as HTMLInputElement).value), recipe.pin[i]![1]])" /></td>
          </tr>
        </tbody>
      </table>
      <BButton v-if="playhead.frame !== recipe.referenceFrame" variant="outline-secondary" class="mt-2" @click="playhead.go(recipe.referenceFrame)">Go to the reference frame</BButton>
    </section>
    <section>
      <BFormCheckbox v-model="view.ruling" switch data-test="ruling-switch">Perspective ruling <kbd>R</kbd></BFormCheckbox>
    </section>
    <details>
      <summary>This Screen</summary>
      <label class="d-block mt-2">Name <input class="form-control" :value="recipe.name" maxlength="120" @change="rename(($event.target as HTMLInputElement).value)" /></label>
      <label class="d-block mt-2">Device <BFormSelect :model-value="recipe.device ?? 'other'" :options="DEVICES" @update:model-value="store.edit('Set device', { ...recipe, device: $event as Recipe['device'] })" /></label>
      <BButton variant="outline-secondary" class="mt-2" @click="remove"><i class="bi bi-trash3" /> Delete this Screen</BButton>
      <p v-if="problem" role="alert">{{ problem }}</p>
    </details>
  </div>
  <p v-else class="dim">Drop four corners on a screen first: press <kbd>N</kbd> or "+ Screen" on the picture.</p>
</template>

<style scoped>
.board { display: grid; grid-template-columns: 1fr 1fr; gap: 3px; }
.zoom { width: 4.6rem; }
.corners { width: 100%; }
.corners th { font-weight: 400; color: var(--text-dim); width: 2.2rem; }
.corners td { padding: 1px 2px; }
summary { color: var(--text-dim); }
</style>
