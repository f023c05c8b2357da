<script setup lang="ts">
/** Corner data from elsewhere: looked at before it is taken, as a Screen of hand keys. */
import type { Columns } from '@yarlop/core/formats/foreign-table';
import type { FileKind } from '@yarlop/core/formats/foreign-table';
import { fileKind } from '@yarlop/core/formats/foreign-table';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { computed, ref } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import type { BodyOf } from '@yarlop/contracts/routes';
import { api, sentence } from '../api';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import ConventionFields from './ConventionFields.vue';
import { useConventions } from './use-conventions';
import NumberField from '../shared/NumberField.vue';

interface Looked {
  readonly notes: readonly string[];
  readonly header: readonly string[] | null;
  readonly columns: Columns | null;
  readonly found: readonly {
    readonly name: string;
    readonly frames: readonly { readonly frame: number; readonly corners: readonly (readonly [number, number])[] }[];
  }[];
}
const KINDS = [
  { value: 'table', text: 'a table of another program' },
  { value: 'csv', text: 'corners, CSV or TSV of Yarlop' },
  { value: 'json', text: 'track, JSON of Yarlop' },
  { value: 'homography-csv', text: 'homographies, CSV' },
  { value: 'homography-json', text: 'homographies, JSON' },
  { value: 'opencv-yaml', text: 'homographies, OpenCV YAML' },
];
const store = useShot();
const view = useView();
const { conventions } = useConventions();
const kind = ref<FileKind>('table');
const file = ref<{ name: string; text: string } | null>(null);
const first = ref(0);
const columns = ref<Columns | null>(null);
const looked = ref<Looked | null>(null);
const problem = ref('');
const onto = ref<number | ''>('');
const from = ref(0);
const places = computed(() => ['frame', ...CORNER_NAMES.flatMap((c) => [`${c} x`, `${c} y`])]);
/** Eight columns of corners, as {@link column} keeps them. */
type SentColumns = NonNullable<BodyOf<'POST /shots/:id/import'>['columns']>;
const body = (look: boolean): BodyOf<'POST /shots/:id/import'> => ({
  as: kind.value,
  text: file.value!.text,
  look,
  ...(onto.value === '' ? {} : { onto: { screen: onto.value, from: from.value } }),
  ...(kind.value === 'table'
    ? {
        name: file.value!.name.replace(/\.\w+$/, '').slice(0, 100) || 'brought in',
        conventions: conventions.value,
        firstNumber: first.value,
        ...(columns.value ? { columns: columns.value as SentColumns } : {}),
      }
    : {}),
});
async function look(): Promise<void> {
  view.ghosts = [];
  if (!file.value) return;
  try {
    const l = await api('POST /shots/:id/import', { id: store.shot!.id }, body(true));
    looked.value = l;
    problem.value = '';
    columns.value ??= l.columns;
    view.ghosts = l.found.flatMap((s) => s.frames.map((f) => ({ frame: f.frame, corners: f.corners })));
  } catch (e) {
    looked.value = null;
    problem.value = sentence(e);
  }
}
async function take(e: Event): Promise<void> {
  const input = e.target as HTMLInputElement;
  const f = input.files?.[0];
  if (!f) return;
  file.value = { name: f.name, text: await f.text() };
  columns.value = null;
  kind.value = fileKind(file.value.text);
  input.value = '';
  await look();
}
function column(i: number, v: number): void {
  const now = columns.value ?? { frame: -1, corners: new Array<number>(8).fill(0) };
  columns.value =
    i === 0 ? { ...now, frame: v } : { ...now, corners: now.corners.map((c, k) => (k === i - 1 ? v : c)) };
  void look();
}
/** The plate is delivered held still over the working range. */
function reframe(): void {
  from.value = store.shot?.rangeFrom ?? 0;
  void look();
}
async function accept(): Promise<void> {
  try {
    await api('POST /shots/:id/import', { id: store.shot!.id }, body(false));
    await store.open(store.shot!.id);
    drop();
  } catch (e) {
    problem.value = sentence(e);
  }
}
function drop(): void {
  [file.value, looked.value, view.ghosts, problem.value] = [null, null, [], ''];
}
</script>

