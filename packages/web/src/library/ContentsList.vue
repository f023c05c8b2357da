<script setup lang="ts">
/** Made-up content of a production: opened, copied, deleted; where it is shown. */
import { newDocument } from '@yarlop/core/dress/content/new-layer';
import { onMounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { api, sentence } from '../api';
import { countText } from '../shared/format';
import type { Content } from '../types';

const props = defineProps<{ production: number }>();
const router = useRouter();
const contents = shallowRef<readonly Content[]>([]);
const problem = ref('');
/** the one that was deleted last: it can be had back */
const deleted = shallowRef<Content | null>(null);

async function tried(work: () => Promise<unknown>): Promise<void> {
  problem.value = '';
  try {
    await work();
    contents.value = await api('GET /productions/:id/contents', { id: props.production });
  } catch (e) {
    problem.value = sentence(e);
  }
}
/** Width by height of content that is made for no Screen yet: about a laptop's. */
const USUAL_PROPORTIONS = 1.6;
const add = ({ name, document }: Pick<Content, 'name' | 'document'>) =>
  api('POST /productions/:id/contents', { id: props.production }, { name, document } as never);
async function make(): Promise<void> {
  await tried(async () => {
    const document = newDocument(USUAL_PROPORTIONS, []) as Content['document'];
    const { id } = await add({ name: 'New content', document });
    await router.push(`/contents/${id}`);
  });
}
const copy = (c: Content): Promise<void> => tried(() => add({ ...c, name: `Copy of ${c.name}`.slice(0, 120) }));
async function remove(c: Content): Promise<void> {
  await tried(() => api('DELETE /contents/:id', { id: c.id }));
  deleted.value = c;
}
async function bringBack(): Promise<void> {
  const c = deleted.value!;
  deleted.value = null;
  await tried(() => add(c));
}
const screensOf = ({ shownBy }: Content): string => shownBy.map((s) => `${s.name} (${s.shotName})`).join(', ');
onMounted(() => tried(async () => {}));
</script>

<template>
  <section class="mt-4" aria-label="Made-up content" data-test="contents-list">
    <div class="d-flex gap-2 align-items-center mb-2">
      <h2 class="m-0">Made-up content</h2>
      <BButton
        size="sm"
        variant="outline-secondary"
        title="Words, shapes, pictures and pieces in layers, for any Screen"
        @click="make"
        >New</BButton
      >
    </div>
    <p v-if="problem" class="weak">{{ problem }}</p>
    <p v-if="deleted" class="undo-note" role="status">
      <span>"{{ deleted.name }}" was deleted; Screens keep what they show.</span>
      <BButton variant="link" class="p-0" data-test="content-bring-back" @click="bringBack">Bring it back</BButton>
    </p>
    <p v-if="contents.length === 0" class="dim">
      None yet. What is made up here, or in a shot's Dress, can be shown by several Screens.
    </p>
    <ul>
      <li v-for="c in contents" :key="c.id" :data-test="`listed-content-${c.id}`">
        <RouterLink :to="`/contents/${c.id}`" title="Open its layers">{{ c.name }}</RouterLink>
        <span class="dim" :title="screensOf(c)">{{
          c.shownBy.length > 0 ? `on ${countText(c.shownBy.length, 'Screen')}` : 'on no Screen'
        }}</span>
        <BButton size="sm" variant="outline-secondary" title="One more like it, of its own" @click="copy(c)"
          >Copy</BButton
        ><BButton
          size="sm"
          variant="outline-secondary"
          title="Delete it; Screens keep what they show"
          @click="remove(c)"
          >Delete</BButton
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 22rem) 8rem auto auto;
  justify-content: start;
  gap: 0.75rem;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
h2 {
  font-size: 1rem;
}
</style>
