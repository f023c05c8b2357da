<script setup lang="ts">
/** The slot: which fill is in it. When it plays and how it lies have parts of their own. */
import { computed, onUnmounted, ref } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import UploadBox from '../upload/UploadBox.vue';
import { useBringIn } from '../upload/use-bring-in';
import ContentsPart from './ContentsPart.vue';
import PlacementPart from './PlacementPart.vue';
import TimePart from './TimePart.vue';
import { SECTION_OF } from './dress-controls';
import { useDress, withPart } from '../edits/use-dress';
import { sentenceOf } from '../commands/catalogue';
import { perform, provideCommand } from '../commands/use-commands';
import type { Placement } from '@yarlop/core/dress/shape/placement';
import { keptProportions } from '@yarlop/core/dress/shape/placement';
import type { Quad } from '@yarlop/core/geometry/quad';
import { proportionsOf } from '@yarlop/core/pin/proportions';

const store = useShot();
const media = useMedia();
const view = useView();
const { recipe } = useDress();
const search = ref('');
/** From so many on, a field to look for one by its name or tags. */
const MANY = 9;
/** Those of this production first, in the order of the library. */
const offered = computed(() => {
  const all = media.all.filter((m) => m.hash !== store.shot?.mediaHash);
  return [...all.filter((m) => media.own.has(m.hash)), ...all.filter((m) => !media.own.has(m.hash))];
});
const fills = computed(() => {
  const text = search.value.trim().toLowerCase();
  return offered.value.filter((m) => [m.name, ...m.tags].join(' ').toLowerCase().includes(text));
});
const { adding, arrived, bringIn } = useBringIn(choose);
provideCommand(
  'place-fill',
  () => ([view.armed, view.whole, view.placing] = [null, false, !view.placing]),
  () => recipe.value?.fill !== undefined,
);
onUnmounted(() => (view.placing = false));

/** Swaps the fill and touches nothing else; what was in the slot stays one of its versions. */
function choose(hash: string | null): void {
  if (!recipe.value) return;
  const { fill, ...rest } = recipe.value;
  if (!hash) return store.edit('Take fill out', rest);
  const versions = [
    ...new Set([...(fill?.versions ?? []), ...(fill?.media && fill.media !== hash ? [fill.media] : [])]),
  ]
    .filter((h) => h !== hash)
    .slice(-50);
  // A document is left with what it shows; what was made up in the slot lies over its new background.
  const { made, content, ...own } = fill ?? {};
  const kept = made && !content ? { ...own, made } : own;
  const chosen = { ...rest, fill: { ...kept, media: hash, ...(versions.length > 0 ? { versions } : {}) } };
  const placement = firstPlacement(hash);
  store.edit('Choose fill', placement ? withPart(chosen, 'placement', placement) : chosen);
}
/** A fill that was made for other proportions keeps its own; nothing where somebody has placed a fill already. */
function firstPlacement(hash: string): Placement | null {
  const own = media.byHash.get(hash)?.probe;
  const plate = store.shot?.probe;
  if (!own || !plate || !recipe.value || recipe.value.dress?.placement) return null;
  return keptProportions(own.width / own.height, proportionsOf(recipe.value.pin as unknown as Quad, plate));
}
</script>

<template>
  <BenchSection :title="SECTION_OF.placement">
    <template #note>of {{ recipe?.name }}</template>
    <BFormInput
      v-if="offered.length >= MANY"
      v-model="search"
      class="mb-1"
      type="search"
      placeholder="Search names and tags"
      title="Show only fills whose name or tags hold these words"
      aria-label="Search names and tags of fills"
      data-test="search-fills"
    />
    <div class="fills">
      <button
        v-for="m in fills"
        :key="m.hash"
        type="button"
        class="fill"
        title="Put this into the slot; nothing else changes"
        :class="{ chosen: recipe?.fill?.media === m.hash }"
        :aria-pressed="recipe?.fill?.media === m.hash"
        :data-test="`fill-${m.name}`"
        @click="choose(m.hash)"
      >
        <img v-if="m.state === 'ready'" :src="`/api/media/${m.hash}/proxy/0.jpg`" :alt="''" /><span
          v-else
          class="dim"
          >{{ m.state === 'failed' ? 'failed' : 'reading in ...' }}</span
        >
        <span class="name">{{ m.name }}</span><span class="dim mono"
          >{{ m.probe.width }}x{{ m.probe.height }}{{ m.frameCount > 1 ? `, ${m.frameCount} fr` : ''
          }}{{ recipe?.fill?.versions?.includes(m.hash) ? ', was in' : '' }}</span
        >
      </button>
    </div>
    <p v-if="offered.length === 0" class="dim">The library holds no fill yet. Bring in a picture or a clip.</p>
    <div class="d-flex gap-1 mt-2">
      <BButton
        :variant="recipe?.fill ? 'outline-secondary' : 'primary'"
        title="Add pictures or clips to the library; the last one comes into this slot"
        data-test="bring-in"
        @click="bringIn"
        >Bring in</BButton
      >
      <BButton
        variant="outline-secondary"
        :disabled="!recipe?.fill"
        title="Leave the slot empty"
        data-test="take-fill-out"
        @click="choose(null)"
        >Take out</BButton
      >
    </div>
    <BButton
      class="mt-1 w-100"
      variant="outline-secondary"
      :disabled="!recipe?.fill"
      :pressed="view.placing"
      :title="sentenceOf('place-fill')"
      data-test="place-fill"
      @click="perform('place-fill')"
      ><i class="bi bi-bounding-box" aria-hidden="true" /> Place on the picture</BButton
    >
    <ContentsPart />
    <UploadBox
      v-show="adding"
      ref="box"
      class="mt-2"
      prompt="Drop pictures or clips here"
      :done="arrived"
      @begun="adding = true"
    />
    <TimePart v-if="recipe?.fill" />
    <PlacementPart v-if="recipe?.fill" />
  </BenchSection>
</template>

<style scoped>
.fills {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px;
  max-height: 200px;
  overflow: hidden auto;
}
.fill {
  display: flex;
  flex-direction: column;
  background: var(--ink);
  border: 1px solid var(--line);
  color: var(--text);
  padding: 4px;
  border-radius: 3px;
  text-align: left;
  font-size: 0.75rem;
}
.fill.chosen {
  border-color: var(--brass);
  outline: 1px solid var(--brass);
}
.fill img {
  width: 100%;
  height: 62px;
  object-fit: contain;
  background: #111;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
