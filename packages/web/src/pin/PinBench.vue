<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import CornerBoard from '../corner-board/CornerBoard.vue';
import GlassSection from './GlassSection.vue';
import RulingSection from './RulingSection.vue';
import SquareUpSection from './SquareUpSection.vue';
import VersionsSection from './VersionsSection.vue';
import { usePinEdit } from '../edits/use-pin-edit';
import { useQuestion } from '../use-question';
import NumberField from '../shared/NumberField.vue';
import { DEVICE_ICON } from '../shared/screen-look';

const store = useShot();
const view = useView();
const playhead = usePlayhead();
const edit = usePinEdit();
const recipe = computed(() => store.chosen?.recipe);
const problem = ref('');
const ask = useQuestion();
const DEVICES = ['phone', 'laptop', 'tablet', 'tv', 'other'] as const;
function rename(name: string): void {
  if (recipe.value && name.trim() && name !== recipe.value.name)
    store.edit('Rename Screen', { ...recipe.value, name: name.trim() });
}
async function remove(): Promise<void> {
  const s = store.chosen;
  if (!s) return;
  const isMeant = await ask({
    title: `Delete the Screen "${s.recipe.name}"?`,
    body: 'All that was followed for it goes with it. There is no way back.',
    go: 'Delete the Screen',
  });
  if (!isMeant) return;
  await store.removeScreen(s.id).catch((e: unknown) => (problem.value = sentence(e)));
}
</script>

<template>
  <div v-if="recipe">
    <section>
      <CornerBoard v-if="!view.boardLarge" />
      <p class="dim mt-2 mb-0">
        Arrow keys nudge the taken corner by 1 px, with Shift by 0.1 px, with Ctrl by 10 px. Escape lets go.
      </p>
      <BButton
        class="w-100 mt-2"
        variant="outline-secondary"
        :pressed="view.whole"
        :disabled="!isReady('whole-pin')"
        :title="sentenceOf('whole-pin')"
        data-test="whole-pin"
        @click="perform('whole-pin')"
        >Take the whole pin <kbd>5</kbd></BButton
      >
    </section>
    <GlassSection />
    <SquareUpSection />
    <BenchSection title="Corners on reference frame">
      <template #note>{{ recipe.referenceFrame }}</template>
      <table class="corners mono">
        <tbody>
          <tr v-for="(n, i) in CORNER_NAMES" :key="n">
            <th scope="row">{{ n }}</th>
            <td v-for="axis in [0, 1] as const" :key="axis">
              <NumberField
                :step="0.1"
                :decimals="2"
                :aria-label="`${n} ${axis ? 'y' : 'x'}`"
                title="Position on the reference frame, px from the picture's top-left corner"
                :model-value="recipe.pin[i]![axis]"
                :data-test="`${n}-${axis ? 'y' : 'x'}`"
                @update:model-value="edit.set(i, axis ? [recipe.pin[i]![0], $event] : [$event, recipe.pin[i]![1]])"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <BButton
        v-if="playhead.frame !== recipe.referenceFrame"
        variant="outline-secondary"
        class="mt-2"
        title="The frame on which the pin is set"
        @click="playhead.go(recipe.referenceFrame)"
        >Go to the reference frame</BButton
      >
    </BenchSection>
    <RulingSection />
    <div class="d-flex gap-1 align-items-center mt-2" role="group" aria-label="Kind of device">
      <span class="dim me-auto">Device</span>
      <BButton
        v-for="d in DEVICES"
        :key="d"
        variant="outline-secondary"
        :class="{ active: (recipe.device ?? 'other') === d }"
        :aria-pressed="(recipe.device ?? 'other') === d"
        :aria-label="d"
        :title="`It is a ${d === 'other' ? 'screen of another kind' : d}: for its mark and its usual shapes; guessed from the proportions of the pin`"
        :data-test="`device-${d}`"
        @click="store.edit('Set device', { ...recipe, device: d })"
        ><i class="bi" :class="DEVICE_ICON[d]" aria-hidden="true"
      /></BButton>
    </div>
    <details>
      <summary title="Its name, and deleting it">This Screen</summary>
      <label class="d-block mt-2"
        >Name
        <input
          class="form-control"
          :value="recipe.name"
          title="By this name it is called in files and deliveries"
          maxlength="120"
          @change="rename(($event.target as HTMLInputElement).value)"
      /></label>
      <BButton
        variant="outline-secondary"
        class="mt-2"
        title="Delete the Screen with all that was followed for it; it asks first"
        data-test="delete-screen"
        @click="remove"
        ><i class="bi bi-trash3" /> Delete this Screen</BButton
      >
      <p v-if="problem" role="alert">{{ problem }}</p>
    </details>
    <VersionsSection />
  </div>
  <p v-else class="dim">
    Take a screen that is seen on the picture, or drop four corners on a screen first: press <kbd>N</kbd> or "+ Screen".
  </p>
</template>

<style scoped>
.corners {
  width: 100%;
}
.corners th {
  font-weight: 400;
  color: var(--text-dim);
  width: 2.2rem;
}
.corners td {
  padding: 1px 2px;
}
summary {
  color: var(--text-dim);
}
</style>
