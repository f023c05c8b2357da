<script setup lang="ts">
/** What takes up the disk, and what was deleted and can be taken back. */
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { api, sentence } from '../api';
import { bytesText, countText, dayText } from '../shared/format';
import { useLive } from '../stores/live';
import DeleteDialog from './DeleteDialog.vue';
import type { Answer } from '@yarlop/contracts/routes';
import type { Binned, DiskUse } from '../types';
import type { BinItem } from './use-bin';
import { useBin } from './use-bin';
import { isShort } from './use-disk';
import { useQuestion } from '../use-question';

const bin = useBin();
const live = useLive();
const disk = ref<DiskUse | null>(null);
const inBin = ref<Answer<'bin'> | null>(null);
const problem = ref('');
const asked = ref<BinItem | null>(null);
async function load(): Promise<void> {
  try {
    [disk.value, inBin.value] = await Promise.all([api('GET /disk'), api('GET /bin')]);
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
const ask = useQuestion();
const whole = (p: DiskUse['productions'][number]): number => p.originals + p.working + p.deliveries;
const largest = computed(() => Math.max(1, ...(disk.value?.productions ?? []).map(whole)));
const share = (bytes: number): string => `${(100 * bytes) / largest.value}%`;
const WHAT = {
  production: 'production',
  shot: 'shot',
  delivery: 'delivery',
  media: 'file',
  table: 'colour table',
} as const;
const DAY = 24 * 3600 * 1000;
const until = (b: Binned): string => dayText(new Date(b.binned).getTime() + (inBin.value?.days ?? 0) * DAY);
async function then(work: Promise<boolean>): Promise<void> {
  await work;
  await load();
}
async function removeNow(b: Binned): Promise<void> {
  const isMeant = await ask({
    title: `Remove "${b.name}" for good?`,
    body: 'Its days in the bin are not over yet. There is no way back.',
    go: 'Remove it for good',
  });
  if (isMeant) await then(bin.remove(b));
}
async function emptyNow(): Promise<void> {
  const count = countText(inBin.value?.all.length ?? 0, 'thing');
  const isMeant = await ask({
    title: 'Empty the bin?',
    body: `The ${count} in it are removed for good. There is no way back.`,
    go: 'Empty the bin',
  });
  if (isMeant) await then(bin.empty());
}
const off = live.on('bin', () => void load());
onMounted(load);
onUnmounted(off);
</script>

<template>
  <main class="page space">
    <p class="mb-1"><RouterLink to="/">Productions</RouterLink></p>
    <h1 class="mb-3">Space and bin</h1>
    <BAlert v-if="problem || bin.problem.value" :model-value="true" variant="warning">{{
      problem || bin.problem.value
    }}</BAlert>
    <p v-if="!disk && !problem" class="dim" role="status">Measuring ...</p>
    <template v-if="disk && inBin">
      <p data-test="free">
        <strong class="mono" :class="{ weak: isShort(disk) }">{{ bytesText(disk.free) }}</strong> free on the disk of
        the data folder<template v-if="isShort(disk)"
          >: short of the {{ bytesText(disk.warnBelow) }} that work wants</template
        >.
      </p>
      <section>
        <h2>By production</h2>
        <table class="use">
          <thead>
            <tr>
              <th>Production</th>
              <th class="bars">
                <span class="key originals" /> plates as they came <span class="key working" /> made for work
                <span class="key delivered" /> deliveries
              </th>
              <th class="text-end">All</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in disk.productions" :key="p.id" :data-test="`use-${p.id}`">
              <td>
                <RouterLink :to="`/productions/${p.id}`">{{ p.name }}</RouterLink>
              </td>
              <td class="bars">
                <span
                  class="bar"
                  role="img"
                  :aria-label="`${bytesText(p.originals)} as they came, ${bytesText(p.working)} made for work, ${bytesText(p.deliveries)} deliveries`"
                  :title="`${bytesText(p.originals)} as they came, ${bytesText(p.working)} made for work, ${bytesText(p.deliveries)} deliveries`"
                  ><span class="originals" :style="{ width: share(p.originals) }" /><span
                    class="working"
                    :style="{ width: share(p.working) }" /><span
                    class="delivered"
                    :style="{ width: share(p.deliveries) }"
                /></span>
              </td>
              <td class="mono text-end">{{ bytesText(whole(p)) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="dim small">A plate that several productions use is counted in each.</p>
      </section>
      <section v-if="disk.unused.length" data-test="unused">
        <h2>Files that nothing uses</h2>
        <ul class="rows">
          <li v-for="u in disk.unused" :key="u.hash">
            <span class="text-break">{{ u.name }}</span><span class="mono dim ms-auto">{{ bytesText(u.bytes) }}</span>
            <BButton
              variant="link"
              class="p-0"
              :aria-label="`Delete ${u.name}`"
              title="Put this file in the bin"
              @click="asked = { kind: 'media', key: u.hash, name: u.name }"
              ><i class="bi bi-trash3"
            /></BButton>
          </li>
        </ul>
      </section>
      <section>
        <h2 class="d-flex align-items-center">
          Bin
          <BButton
            v-if="inBin.all.length"
            class="ms-auto"
            size="sm"
            variant="outline-secondary"
            data-test="empty-bin"
            @click="emptyNow"
            >Empty it, {{ bytesText(disk.bin) }} ...</BButton
          >
        </h2>
        <p v-if="inBin.all.length === 0" class="dim" data-test="bin-empty">
          Nothing was deleted. What is deleted lies here for {{ inBin.days }} days, and can be taken back as it was.
        </p>
        <ul v-else class="rows" data-test="bin">
          <li v-for="b in inBin.all" :key="`${b.kind} ${b.key}`" :data-test="`binned-${b.kind}-${b.key}`">
            <span class="kind dim">{{ WHAT[b.kind] }}</span><span class="text-break"
              >{{ b.name }}<span v-if="b.place" class="dim"> of {{ b.place }}</span></span
            >
            <span class="dim ms-auto">until {{ until(b) }}</span
            ><span class="mono dim size">{{ bytesText(b.bytes) }}</span>
            <BButton variant="link" class="p-0" data-test="out" @click="then(bin.takeOut(b))">Take it back</BButton>
            <BButton
              variant="link"
              class="p-0"
              :aria-label="`Remove ${b.name} for good`"
              title="Remove it for good, now"
              @click="removeNow(b)"
              ><i class="bi bi-x-octagon"
            /></BButton>
          </li>
        </ul>
      </section>
    </template>
    <DeleteDialog :item="asked" @close="asked = null" @done="load" />
  </main>
</template>

<style scoped>
.space section {
  max-width: 1000px;
  margin-top: 1.4rem;
}
.space h2 {
  font-size: 1rem;
}
.use {
  width: 100%;
}
.use th {
  font-weight: 400;
  color: var(--text-dim);
}
.use td,
.use th {
  padding: 0.3rem 0.6rem 0.3rem 0;
  border-top: 1px solid var(--line);
}
.bars {
  width: 60%;
}
.bar {
  display: flex;
  height: 12px;
}
.key {
  display: inline-block;
  width: 0.7rem;
  height: 0.7rem;
  margin-left: 0.8rem;
}
.key:first-child {
  margin-left: 0;
}
.originals {
  background: var(--brass);
}
.working {
  background: color-mix(in srgb, var(--brass) 35%, transparent);
}
.delivered {
  background: var(--text-dim);
}
.rows {
  list-style: none;
  margin: 0;
  padding: 0;
}
.rows li {
  display: flex;
  gap: 0.9rem;
  align-items: baseline;
  border-top: 1px solid var(--line);
  padding: 0.3rem 0;
}
.kind {
  min-width: 6rem;
}
.size {
  min-width: 5rem;
  text-align: right;
}
.weak {
  color: var(--weak);
}
</style>
