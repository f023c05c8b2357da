<script setup lang="ts">
/**
 * Every saved version of the Screen's recipe, on whatever day; taking one up is an edit like any other, and undone like
 * one.
 */
import { ref, watch } from 'vue';
import { api, sentence } from '../api';
import { useShot } from '../stores/shot';
import type { Revision } from '../types';

const store = useShot();
const open = ref(false);
const list = ref<readonly Revision[] | null>(null);
const problem = ref('');
async function load(): Promise<void> {
  if (!open.value || store.chosenId === null) return;
  try {
    list.value = await api('GET /screens/:id/revisions', { id: store.chosenId });
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
watch(
  () => [open.value, store.chosenId, store.chosen?.revision],
  () => void load(),
);
async function take({ revision }: Revision): Promise<void> {
  if (store.chosenId === null) return;
  try {
    const { recipe } = await api('GET /screens/:id/revisions/:revision', { id: store.chosenId, revision });
    store.edit(`Go back to version ${revision}`, recipe);
  } catch (e) {
    problem.value = sentence(e);
  }
}
const when = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });
</script>

<template>
  <details class="mt-2" data-test="versions" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary title="Every saved step of this Screen; any of them can be taken back">Earlier versions</summary>
    <p v-if="problem" class="weak mt-1 mb-0" role="alert">{{ problem }}</p>
    <p v-else-if="!list" class="dim mt-1 mb-0" role="status">Loading ...</p>
    <ol v-else class="list mt-1">
      <li v-for="r in list" :key="r.revision">
        <span class="mono dim">{{ r.revision }}</span><span class="what" :title="r.step ?? ''">{{
          r.step ?? 'Saved'
        }}</span
        ><span class="dim">{{ when(r.saved) }}</span>
        <BButton
          v-if="r.revision !== store.chosen?.revision"
          variant="link"
          class="p-0"
          :data-test="`version-${r.revision}`"
          :aria-label="`Go back to version ${r.revision}`"
          title="Make this version the newest one; nothing is lost"
          @click="take(r)"
          >Take</BButton
        ><span v-else class="dim">now</span>
      </li>
    </ol>
  </details>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
.list {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 12rem;
  overflow: auto;
  font-size: 0.78rem;
}
.list li {
  display: grid;
  grid-template-columns: 1.6rem 1fr auto 2.2rem;
  gap: 0.4rem;
  align-items: baseline;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.weak {
  color: var(--weak);
}
</style>
