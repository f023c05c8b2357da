<script setup lang="ts">
/**
 * Deliveries that wait, of all shots, in the order in which they will be rendered: dragged, or moved by the arrow keys.
 */
import Sortable from 'sortablejs';
import { onMounted, onUnmounted, ref, watch } from 'vue';
import { api, sentence } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { useLive } from '../stores/live';
import type { Queued } from '../types';
import { NAMES } from './formats';

const live = useLive();
const waiting = ref<readonly Queued[]>([]);
const problem = ref('');
const list = ref<HTMLElement | null>(null);
/** While a row is dragged the list stands still, whatever begins or ends meanwhile; what came is drawn after the drop. */
let dragged = false;
async function load(): Promise<void> {
  const now = await api('GET /jobs/queue');
  if (!dragged) waiting.value = now;
}
async function order(ids: readonly number[]): Promise<void> {
  try {
    waiting.value = await api('PUT /jobs/queue', { jobs: ids });
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
    await load().catch(() => {});
  }
}
function move(from: number, to: number): void {
  if (from === to || to < 0 || to >= waiting.value.length) return;
  const ids = waiting.value.map((w) => w.id);
  const [id] = ids.splice(from, 1);
  ids.splice(to, 0, id!);
  waiting.value = ids.map((i) => waiting.value.find((w) => w.id === i)!);
  void order(ids);
}
/** The list is drawn anew by what the server says, so the row that was dragged goes back to where it was first. */
function dropped({ oldIndex = 0, newIndex = 0, item, from }: Sortable.SortableEvent): void {
  from.removeChild(item);
  from.insertBefore(item, from.children[oldIndex] ?? null);
  dragged = false;
  if (oldIndex === newIndex) void load().catch(() => {});
  move(oldIndex, newIndex);
}
let sortable: Sortable | null = null;
watch(list, (element) => {
  sortable?.destroy();
  sortable =
    element &&
    Sortable.create(element, { handle: '.grip', animation: 120, onStart: () => (dragged = true), onEnd: dropped });
});
const offs = [
  live.on('queue', () => void load().catch(() => {})),
  live.on('deliveries', () => void load().catch(() => {})),
  live.on('job', (j) => j.kind === 'deliver' && void load().catch(() => {})),
];
onMounted(() => void load().catch((e: unknown) => (problem.value = sentence(e))));
onUnmounted(() => {
  for (const off of offs) off();
  sortable?.destroy();
});
</script>

<template>
  <BenchSection v-if="waiting.length > 1" title="Waiting, next first">
    <p v-if="problem" class="weak mb-1" role="alert">{{ problem }}</p>
    <ol ref="list" class="queue" data-test="queue">
      <li v-for="(w, i) in waiting" :key="w.id" :data-id="w.id">
        <button
          type="button"
          class="grip"
          :aria-label="`${w.fileName}, ${i + 1} of ${waiting.length}; arrow keys move it`"
          title="Drag, or move it by the arrow keys up and down"
          :data-test="`queued-${w.id}`"
          @keydown.up.prevent.stop="move(i, i - 1)"
          @keydown.down.prevent.stop="move(i, i + 1)"
        >
          <i class="bi bi-grip-vertical" aria-hidden="true" />
        </button>
        <span class="text-nowrap">{{ NAMES[w.format] ?? w.format }}</span><span class="name dim" :title="w.fileName">{{
          w.shotName
        }}</span>
      </li>
    </ol>
  </BenchSection>
</template>

<style scoped>
.queue {
  list-style: none;
  padding: 0;
  margin: 0;
}
.queue li {
  display: flex;
  gap: 0.35rem;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 0.15rem 0;
  font-size: 0.8125rem;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.grip {
  background: none;
  border: 0;
  padding: 0;
  color: var(--text-dim);
  cursor: grab;
}
.weak {
  color: var(--weak);
}
</style>
