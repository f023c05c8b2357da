<script setup lang="ts">
/** Every delivery of a production: what it is, of which shot, whether it is out of date; to download, make again or delete. */
import type { TableFieldRaw } from 'bootstrap-vue-next';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentence } from '../api';
import { bytesText, countText } from '../shared/format';
import UndoNotice from '../space/UndoNotice.vue';
import { useBin } from '../space/use-bin';
import { useLive } from '../stores/live';
import type { ProductionDelivery } from '../types';
import DeliveryButtons from './DeliveryButtons.vue';
import { whatOf } from './formats';
import { useProgress } from './use-progress';

/** A row as the table sorts it. */
interface Row {
  readonly d: ProductionDelivery;
  readonly shot: string;
  readonly what: string;
  readonly made: string;
  readonly state: string;
  readonly bytes: number;
}

const FIELDS: Exclude<TableFieldRaw<Row>, string>[] = [
  { key: 'shot', label: 'Shot', sortable: true },
  { key: 'what', label: 'What', sortable: true },
  { key: 'file', label: 'File' },
  { key: 'bytes', label: 'Size', sortable: true, tdClass: 'mono text-end', thClass: 'text-end' },
  { key: 'state', label: 'State', sortable: true },
  { key: 'made', label: 'Asked for', sortable: true },
  { key: 'do', label: '' },
];

const route = useRoute();
const live = useLive();
const bin = useBin();
const id = computed(() => Number(route.params['id']));
const name = ref('');
const list = ref<readonly ProductionDelivery[] | null>(null);
const problem = ref('');
const search = ref('');
const isOutdatedAlone = ref(false);

async function tried(work: () => Promise<void>): Promise<void> {
  problem.value = '';
  await work().catch((e: unknown) => (problem.value = sentence(e)));
}
async function load(): Promise<void> {
  list.value = await api('GET /productions/:id/deliveries', { id: id.value });
}
const { stateOf, progress } = useProgress();
function standingOf(d: ProductionDelivery): string {
  if (d.sha256) return d.latest === d.revision ? 'up to date' : 'outdated';
  const state = stateOf(d);
  if (state !== 'running') return state;
  const { done, total } = progress(d);
  return `${done} of ${total}`;
}
const rows = computed((): Row[] =>
  (list.value ?? []).map((d) => ({
    d,
    shot: d.shotName,
    what: whatOf(d.settings),
    made: d.created,
    state: standingOf(d),
    bytes: d.bytes ?? 0,
  })),
);
const wanted = computed(() => {
  const text = search.value.trim().toLowerCase();
  return rows.value.filter(
    (r) =>
      (!isOutdatedAlone.value || r.state === 'outdated') &&
      `${r.shot} ${r.what} ${r.d.fileName}`.toLowerCase().includes(text),
  );
});
const outdated = computed(() => rows.value.filter((r) => r.state === 'outdated'));
const again = (d: ProductionDelivery): Promise<void> =>
  tried(async () => {
    await api('POST /shots/:id/deliveries', { id: d.shotId }, d.settings);
    await load();
  });
/** Each of them once, as its shot is now. */
const allAgain = (): Promise<void> =>
  tried(async () => {
    const seen = new Set<string>();
    for (const { d } of outdated.value) {
      const key = `${d.shotId} ${JSON.stringify(d.settings)}`;
      if (!seen.has(key)) await api('POST /shots/:id/deliveries', { id: d.shotId }, d.settings);
      seen.add(key);
    }
    await load();
  });
const offs = [
  live.on('deliveries', () => void load().catch(() => {})),
  live.on('job', (j) => j.kind === 'deliver' && j.state !== 'running' && void load().catch(() => {})),
  live.on('bin', () => void load().catch(() => {})),
];
onMounted(() =>
  tried(async () => {
    name.value = (await api('GET /productions/:id', { id: id.value })).name;
    await load();
  }),
);
onUnmounted(() => offs.forEach((off) => off()));
const when = (time: string): string =>
  new Date(time).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
</script>

<template>
  <main class="page">
    <p class="mb-1">
      <RouterLink to="/">Productions</RouterLink> / <RouterLink :to="`/productions/${id}`">{{ name }}</RouterLink>
    </p>
    <h1 class="mb-3">Deliveries</h1>
    <BAlert v-if="problem || bin.problem.value" :model-value="true" variant="warning">{{
      problem || bin.problem.value
    }}</BAlert>
    <UndoNotice @back="load" />
    <p v-if="list === null && !problem" class="dim" role="status">Loading ...</p>
    <p v-else-if="list?.length === 0" class="dim">
      Nothing was delivered yet. Open a shot and go to Hand over; what is made there is listed here.
    </p>
    <template v-else-if="list">
      <div class="d-flex gap-3 align-items-center mb-2">
        <BFormInput
          v-model="search"
          class="search"
          type="search"
          placeholder="Search shots, formats and files"
          aria-label="Search shots, formats and files"
          data-test="search-deliveries"
        />
        <BFormCheckbox v-model="isOutdatedAlone" data-test="outdated-alone">Only what is outdated</BFormCheckbox>
        <span class="dim">{{ countText(wanted.length, 'delivery', 'deliveries') }}</span>
        <BButton
          v-if="outdated.length > 0"
          class="ms-auto"
          variant="outline-secondary"
          title="Makes each outdated delivery once more, as its shot is now"
          data-test="all-again"
          @click="allAgain"
          >Deliver the outdated again ({{ outdated.length }})</BButton
        >
      </div>
      <BTable
        :items="wanted"
        :fields="FIELDS"
        small
        show-empty
        empty-text="No delivery is like that."
        data-test="all-of-production"
      >
        <template #cell(shot)="{ item }"
          ><RouterLink :to="`/shots/${item.d.shotId}/hand-over`">{{ item.shot }}</RouterLink></template
        >
        <template #cell(file)="{ item }">
          <a
            v-if="item.d.sha256"
            :href="`/api/deliveries/${item.d.id}/file`"
            :download="item.d.fileName"
            class="text-break"
            :title="`SHA-256 ${item.d.sha256}`"
            ><i class="bi bi-download" aria-hidden="true" /> {{ item.d.fileName }}</a
          >
          <span v-else class="dim text-break">{{ item.d.fileName }}</span>
        </template>
        <template #cell(bytes)="{ item }">{{ item.d.bytes === null ? '' : bytesText(item.d.bytes) }}</template>
        <template #cell(state)="{ item }"
          ><span :class="{ weak: ['outdated', 'failed'].includes(item.state) }" :title="item.d.message ?? ''">{{
            item.state
          }}</span></template
        >
        <template #cell(made)="{ item }"
          ><span class="text-nowrap">{{ when(item.made) }}</span></template
        >
        <template #cell(do)="{ item }">
          <span class="d-flex gap-2 justify-content-end">
            <DeliveryButtons :delivery="item.d" @again="again(item.d)" />
          </span>
        </template>
      </BTable>
    </template>
  </main>
</template>

<style scoped>
.search {
  max-width: 22rem;
}
.weak {
  color: var(--weak);
}
</style>
