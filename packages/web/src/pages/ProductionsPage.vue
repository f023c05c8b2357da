<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, sentence } from '../api';
import { bytesText, countText } from '../shared/format';
import DeleteDialog from '../space/DeleteDialog.vue';
import UndoNotice from '../space/UndoNotice.vue';
import type { BinItem } from '../space/use-bin';
import { isShort } from '../space/use-disk';
import type { DiskUse, Production } from '../types';
import { useMe } from '../stores/me';
import NameInPlace from '../shared/NameInPlace.vue';
import RecentWork from './RecentWork.vue';

const me = useMe();
const list = ref<readonly Production[] | null>(null);
const name = ref('');
const problem = ref('');
const router = useRouter();
async function load(): Promise<void> {
  list.value = await api('GET /productions');
}
async function create(): Promise<void> {
  try {
    const p = await api('POST /productions', { name: name.value.trim() });
    await router.push(`/productions/${p.id}`);
  } catch (e) {
    problem.value = sentence(e);
  }
}
async function rename(p: Production, to: string): Promise<void> {
  problem.value = '';
  await api('PUT /productions/:id', { id: p.id }, { name: to }).catch((e: unknown) => (problem.value = sentence(e)));
  await load();
}
const deleted = ref<BinItem | null>(null);
/** Told only where little is left. */
const disk = ref<DiskUse | null>(null);
onMounted(
  () =>
    void api('GET /disk').then(
      (d) => (disk.value = isShort(d) ? d : null),
      () => {},
    ),
);
onMounted(() => load().catch((e: unknown) => (problem.value = sentence(e))));
</script>

<template>
  <main class="page">
    <div class="d-flex align-items-baseline mb-3">
      <h1 class="mb-0"><img src="/mark.svg" alt="" width="28" height="28" class="me-2" />Productions</h1>
      <span v-if="me.person" class="ms-auto me-3 dim" data-test="who">{{ me.person.name }}</span>
      <RouterLink to="/settings" class="me-3" :class="{ 'ms-auto': !me.person }" data-test="settings"
        >Settings</RouterLink
      >
      <RouterLink to="/space" data-test="space">Space and bin</RouterLink>
    </div>
    <BAlert v-if="disk" :model-value="true" variant="warning" data-test="disk-short"
      >Only {{ bytesText(disk.free) }} are free on the disk;
      <RouterLink to="/space">look what takes it up</RouterLink>.</BAlert
    >
    <UndoNotice @back="load" />
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-if="list === null && !problem" class="dim">Loading ...</p>
    <div class="grid">
      <form class="production" @submit.prevent="create">
        <label for="new-name">New production</label>
        <div class="d-flex gap-1">
          <BFormInput id="new-name" v-model="name" maxlength="120" placeholder="Name of the film or campaign" /><BButton
            type="submit"
            variant="primary"
            :disabled="!name.trim()"
            >Create</BButton
          >
        </div>
      </form>
      <article v-for="p in list ?? []" :key="p.id" class="production">
        <NameInPlace :name="p.name" :what="p.name" :keep="(n: string) => rename(p, n)" class="over-name"
          ><RouterLink :to="`/productions/${p.id}`" class="whole"
            ><strong>{{ p.name }}</strong></RouterLink
          ></NameInPlace
        >
        <span class="d-flex dim"
          >{{ countText(p.shots, 'shot') }}
          <BButton
            variant="link"
            class="p-0 ms-auto over"
            :aria-label="`Delete ${p.name}`"
            @click="deleted = { kind: 'production', key: p.id, name: p.name }"
            ><i class="bi bi-trash3" /></BButton
        ></span>
      </article>
    </div>
    <RecentWork />
    <DeleteDialog :item="deleted" @close="deleted = null" @done="load" />
  </main>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 12px;
}
.production {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
  padding: 1rem;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink-raised);
  color: var(--text);
  text-decoration: none;
}
article.production {
  position: relative;
}
article.production:hover {
  border-color: var(--brass);
}
.whole {
  color: var(--text);
  text-decoration: none;
}
/* The whole card opens the production. */
.whole::after {
  content: '';
  position: absolute;
  inset: 0;
}
.over,
.over-name :deep(.pencil),
.over-name :deep(input) {
  position: relative;
  z-index: 1;
}
</style>
