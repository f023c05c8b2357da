<script setup lang="ts">
/** Every note of a production, over all its shots. */
import { computed, onMounted, onUnmounted, ref, shallowRef } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentence } from '../api';
import { agoText, countText } from '../shared/format';
import { useLive } from '../stores/live';
import type { NoteState, ProductionNote } from '../types';
import { STATES } from './standings';

const route = useRoute();
const live = useLive();
const id = Number(route.params['id']);
const production = ref('');
const notes = shallowRef<readonly ProductionNote[] | null>(null);
const problem = ref('');
const search = ref('');
const state = ref<NoteState | 'all'>('open');
const CHOICES = [...STATES, { value: 'all', text: 'all' }];

async function load(): Promise<void> {
  try {
    notes.value = await api('GET /productions/:id/review', { id });
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
onMounted(async () => {
  await load();
  await api('GET /productions/:id', { id }).then(
    (p) => (production.value = p.name),
    () => {},
  );
});
onUnmounted(live.on('review', () => void load()));

const shown = computed(() => {
  const text = search.value.trim().toLowerCase();
  return (notes.value ?? []).filter(
    (n) =>
      (state.value === 'all' || n.state === state.value) &&
      [n.words, n.author, n.shotName].join(' ').toLowerCase().includes(text),
  );
});
/** Notes by shot, the shot with the latest note first. */
const shots = computed(() => {
  const by = new Map<number, ProductionNote[]>();
  for (const n of shown.value) by.set(n.shotId, [...(by.get(n.shotId) ?? []), n]);
  return [...by.values()].map((all) => ({ shot: all[0]!, notes: [...all].sort((a, b) => a.from - b.from) }));
});
async function change(n: ProductionNote, now: NoteState): Promise<void> {
  await api('PUT /review/:id', { id: n.id }, { state: now }).catch((e: unknown) => (problem.value = sentence(e)));
  await load();
}
</script>

<template>
  <main class="page">
    <p class="mb-1">
      <RouterLink to="/">Productions</RouterLink> /
      <RouterLink :to="`/productions/${id}`">{{ production || 'Shot board' }}</RouterLink>
    </p>
    <h1>Notes</h1>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <div class="d-flex gap-2 mb-3">
      <BFormInput
        v-model="search"
        class="search"
        type="search"
        placeholder="Look for words, people, shots"
        aria-label="Look for notes"
        title="Words, people and shots"
        data-test="notes-search"
      />
      <BFormSelect
        v-model="state"
        class="of-state"
        :options="CHOICES"
        aria-label="Which notes"
        title="Which notes are listed"
        data-test="notes-state"
      />
      <span class="dim ms-auto align-self-center" role="status" data-test="notes-count">{{
        notes ? countText(shown.length, 'note') : ''
      }}</span>
    </div>
    <p v-if="notes === null && !problem" class="dim" role="status">Loading ...</p>
    <p v-else-if="notes?.length === 0" class="dim" data-test="notes-none">
      Nothing was said of any shot yet. Open a shot and press <kbd>8</kbd> to say something of a frame.
    </p>
    <p v-else-if="shown.length === 0" class="dim">No note is like that.</p>
    <section v-for="s in shots" :key="s.shot.shotId" class="mb-4">
      <h2>
        <RouterLink :to="`/shots/${s.shot.shotId}/prove?notes=1`">{{ s.shot.shotName }}</RouterLink>
      </h2>
      <article v-for="n in s.notes" :key="n.id" class="line" :class="n.state" :data-test="`line-${n.id}`">
        <RouterLink :to="`/shots/${n.shotId}/prove?notes=1&frame=${n.from}`" title="Open the shot there">
          <img :src="`/api/media/${n.mediaHash}/proxy/${n.from}.jpg`" alt="" loading="lazy" />
          <span class="mono">{{ n.from === n.to ? n.from : `${n.from} to ${n.to}` }}</span>
        </RouterLink>
        <div class="what">
          <p class="words">{{ n.words }}</p>
          <p class="dim mb-0">{{ n.author }}, {{ agoText(n.created) }}</p>
        </div>
        <BFormSelect
          class="of-state"
          :model-value="n.state"
          :options="STATES"
          :aria-label="`State of the note on ${n.shotName}, frame ${n.from}`"
          title="What has become of the note"
          data-test="line-state"
          @update:model-value="change(n, $event as NoteState)"
        />
      </article>
    </section>
  </main>
</template>

<style scoped>
.search {
  width: 20rem;
}
.of-state {
  width: 9rem;
  align-self: start;
}
.line {
  display: flex;
  gap: 1rem;
  border-top: 1px solid var(--line);
  padding: 0.5rem 0;
}
.line a {
  display: flex;
  flex-direction: column;
  width: 128px;
}
.line img {
  width: 128px;
  aspect-ratio: 16 / 9;
  object-fit: contain;
  background: #161616;
}
.what {
  flex: 1;
  min-width: 0;
}
.words {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.done .words,
.approved .words {
  color: var(--text-dim);
}
</style>
