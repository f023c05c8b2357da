<script setup lang="ts">
/** Content that is made up here: documents of the production, which the slot may show, and new ones. */
import { asLayers } from '@yarlop/core/dress/content/as-layers';
import { coveringPicture } from '@yarlop/core/dress/content/before-layers';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import { newDocument, newLayer } from '@yarlop/core/dress/content/new-layer';
import { keptProportions } from '@yarlop/core/dress/shape/placement';
import type { Quad } from '@yarlop/core/geometry/quad';
import { proportionsOf } from '@yarlop/core/pin/proportions';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api, sentence } from '../api';
import { withPart } from '../edits/use-dress';
import { letters } from '../pictures/letters';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import type { Content, Recipe } from '../types';

const store = useShot();
const media = useMedia();
const route = useRoute();
const router = useRouter();
const contents = shallowRef<readonly Content[]>([]);
const problem = ref('');
const isLoaded = ref(false);
const recipe = computed(() => store.told?.recipe);
const shown = computed(() => contents.value.find((c) => c.id === recipe.value?.fill?.content?.id));
/** Whether the slot shows its document as it stood before. */
const isBehind = computed(() => shown.value && shown.value.revision !== recipe.value?.fill?.content?.revision);
/** What the slot shows that is no document of this production: made up there before, or its document was deleted. */
const inSlot = computed(
  () => (isLoaded.value && !shown.value ? recipe.value?.fill?.made : undefined) as MadeFill | undefined,
);

async function load(): Promise<void> {
  const id = store.shot?.productionId;
  if (id === undefined) return;
  contents.value = await api('GET /productions/:id/contents', { id }).catch((e: unknown) => {
    problem.value = sentence(e);
    return [];
  });
  isLoaded.value = problem.value === '';
}
onMounted(load);

/** The proportions of the chosen Screen's glass. */
function proportions(): number {
  return Number(proportionsOf(recipe.value!.pin as unknown as Quad, store.shot!.probe).toFixed(3));
}

/** The slot shows a document; what was in it stays one of its versions. */
function show({ id, revision, document }: Content): void {
  const { fill, ...rest } = recipe.value!;
  const { media: file, versions = [], made: _made, content: _content, start: _start, ...own } = fill ?? {};
  const before = file ? [...versions.filter((h) => h !== file), file].slice(-50) : versions;
  const next = { ...rest, fill: { ...own, made: document, content: { id, revision }, ...(before.length > 0 ? { versions: before } : {}) } } as unknown as Recipe; // prettier-ignore
  const placement = recipe.value!.dress?.placement
    ? null
    : keptProportions(document.proportions ?? proportions(), proportions());
  store.edit('Show content', placement ? withPart(next, 'placement', placement) : next);
}

async function edit({ id }: Pick<Content, 'id'>): Promise<void> {
  await store.save();
  await router.push({ path: `/contents/${id}`, query: { back: route.path } });
}

/** What is made up in the slot, with the file behind it, in layers. */
async function inLayers(made: MadeFill): Promise<MadeFill> {
  const aspect = proportions();
  const document = asLayers(made, await letters(), aspect);
  const { media: hash, start } = recipe.value!.fill!;
  const probe = media.byHash.get(hash ?? '')?.probe;
  if (!hash || !probe) return document;
  const back = coveringPicture(hash, { picture: probe.width / probe.height, content: aspect });
  return { ...document, layers: [{ ...back, ...(start === undefined ? {} : { start }) }, ...document.layers!] };
}

/** A new document of the Screen's proportions, or one of what is made up in its slot; the slot shows it. */
async function make(): Promise<void> {
  problem.value = '';
  const name = `Content of ${recipe.value!.name}`.slice(0, 120);
  try {
    const firstWords = { ...newLayer('words', ''), y: 0.3 };
    const made = inSlot.value ? await inLayers(inSlot.value) : newDocument(proportions(), [firstWords]);
    const document = made as Content['document'];
    const content = await api('POST /productions/:id/contents', { id: store.shot!.productionId }, { name, document });
    show(content);
    await edit(content);
  } catch (e) {
    problem.value = sentence(e);
  }
}
</script>

<template>
  <div class="mt-2" data-test="contents">
    <p v-if="problem" class="weak">{{ problem }}</p>
    <div v-if="shown" class="d-flex gap-1 align-items-center mb-1">
      <span class="name" :title="`The slot shows ${shown.name}`"
        ><i class="bi bi-layers" aria-hidden="true" /> {{ shown.name }}</span
      >
      <BButton
        v-if="isBehind"
        size="sm"
        variant="outline-secondary"
        title="It shows the content as it stood before; let it show it as it stands now"
        data-test="newest-content"
        @click="show(shown)"
        >Newest</BButton
      >
      <BButton
        size="sm"
        class="ms-auto"
        title="Its layers, words, pictures and keys, on a page of their own; all Screens that show it follow"
        data-test="edit-content"
        @click="edit(shown)"
        >Change it</BButton
      >
    </div>
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        v-for="c in contents.filter((o) => o.id !== shown?.id)"
        :key="c.id"
        size="sm"
        variant="outline-secondary"
        title="Let this slot show it"
        :data-test="`content-${c.name}`"
        @click="show(c)"
        ><i class="bi bi-layers" aria-hidden="true" /> {{ c.name }}</BButton
      >
      <BButton
        size="sm"
        variant="outline-secondary"
        :disabled="!recipe"
        title="Make content up: words, shapes, pictures, a call, a clock, a chat, in layers"
        data-test="make-up"
        @click="make"
        ><i class="bi bi-plus" aria-hidden="true" />
        {{ inSlot ? 'Open what is made up here, in layers' : 'Make up' }}</BButton
      >
    </div>
  </div>
</template>

<style scoped>
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
