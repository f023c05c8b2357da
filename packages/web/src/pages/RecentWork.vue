<script setup lang="ts">
/** What was worked on last, what is running, and what wants a look. */
import { computed, onMounted, onUnmounted, ref, shallowRef } from 'vue';
import { api } from '../api';
import { saidText } from '../notes/standings';
import { agoText } from '../shared/format';
import { useLive } from '../stores/live';
import type { Job, RecentShot, Standing, Told } from '../types';

const live = useLive();
const shots = shallowRef<readonly RecentShot[]>([]);
const verdicts = ref(new Map<number, readonly Told[]>());

/** Verdicts come one after the other, once the list is there: each reads a whole track. */
async function load(): Promise<void> {
  shots.value = await api('GET /shots/recent');
  for (const { id } of shots.value)
    await api('GET /shots/:id/verdicts', { id }).then(
      (v) => verdicts.value.set(id, v),
      () => {},
    );
}

const WORK: Readonly<Record<Job['kind'], string>> = {
  ingest: 'Reading in',
  follow: 'Following',
  deliver: 'Delivering',
  prove: 'Measuring slip',
  camera: 'Solving the camera',
};
const STAGE: Readonly<Record<Job['kind'], string>> = {
  ingest: 'plate',
  follow: 'follow',
  deliver: 'hand-over',
  prove: 'prove',
  camera: 'follow',
};
const shotOf = (j: Job): RecentShot | undefined =>
  shots.value.find((s) => (j.shotId === null ? s.mediaHash === j.mediaHash : s.id === j.shotId));
const running = computed(() => live.running.map((j) => ({ j, shot: shotOf(j) })));

/** Shots that stand so want somebody. */
const ASKING: readonly Standing[] = ['to be looked at', 'once more'];

interface Wish {
  readonly key: string;
  readonly to: string;
  readonly what: string;
  readonly why: string;
}
const ofVerdict = (s: RecentShot, v: Told): Wish => ({
  key: `v${v.id}`,
  to: `/shots/${s.id}/prove?screen=${v.id}`,
  what: `${v.name}, ${s.name}: ${v.word}`,
  why: v.reasons[0] ?? '',
});
const ofPlate = (s: RecentShot): Wish => ({
  key: `m${s.id}`,
  to: `/shots/${s.id}/plate`,
  what: `${s.name}: could not be read in`,
  why: s.mediaProblem ?? '',
});
const ofNotes = (s: RecentShot): Wish => ({
  key: `n${s.id}`,
  to: `/shots/${s.id}/prove?notes=1`,
  what: `${s.name}: ${saidText(s)}`,
  why: '',
});
/** Failed work counts as long as nothing of its kind went well there since. */
function isStillFailed(j: Job): boolean {
  const later = [...live.jobs.values()].filter((o) => o.id > j.id && o.kind === j.kind && o.shotId === j.shotId);
  return j.state === 'failed' && later.length === 0;
}
const wishes = computed((): Wish[] => {
  const failed = [...live.jobs.values()].filter((j) => j.kind !== 'ingest' && isStillFailed(j));
  return [
    ...shots.value.filter((s) => s.mediaState === 'failed').map(ofPlate),
    ...failed.flatMap((j) => {
      const shot = shotOf(j);
      const what = `${shot?.name}: ${WORK[j.kind].toLowerCase()} failed`;
      return shot ? [{ key: `j${j.id}`, to: `/shots/${shot.id}/${STAGE[j.kind]}`, what, why: j.message ?? '' }] : [];
    }),
    ...shots.value.filter((s) => s.openNotes > 0 || ASKING.includes(s.standing)).map(ofNotes),
    ...shots.value.flatMap((s) =>
      (verdicts.value.get(s.id) ?? []).filter((v) => v.word !== 'holds').map((v) => ofVerdict(s, v)),
    ),
  ];
});
const offs = [
  live.on('job', (j) => ['done', 'failed'].includes(j.state) && void load().catch(() => {})),
  live.on('review', () => void load().catch(() => {})),
  live.on('bin', () => void load().catch(() => {})),
];
onMounted(() => void load().catch(() => {}));
onUnmounted(() => offs.forEach((off) => off()));
</script>

<template>
  <section v-if="shots.length > 0" class="recent">
    <div class="lists">
      <section v-if="running.length > 0" data-test="home-running">
        <h2>Running</h2>
        <ul>
          <li v-for="{ j, shot } in running" :key="j.id">
            <RouterLink v-if="shot" :to="`/shots/${shot.id}/${STAGE[j.kind]}`"
              >{{ WORK[j.kind] }}, {{ shot.name }}</RouterLink
            >
            <span v-else>{{ WORK[j.kind] }}</span>
            <span class="dim mono ms-2">{{
              j.state === 'waiting' ? 'waiting' : `${j.framesDone} of ${j.framesTotal}`
            }}</span>
          </li>
        </ul>
      </section>
      <section v-if="wishes.length > 0" data-test="home-wishes">
        <h2>Wants a look</h2>
        <ul>
          <li v-for="w in wishes" :key="w.key">
            <RouterLink :to="w.to">{{ w.what }}</RouterLink>
            <span class="dim d-block">{{ w.why }}</span>
          </li>
        </ul>
      </section>
    </div>
    <section data-test="home-recent">
      <h2>Worked on last</h2>
      <div class="row-of-shots">
        <RouterLink v-for="s in shots" :key="s.id" :to="`/shots/${s.id}/plate`" class="shot">
          <img
            v-if="s.mediaState === 'ready'"
            :src="`/api/media/${s.mediaHash}/proxy/${Math.floor(s.frameCount / 2)}.jpg`"
            alt=""
          />
          <span v-else class="blank dim">{{ s.mediaState === 'failed' ? 'not read in' : 'Reading in ...' }}</span>
          <strong>{{ s.name }}</strong>
          <span class="dim">{{ s.production }}, {{ agoText(s.touched) }}</span>
        </RouterLink>
      </div>
    </section>
  </section>
</template>

<style scoped>
.recent {
  margin-top: 1.4rem;
}
h2 {
  font-size: 1rem;
}
.lists {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 1rem;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  padding: 0.15rem 0;
}
.row-of-shots {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 12px;
}
.shot {
  display: flex;
  flex-direction: column;
  color: var(--text);
  text-decoration: none;
}
.shot img,
.blank {
  width: 100%;
  aspect-ratio: 16 / 9;
  object-fit: contain;
  background: #161616;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.blank {
  display: grid;
  place-items: center;
}
.shot:hover img {
  border-color: var(--brass);
}
</style>
