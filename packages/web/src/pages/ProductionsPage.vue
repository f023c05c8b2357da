<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, sentence } from '../api';
import type { Production } from '../types';

const list = ref<Production[] | null>(null);
const name = ref('');
const problem = ref('');
const router = useRouter();
async function load(): Promise<void> {
  list.value = await api<Production[]>('GET', '/productions');
}
async function create(): Promise<void> {
  try {
    const p = await api<Production>('POST', '/productions', { name: name.value.trim() });
    await router.push(`/productions/${p.id}`);
  } catch (e) {
    problem.value = sentence(e);
  }
}
onMounted(() => load().catch((e: unknown) => (problem.value = sentence(e))));
</script>

<template>
  <main class="page">
    <h1 class="mb-3"><img src="/mark.svg" alt="" width="28" height="28" class="me-2" />Productions</h1>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-if="list === null && !problem" class="dim">Loading ...</p>
    <div class="grid">
      <RouterLink v-for="p in list ?? []" :key="p.id" :to="`/productions/${p.id}`" class="production">
        <strong>{{ p.name }}</strong><span class="dim">{{ p.shots }} {{ p.shots === 1 ? 'shot' : 'shots' }}</span>
      </RouterLink>
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
    </div>
  </main>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 12px;
  max-width: 1100px;
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
a.production:hover {
  border-color: var(--brass);
}
</style>