<template>
  <BenchSection title="Bring a track in">
    <label class="btn btn-outline-secondary btn-sm"
      >Choose a file ...<input
        type="file"
        class="visually-hidden"
        accept=".csv,.tsv,.txt,.json,.yml,.yaml"
        title="Corners or homographies from Yarlop or from another program"
        data-test="import-file"
        @change="take"
    /></label>
    <template v-if="file">
      <p class="mono text-break mb-1 mt-1">{{ file.name }}</p>
      <BFormSelect
        v-model="kind"
        :options="KINDS"
        aria-label="What the file is"
        title="What the file is"
        @update:model-value="look"
      />
      <template v-if="kind === 'table'">
        <label class="d-flex gap-2 mt-1 align-items-center"
          >The plate's first frame is called
          <NumberField
            v-model="first"
            class="first"
            whole
            title="The number that the file gives to frame 0 of the plate"
            @update:model-value="look"
        /></label>
        <ConventionFields @change="look" />
        <div v-if="looked?.header" class="columns">
          <template v-for="(p, i) in places" :key="p"
            ><span>{{ p }}</span
            ><select
              class="form-select"
              :value="i === 0 ? (columns?.frame ?? -1) : (columns?.corners[i - 1] ?? '')"
              :aria-label="`Column of ${p}`"
              :title="`Which column holds ${p}`"
              @change="column(i, Number(($event.target as HTMLSelectElement).value))"
            >
              <option v-if="i === 0" :value="-1">one row a frame</option>
              <option v-for="(h, k) in looked.header" :key="k" :value="k">{{ h }}</option>
            </select></template
          >
        </div>
      </template>
      <template v-if="store.screens.length > 0">
        <BFormSelect
          v-model="onto"
          class="mt-1"
          :options="[
            { value: '', text: 'followed on this plate' },
            ...store.screens.map((s) => ({ value: s.id, text: `followed on it held still by ${s.recipe.name}` })),
          ]"
          aria-label="What it was followed on"
          title="A second run on the plate held still by a Screen: both motions are composed"
          data-test="import-onto"
          @update:model-value="reframe"
        />
        <label v-if="onto !== ''" class="d-flex gap-2 mt-1 align-items-center"
          >whose first picture was frame
          <NumberField
            v-model="from"
            class="first"
            :min="0"
            whole
            title="The first frame of the range in which the plate was delivered held still"
            @update:model-value="look"
        /></label>
      </template>
      <ul v-if="looked?.notes.length" class="notes" data-test="import-notes">
        <li v-for="n in looked.notes" :key="n">{{ n }}</li>
      </ul>
      <p v-if="looked?.found.length" class="mb-1" data-test="import-found">
        {{ looked.found.map((s) => `${s.name}: ${s.frames.length} frames`).join(', ') }}; shown dashed in the picture.
      </p>
      <div class="d-flex gap-1">
        <BButton
          variant="primary"
          :disabled="!looked?.found.length"
          title="Make a Screen of it, every frame a hand key"
          data-test="import-take"
          @click="accept"
          >Take it</BButton
        ><BButton variant="outline-secondary" title="Leave the file alone" @click="drop">Discard</BButton>
      </div>
    </template>
    <p v-if="problem" class="weak mb-0 mt-1" role="alert" data-test="import-problem">{{ problem }}</p>
  </BenchSection>
</template>

<style scoped>
.first {
  width: 5rem;
  padding: 0 0.3rem;
  height: 1.5rem;
}
.columns {
  display: grid;
  grid-template-columns: 3.4rem 1fr 3.4rem 1fr;
  gap: 2px 4px;
  align-items: center;
  font-size: 0.75rem;
  margin-top: 4px;
}
.columns .form-select {
  padding-block: 0;
  font-size: 0.75rem;
}
.notes {
  padding-left: 1.1rem;
  margin: 4px 0;
  color: var(--weak);
  font-size: 0.8125rem;
}
.weak {
  color: var(--weak);
}
</style>
