<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentence } from '../api';
import { countText, rateText } from '../shared/format';
import { useLive } from '../stores/live';
import type { Board, ShotSummary, Told } from '../types';
import { saidText } from '../notes/standings';
import BatchPanel from '../hand-over/BatchPanel.vue';
import NameInPlace from '../shared/NameInPlace.vue';
import DeleteDialog from '../space/DeleteDialog.vue';
import UndoNotice from '../space/UndoNotice.vue';
import type { BinItem } from '../space/use-bin';
import UploadBox from '../upload/UploadBox.vue';
import type { Finished } from '../upload/use-upload';

const route = useRoute();
const live = useLive();
const production = ref<Board | null>(null);
const problem = ref('');
const batch = ref(false);
const id = computed(() => Number(route.params['id']));
async function load(): Promise<void> {
  try {
    production.value = await api('GET /productions/:id', { id: id.value });
    void judge();
  } catch (e) {
    problem.value = sentence(e);
  }
}
async function arrived(f: Finished): Promise<void> {
  if (!f.files && /\.zip$/i.test(f.fileName)) {
    await api('POST /productions/:id/templates', { id: id.value }, { upload: f.upload });
    await load();
    return;
  }
  const name =
    f.fileName
      .replace(/\.[^.]*$/, '')
      .replace(/[._#%-]+/g, ' ')
      .trim()
      .slice(0, 120) || 'New shot';
  await api('POST /productions/:id/shots', { id: id.value }, { name, ...f });
  await load();
}
async function tried(work: () => Promise<unknown>): Promise<void> {
  problem.value = '';
  await work().catch((e: unknown) => (problem.value = sentence(e)));
  await load();
}
const rename = (name: string): Promise<void> => tried(() => api('PUT /productions/:id', { id: id.value }, { name }));
const renameShot = ({ id: shot, revision }: ShotSummary, name: string): Promise<void> =>
  tried(() => api('PUT /shots/:id', { id: shot }, { revision, name }));
const deleted = ref<BinItem | null>(null);
const verdicts = ref(new Map<number, readonly Told[]>());
/** Asked for one after the other, once the board is there: each reads a whole track. */
async function judge(): Promise<void> {
  for (const s of production.value?.shots ?? [])
    if (s.solvedFrames > 0)
      await api('GET /shots/:id/verdicts', { id: s.id }).then(
        (v) => verdicts.value.set(s.id, v),
        () => {},
      );
}
const ingest = (s: ShotSummary) => live.running.find((j) => j.kind === 'ingest' && j.mediaHash === s.mediaHash);
const offs = [
  live.on('media', () => void load()),
  live.on('bin', () => void load()),
  live.on('review', () => void load()),
  live.on('job', (j) => j.state === 'done' && void load()),
];
onMounted(load);
onUnmounted(() => offs.forEach((off) => off()));
</script>

<template>
  <main class="page">
    <p class="mb-1"><RouterLink to="/">Productions</RouterLink></p>
    <div class="d-flex align-items-center mb-3">
      <h1 class="mb-0">
        <NameInPlace v-if="production" :name="production.name" what="the production" :keep="rename" />
        <template v-else>Shot board</template>
      </h1>
      <RouterLink :to="`/productions/${id}/library`" class="ms-auto me-3" data-test="library">Library</RouterLink>
      <RouterLink :to="`/productions/${id}/notes`" class="me-3" data-test="all-notes">Notes</RouterLink>
      <RouterLink :to="`/productions/${id}/deliveries`" class="me-3" data-test="all-deliveries"
        >All deliveries</RouterLink
      >
      <BButton
        v-if="(production?.shots.length ?? 0) > 0"
        variant="outline-secondary"
        title="A delivery for each of several fills in each of several shots"
        data-test="batch-open"
        @click="batch = !batch"
        >{{ batch ? 'Close the batch' : 'Batch of fills ...' }}</BButton
      >
    </div>
    <BatchPanel v-if="batch && production" class="mb-3 batch" :shots="production.shots" />
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <UndoNotice @back="load" />
    <div class="grid">
      <article v-for="s in production?.shots ?? []" :key="s.id" class="shot" :data-test="`shot-${s.id}`">
        <RouterLink :to="`/shots/${s.id}/plate`" class="thumb" :aria-label="`Open ${s.name}`">
          <img
            v-if="s.mediaState === 'ready'"
            :src="`/api/media/${s.mediaHash}/proxy/${Math.floor(s.frameCount / 2)}.jpg`"
            alt=""
          />
          <span v-else-if="s.mediaState === 'failed'" class="weak">{{ s.mediaProblem }}</span>
          <span v-else class="dim" role="status"
            >Reading in {{ ingest(s)?.framesDone ?? 0 }} of {{ ingest(s)?.framesTotal ?? s.frameCount }}</span
          >
        </RouterLink>
        <div class="facts">
          <NameInPlace :name="s.name" :what="s.name" :keep="(n: string) => renameShot(s, n)"
            ><RouterLink :to="`/shots/${s.id}/plate`"
              ><strong>{{ s.name }}</strong></RouterLink
            ></NameInPlace
          >
          <span class="dim mono"
            >{{ s.probe.width }}x{{ s.probe.height }}, {{ rateText(s.probe.frameRate) }} fps,
            {{ s.frameCount }} frames</span
          >
          <span
            v-for="v in verdicts.get(s.id) ?? []"
            :key="v.id"
            class="verdict"
            :class="v.word.replace(' ', '-')"
            :title="v.reasons.join(' ')"
            :data-test="`verdict-${v.id}`"
            ><RouterLink :to="`/shots/${s.id}/prove`">{{ v.name }}: {{ v.word }}</RouterLink></span
          >
          <RouterLink v-if="saidText(s)" :to="`/shots/${s.id}/prove?notes=1`" :data-test="`said-${s.id}`">{{
            saidText(s)
          }}</RouterLink>
          <span class="d-flex"
            ><span
              >{{ countText(s.screens, 'Screen') }}, {{ s.solvedFrames }} frames followed,
              {{ s.deliveries }} delivered</span
            >
            <RouterLink
              v-if="s.solvedFrames > 0"
              :to="`/shots/${s.id}/report`"
              class="ms-auto me-2"
              title="Verdicts, figures and curves on one sheet"
              :data-test="`report-of-${s.id}`"
              >Report</RouterLink
            >
            <BButton
              variant="link"
              class="p-0"
              :class="{ 'ms-auto': s.solvedFrames === 0 }"
              :aria-label="`Delete ${s.name}`"
              @click="deleted = { kind: 'shot', key: s.id, name: s.name }"
              ><i class="bi bi-trash3" /></BButton
          ></span>
        </div>
      </article>
      <UploadBox
        class="new"
        prompt="Bring in a plate: drop a clip, an image sequence, or a template of another Yarlop here"
        :done="arrived"
      />
    </div>
    <DeleteDialog :item="deleted" @close="deleted = null" @done="load" />
  </main>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  gap: 14px;
}
.shot {
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink-raised);
  overflow: hidden;
}
.thumb {
  display: grid;
  place-items: center;
  aspect-ratio: 16 / 9;
  background: #161616;
  text-decoration: none;
  padding: 0;
}
.thumb img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.thumb span {
  padding: 1rem;
}
.facts {
  display: flex;
  flex-direction: column;
  padding: 0.6rem 0.8rem;
}
.facts a {
  color: var(--text);
  text-decoration: none;
}
.batch {
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink-raised);
  padding: 0.8rem;
}
.new {
  display: grid;
  align-content: center;
  min-height: 200px;
}
.verdict::before {
  content: '';
  display: inline-block;
  width: 0.6rem;
  height: 0.6rem;
  margin-right: 0.4rem;
  border-radius: 50%;
  background: var(--text-dim);
}
.verdict.look-again::before {
  background: linear-gradient(90deg, var(--weak) 50%, transparent 50%);
  outline: 1.5px solid var(--weak);
}
.verdict.not-usable::before {
  background: var(--weak);
  border-radius: 1px;
  transform: rotate(45deg);
}
.weak {
  color: var(--weak);
}
</style>
