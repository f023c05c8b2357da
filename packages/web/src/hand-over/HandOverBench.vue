<script setup lang="ts">
import { useClipboard } from '@vueuse/core';
import { computed } from 'vue';
import { api } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { bytesText } from '../shared/format';
import UndoNotice from '../space/UndoNotice.vue';
import { useLive } from '../stores/live';
import { useShot } from '../stores/shot';
import type { Delivery } from '../types';
import CameraSection from './CameraSection.vue';
import DataSection from './DataSection.vue';
import DeliveryButtons from './DeliveryButtons.vue';
import ImportSection from './ImportSection.vue';
import PackageSection from './PackageSection.vue';
import PictureSection from './PictureSection.vue';
import QueueSection from './QueueSection.vue';
import TableSection from './TableSection.vue';
import { whatOf } from './formats';
import { useDeliveries } from './use-deliveries';
import { usePace } from './use-pace';
import { useProgress } from './use-progress';
import { durationText, useRates } from './use-rates';

const store = useShot();
const live = useLive();
const { copy } = useClipboard();
const { list, problem, deliver, tried, watched } = useDeliveries();
const revision = computed(() => store.proper.reduce((s, x) => s + x.revision, 0));
const { stateOf, progress } = useProgress();
const pause = (d: Delivery): Promise<void> =>
  tried(async () => void (await api('POST /jobs/:id/pause', { id: d.jobId! })));
const resume = (d: Delivery): Promise<void> =>
  tried(async () => void (await api('POST /jobs/:id/resume', { id: d.jobId! })));
const { learn } = useRates();
const { paceOf } = usePace((job, pace) => {
  const d = list.value.find((x) => x.jobId === job);
  const pixels = (store.shot?.probe.width ?? 0) * (store.shot?.probe.height ?? 0);
  if (d) learn(d.settings.as, (pixels * 1e-6) / pace);
});
/** What follows the count of frames of a delivery that is not over. */
function left(d: Delivery): string {
  const state = stateOf(d);
  if (state !== 'running') return state === 'paused' ? ', paused' : ', waiting';
  const pace = d.jobId === null ? null : paceOf(d.jobId);
  if (pace === null) return '';
  const { done, total } = progress(d);
  return `, ${durationText(pace * (total - done))} left`;
}
watched();
</script>

<template>
  <PictureSection />
  <DataSection />
  <TableSection />
  <CameraSection />
  <PackageSection />
  <p v-if="problem" class="weak" role="alert" data-test="deliver-problem">{{ problem }}</p>
  <QueueSection />
  <BenchSection title="Deliveries">
    <UndoNotice />
    <p v-if="list.length === 0" class="dim">None yet. What you deliver is kept here with its checksum.</p>
    <ul class="list" data-test="deliveries">
      <li v-for="d in list" :key="d.id">
        <div class="d-flex gap-2">
          <strong>{{ whatOf(d.settings) }}</strong><span class="dim"
            >revision {{ d.revision
            }}<template v-if="d.revision !== revision">, <span class="weak">outdated</span></template></span
          >
          <span class="ms-auto d-flex gap-2"><DeliveryButtons :delivery="d" @again="deliver(d.settings)" /></span>
        </div>
        <template v-if="d.sha256">
          <a :href="`/api/deliveries/${d.id}/file`" :download="d.fileName" class="text-break"
            ><i class="bi bi-download" aria-hidden="true" /> {{ d.fileName }}</a
          >
          <span class="dim mono">{{ bytesText(d.bytes ?? 0) }}</span>
          <button type="button" class="sum mono dim" title="Copy the SHA-256 checksum" @click="copy(d.sha256)">
            sha256 {{ d.sha256.slice(0, 16) }}...
          </button>
        </template>
        <template v-else-if="d.state === 'failed'"
          ><span class="weak">{{ d.message }}</span></template
        >
        <template v-else-if="d.state === 'cancelled'"><span class="dim">Cancelled.</span></template>
        <template v-else>
          <BProgress :value="progress(d).done" :max="progress(d).total" class="my-1" />
          <div v-if="d.jobId" class="d-flex gap-1 align-items-center">
            <span class="dim mono">{{ progress(d).done }} of {{ progress(d).total }}{{ left(d) }}</span>
            <BButton
              v-if="stateOf(d) === 'paused'"
              class="ms-auto"
              variant="outline-secondary"
              title="Go on from the last frames that were kept"
              data-test="resume"
              @click="resume(d)"
              >Go on</BButton
            >
            <BButton
              v-else
              class="ms-auto"
              variant="outline-secondary"
              title="Stop for now; what is rendered is kept"
              data-test="pause"
              @click="pause(d)"
              >Pause</BButton
            >
            <BButton
              variant="outline-secondary"
              title="Stop this delivery; nothing of it is kept"
              @click="live.cancel(d.jobId)"
              >Cancel</BButton
            >
          </div>
        </template>
      </li>
    </ul>
  </BenchSection>
  <ImportSection />
</template>

<style scoped>
.list {
  list-style: none;
  padding: 0;
  margin: 0;
}
.list li {
  border-top: 1px solid var(--line);
  padding: 0.4rem 0;
}
.sum {
  background: none;
  border: 0;
  padding: 0;
  display: block;
  font-size: 0.75rem;
}
.weak {
  color: var(--weak);
}
</style>
