<script setup lang="ts">
/** A shot's report on one sheet: the plate, each Screen's verdict, figures and curves, what was delivered. */
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentence } from '../api';
import { bytesText, countText, rateText, timecodeOf } from '../shared/format';
import { whatOf } from '../hand-over/formats';
import { useProofs } from '../stores/proofs';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Delivery } from '../types';
import { aboutText, standingText } from '../notes/standings';
import ReportCharts from './ReportCharts.vue';
import { figuresOf, placeText } from './figures';

const route = useRoute();
const store = useShot();
const review = useReview();
const tracks = useTracks();
const proofs = useProofs();
const id = Number(route.params['id']);
const problem = ref('');
const isThere = ref(false);
const production = ref('');
const deliveries = shallowRef<readonly Delivery[]>([]);
const made = new Date().toLocaleString(undefined, { dateStyle: 'long', timeStyle: 'short' });

async function load(): Promise<void> {
  await store.open(id);
  await review.load(id);
  await Promise.all(store.proper.flatMap((s) => [tracks.load(s.id), proofs.load(s.id)]));
  production.value = (await api('GET /productions/:id', { id: store.shot!.productionId })).name;
  deliveries.value = (await api('GET /shots/:id/deliveries', { id })).filter((d) => d.sha256);
  isThere.value = true;
}
onMounted(() => load().catch((e: unknown) => (problem.value = sentence(e))));

const plate = computed(() => {
  const s = store.shot!;
  const { probe } = s;
  const start = timecodeOf(0, probe);
  return [
    ['File', s.mediaName],
    ['Picture', `${probe.width} x ${probe.height} px, ${rateText(probe.frameRate)} frames/s`],
    ['The shot is', standingText(review.standing)],
    ['Frames', `${s.frameCount}, working range ${s.rangeFrom} to ${s.rangeTo}`],
    ...(start ? [['Timecode of the first frame', start]] : []),
  ];
});
const reports = computed(() =>
  store.proper.map((screen) => ({
    screen,
    verdict: proofs.verdict(screen),
    figures: figuresOf({
      frames: [...(tracks.tracks.get(screen.id)?.frames.values() ?? [])],
      ranking: proofs.ranking(screen),
      scale: 1920 / store.shot!.probe.width,
    }),
  })),
);
const print = (): void => window.print();
</script>

<template>
  <main class="page">
    <p class="mb-2 bar">
      <RouterLink to="/">Productions</RouterLink> /
      <RouterLink v-if="store.shot" :to="`/productions/${store.shot.productionId}`">{{ production }}</RouterLink> /
      <RouterLink :to="`/shots/${id}/prove`">{{ store.shot?.name }}</RouterLink>
      <BButton
        v-if="isThere"
        class="ms-auto"
        variant="outline-secondary"
        title="On paper or as a PDF, as the browser offers it"
        data-test="print"
        @click="print"
        ><i class="bi bi-printer" aria-hidden="true" /> Print</BButton
      >
    </p>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-else-if="!isThere" class="dim" role="status">Loading ...</p>
    <article v-if="isThere && store.shot" class="sheet" data-bs-theme="light" data-test="report">
      <header>
        <div>
          <h1>{{ store.shot.name }}</h1>
          <p class="dim mb-2">{{ production }}, {{ made }}</p>
          <dl>
            <template v-for="[k, v] in plate" :key="k"
              ><dt>{{ k }}</dt>
              <dd>{{ v }}</dd></template
            >
          </dl>
        </div>
        <img :src="`/api/media/${store.shot.mediaHash}/proxy/${store.shot.rangeFrom}.jpg`" alt="First frame" />
      </header>
      <p v-if="store.proper.length === 0">No Screen was set on this shot yet.</p>
      <section v-for="{ screen, verdict, figures } in reports" :key="screen.id" :data-test="`report-${screen.id}`">
        <h2>
          {{ screen.recipe.name }}
          <small v-if="figures.frames > 0" data-test="report-verdict">{{ verdict.word }}</small>
        </h2>
        <p v-if="figures.frames === 0" class="dim">Not followed yet.</p>
        <template v-else>
          <ul v-if="verdict.reasons.length > 0" class="reasons">
            <li v-for="r in verdict.reasons" :key="r">{{ r }}</li>
          </ul>
          <dl class="figures">
            <template v-for="f in figures.told" :key="f.what"
              ><dt>{{ f.what }}</dt>
              <dd class="mono">{{ f.value }}</dd></template
            >
          </dl>
          <p v-if="figures.worst.length > 0" class="mb-2">
            Where to look:
            <template v-for="(w, i) in figures.worst" :key="w.why + w.from"
              ><template v-if="i > 0">, </template>{{ placeText(w) }} ({{ w.why }})</template
            >.
          </p>
          <ReportCharts :screen="screen" />
        </template>
      </section>
      <section v-if="review.notes.length > 0" data-test="report-notes">
        <h2>Notes</h2>
        <table class="table table-sm">
          <thead>
            <tr>
              <th>Frames</th>
              <th>About</th>
              <th>Note</th>
              <th>By</th>
              <th>State</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="n in review.notes" :key="n.id">
              <td class="mono">{{ n.from === n.to ? n.from : `${n.from} to ${n.to}` }}</td>
              <td>{{ aboutText(n, store.screens) }}</td>
              <td class="words">{{ n.words }}</td>
              <td>{{ n.author }}</td>
              <td>{{ n.state }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section v-if="deliveries.length > 0">
        <h2>Delivered</h2>
        <table class="table table-sm">
          <thead>
            <tr>
              <th>What</th>
              <th>File</th>
              <th class="text-end">Size</th>
              <th>SHA-256</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in deliveries" :key="d.id">
              <td>{{ whatOf(d.settings) }}</td>
              <td class="text-break">{{ d.fileName }}</td>
              <td class="mono text-end">{{ bytesText(d.bytes ?? 0) }}</td>
              <td class="mono">{{ d.sha256!.slice(0, 16) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <footer class="dim">
        {{ countText(store.proper.length, 'Screen') }}; px as at 1920 wide unless a place is told. Slip is measured
        against the Screen's own likeness on the reference frame; what could not be compared is left out.
      </footer>
    </article>
  </main>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
.sheet {
  max-width: 1080px;
  margin: 0 auto;
  padding: 1.6rem 2rem;
  background: #fffdf7;
  color: var(--text);
  border-radius: 2px;
}
header {
  display: flex;
  gap: 1.5rem;
  justify-content: space-between;
}
header img {
  width: 300px;
  align-self: start;
}
h1 {
  font-size: 1.6rem;
}
h2 {
  color: var(--text);
  font-size: 1.15rem;
  border-top: 1px solid var(--line);
  padding-top: 0.7rem;
  margin-top: 1.1rem;
  break-after: avoid;
}
h2 small {
  border: 1px solid var(--text);
  border-radius: 2px;
  font-size: 0.85rem;
  padding: 0.05rem 0.5rem;
  margin-left: 0.6rem;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0.1rem 1rem;
  margin-bottom: 0.5rem;
}
dl.figures {
  grid-template-columns: repeat(3, max-content 1fr);
}
dt {
  font-weight: 400;
  color: var(--text-dim);
}
dd {
  margin: 0;
}
.reasons {
  margin-bottom: 0.5rem;
}
footer {
  border-top: 1px solid var(--line);
  margin-top: 1rem;
  padding-top: 0.5rem;
  font-size: 0.8rem;
}
@media print {
  .bar {
    display: none;
  }
  .sheet {
    max-width: none;
    padding: 0;
    background: #fff;
  }
}
</style>
