<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { useClipboard } from '@vueuse/core';
import { api, sentence } from '../api';
import { bytesText } from '../shared/format';
import { useLive } from '../stores/live';
import { useShot } from '../stores/shot';
import type { Delivery } from '../types';

const store = useShot(), live = useLive(), { copy } = useClipboard();
const list = ref<Delivery[]>([]), problem = ref('');
const origin = ref('top-left'), units = ref('pixels'), pixelOrigin = ref('corner');
const NAMES: Record<string, string> = { csv: 'Corners, CSV', json: 'Corners, JSON', mp4: 'Picture, H.264', png: 'Picture, PNG' };
const revision = computed(() => store.screens.reduce((s, x) => s + x.revision, 0));

async function load(): Promise<void> {
  if (store.shot) list.value = await api<Delivery[]>('GET', `/shots/${store.shot.id}/deliveries`);
}
async function deliver(as: string): Promise<void> {
  problem.value = '';
  try {
    await store.save();
    const conventions = as === 'csv' || as === 'json' ? { origin: origin.value, units: units.value, pixelOrigin: pixelOrigin.value } : {};
    await api('POST', `/shots/${store.shot!.id}/deliveries`, { as, ...conventions });
    await load();
  } catch (e) {
    problem.value = sentence(e);
  }
}
async function remove(d: Delivery): Promise<void> {
  await api('DELETE', `/deliveries/${d.id}`).catch((e: unknown) => (problem.value = sentence(e)));
  await load();
}
const off = live.on<{ shotId: number }>('deliveries', (e) => e.shotId === store.shot?.id && void load());
const progress = (d: Delivery): { done: number; total: number } => {
  const j = d.jobId === null ? undefined : live.jobs.get(d.jobId);
  return { done: j?.framesDone ?? d.framesDone, total: Math.max(1, j?.framesTotal ?? d.framesTotal) };
};
onMounted(() => void load().catch((e: unknown) => (problem.value = sentence(e))));
onUnmounted(off);
</script>

<template>
  <BenchSection title="Finished picture">
    <div class="d-flex gap-1">
      <BButton variant="primary" title="The finished picture as one file for viewing and editing" data-test="deliver-mp4" @click="deliver('mp4')">MP4 (H.264)</BButton>
      <BButton variant="outline-secondary" title="The finished picture frame by frame, exact outside the pin" data-test="deliver-png" @click="deliver('png')">PNG sequence</BButton>
    </div>
  </BenchSection>
  <BenchSection title="Corner data">
    <div class="d-flex gap-1 mb-2">
      <BButton variant="outline-secondary" title="The four corners on every frame as a table" data-test="deliver-csv" @click="deliver('csv')">CSV</BButton>
      <BButton variant="outline-secondary" title="The track with matrices, sigma and trust" data-test="deliver-json" @click="deliver('json')">JSON</BButton>
    </div>
    <details>
      <summary title="How coordinates are written into the file, which says so itself">Conventions: {{ origin }}, {{ units }}, whole numbers on pixel {{ pixelOrigin }}s</summary>
      <label class="d-flex gap-2 mt-1">Origin <BFormSelect v-model="origin" title="Where coordinates count from" :options="['top-left', 'bottom-left', 'centre']" /></label>
      <label class="d-flex gap-2 mt-1">Units <BFormSelect v-model="units" title="Pixels, or shares of the picture's width and height" :options="['pixels', 'normalised']" /></label>
      <label class="d-flex gap-2 mt-1">Whole numbers on pixel <BFormSelect v-model="pixelOrigin" title="Whether whole numbers lie on corners or on centres of pixels" :options="['corner', 'centre']" /></label>
    </details>
  </BenchSection>
  <p v-if="problem" class="weak" role="alert" data-test="deliver-problem">{{ problem }}</p>
  <BenchSection title="Deliveries">
    <p v-if="list.length === 0" class="dim">None yet. What you deliver is kept here with its checksum.</p>
    <ul class="list" data-test="deliveries">
      <li v-for="d in list" :key="d.id">
        <div class="d-flex"><strong>{{ NAMES[d.settings.as] ?? d.settings.as }}</strong><span class="dim ms-2">revision {{ d.revision }}<template v-if="d.revision !== revision">, outdated</template></span>
          <BButton variant="link" class="p-0 ms-auto" :aria-label="`Delete ${d.fileName}`" @click="remove(d)"><i class="bi bi-trash3" /></BButton>
        </div>
        <template v-if="d.sha256">
          <a :href="`/api/deliveries/${d.id}/file`" :download="d.fileName" class="text-break"><i class="bi bi-download" /> {{ d.fileName }}</a> <span class="dim mono">{{ bytesText(d.bytes ?? 0) }}</span>
          <button type="button" class="sum mono dim" title="Copy the SHA-256 checksum" @click="copy(d.sha256)">sha256 {{ d.sha256.slice(0, 16) }}...</button>
        </template>
        <template v-else-if="d.state === 'failed'"><span class="weak">{{ d.message }}</span></template>
        <template v-else-if="d.state === 'cancelled'"><span class="dim">Cancelled.</span></template>
        <template v-else>
          <BProgress :value="progress(d).done" :max="progress(d).total" class="my-1" />
          <BButton v-if="d.jobId" variant="outline-secondary" @click="live.cancel(d.jobId)">Cancel</BButton>
        </template>
      </li>
    </ul>
  </BenchSection>
</template>

<style scoped>
.list { list-style: none; padding: 0; margin: 0; }
.list li { border-top: 1px solid var(--line); padding: 0.4rem 0; }
.sum { background: none; border: 0; padding: 0; display: block; font-size: 0.75rem; }
.weak { color: var(--weak); }
summary { color: var(--text-dim); }
</style>
