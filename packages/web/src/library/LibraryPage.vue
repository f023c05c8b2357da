<script setup lang="ts">
/** All files of a production: plates and fills, searched, tagged, renamed, replaced, deleted, several at once. */
import { computed, onMounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentence } from '../api';
import { countText } from '../shared/format';
import type { LibraryItem } from '../types';
import UploadBox from '../upload/UploadBox.vue';
import type { Finished } from '../upload/use-upload';
import ContentsList from './ContentsList.vue';
import LibraryCard from './LibraryCard.vue';
import { KINDS, ORDERS, listed, tagsOf } from './choose-files';
import type { Kind, Order } from './choose-files';
import { useLibrary } from './use-library';

const route = useRoute();
const id = Number(route.params['id']);
const library = useLibrary(id);
const { files, problem, done } = library;
const name = ref('');
const text = ref('');
const kind = ref<Kind>('all');
const tag = ref<string | null>(null);
const order = ref<Order>('added');
const chosen = ref(new Set<string>());
const word = ref('');
const target = ref('');

const shown = computed(() =>
  listed(files.value ?? [], { text: text.value, kind: kind.value, tag: tag.value, order: order.value }),
);
const tags = computed(() => tagsOf(files.value ?? []));
/** Chosen ones that are not shown any more are not meant. */
const meant = computed(() => shown.value.filter((m) => chosen.value.has(m.hash)));
const given = computed(() => tagsOf(meant.value));
const others = computed(() =>
  (files.value ?? []).filter((m) => m.hash !== meant.value[0]?.hash && m.state !== 'failed'),
);

function choose(m: LibraryItem, isChosen: boolean): void {
  const next = new Set(chosen.value);
  if (isChosen) next.add(m.hash);
  else next.delete(m.hash);
  chosen.value = next;
}
const chooseAll = (isAll: boolean): void => void (chosen.value = new Set(isAll ? shown.value.map((m) => m.hash) : []));
async function giveTag(): Promise<void> {
  const own = word.value.replaceAll(',', ' ').trim();
  if (!own) return;
  await library.tag(meant.value, own, true);
  word.value = '';
}
async function replace(): Promise<void> {
  const [from] = meant.value;
  const to = files.value?.find((m) => m.hash === target.value);
  if (from && to) await library.replace(from, to);
  target.value = '';
}
async function remove(): Promise<void> {
  await library.remove(meant.value);
  chooseAll(false);
}
async function arrived(f: Finished): Promise<void> {
  await api('POST /media', { ...f, production: id });
  await library.load();
}
onMounted(() =>
  api('GET /productions/:id', { id }).then(
    (p) => (name.value = p.name),
    (e: unknown) => (problem.value = sentence(e)),
  ),
);
</script>

<template>
  <main class="page">
    <p class="mb-1">
      <RouterLink to="/">Productions</RouterLink> / <RouterLink :to="`/productions/${id}`">{{ name }}</RouterLink>
    </p>
    <h1 class="mb-3">Library</h1>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-if="done" class="undo-note" role="status" data-test="library-done">
      <span>{{ done.said }}</span>
      <BButton variant="link" class="p-0" data-test="library-back" @click="library.takeBack()">Take it back</BButton>
      <button type="button" class="btn-close ms-auto" aria-label="Close this note" @click="done = null" />
    </p>
    <div class="d-flex gap-2 align-items-center mb-2 flex-wrap">
      <BFormInput
        v-model="text"
        class="search"
        type="search"
        placeholder="Search names, tags, shots and Screens"
        aria-label="Search names, tags, shots and Screens"
        data-test="search-library"
      />
      <BFormSelect v-model="kind" class="short" :options="[...KINDS]" aria-label="Kind" data-test="library-kind" />
      <BFormSelect v-model="order" class="short" :options="[...ORDERS]" aria-label="Order" data-test="library-order" />
      <span class="dim">{{ countText(shown.length, 'file') }}</span>
    </div>
    <div v-if="tags.length > 0" class="d-flex gap-1 flex-wrap mb-2" role="group" aria-label="Tags">
      <span class="dim align-self-center me-1">Tagged</span>
      <BButton
        v-for="t in tags"
        :key="t"
        variant="outline-secondary"
        :pressed="tag === t"
        :data-test="`tag-${t}`"
        @click="tag = tag === t ? null : t"
        >{{ t }}</BButton
      >
    </div>
    <div class="bar mb-3" data-test="library-bar">
      <BFormCheckbox
        :model-value="shown.length > 0 && meant.length === shown.length"
        :indeterminate="meant.length > 0 && meant.length < shown.length"
        data-test="choose-all"
        @update:model-value="chooseAll($event === true)"
        >{{ meant.length > 0 ? `${meant.length} chosen` : 'Choose all' }}</BFormCheckbox
      >
      <template v-if="meant.length > 0">
        <form class="d-flex gap-1" @submit.prevent="giveTag">
          <BFormInput
            v-model="word"
            class="word"
            maxlength="40"
            placeholder="New tag"
            aria-label="Tag for the chosen files"
            list="known-tags"
            data-test="tag-word"
          />
          <datalist id="known-tags"><option v-for="t in tags" :key="t" :value="t" /></datalist>
          <BButton type="submit" variant="outline-secondary" :disabled="!word.trim()" data-test="give-tag">Tag</BButton>
        </form>
        <BButton
          v-for="t in given"
          :key="t"
          variant="outline-secondary"
          :title="`Take the tag ${t} from the chosen files`"
          @click="library.tag(meant, t, false)"
          >{{ t }} <i class="bi bi-x" aria-hidden="true"
        /></BButton>
        <template v-if="meant.length === 1 && meant[0]!.shownBy.length > 0">
          <BFormSelect v-model="target" class="target" aria-label="File that takes its place" data-test="replace-by">
            <option value="">Replace everywhere by ...</option>
            <option v-for="m in others" :key="m.hash" :value="m.hash">{{ m.name }}</option>
          </BFormSelect>
          <BButton
            v-if="target"
            variant="primary"
            :title="`On ${countText(meant[0]!.shownBy.length, 'Screen')} of this production`"
            data-test="replace-go"
            @click="replace"
            >Replace on {{ countText(meant[0]!.shownBy.length, 'Screen') }}</BButton
          >
        </template>
        <BButton
          class="ms-auto"
          variant="outline-secondary"
          title="Into the bin, for 14 days; what is used stays, and is named"
          data-test="delete-files"
          @click="remove"
          ><i class="bi bi-trash3" aria-hidden="true" /> Delete</BButton
        >
      </template>
    </div>
    <p v-if="files === null && !problem" class="dim" role="status">Loading ...</p>
    <div class="grid">
      <LibraryCard
        v-for="m in shown"
        :key="m.hash"
        :item="m"
        :is-chosen="chosen.has(m.hash)"
        :rename="(n: string) => library.rename(m, n)"
        @choose="choose(m, $event)"
        @tag="tag = $event"
      />
      <UploadBox class="new" prompt="Bring in fills: pictures, clips, sequences" :done="arrived" />
    </div>
    <p v-if="files && files.length > 0 && shown.length === 0" class="dim mt-3">
      No file is like that.
      <BButton variant="link" class="p-0" @click="[text, kind, tag] = ['', 'all', null]">Show all</BButton>
    </p>
    <ContentsList :production="id" />
  </main>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 12px;
  align-items: start;
}
.search {
  max-width: 22rem;
}
.short {
  width: auto;
}
.word {
  width: 9rem;
}
.target {
  width: 15rem;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
  min-height: 2.2rem;
}
.new {
  display: grid;
  align-content: center;
  min-height: 160px;
}
</style>
