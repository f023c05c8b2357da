<script setup lang="ts">
/**
 * Another version of the plate in the old one's place: brought in, laid over the old one, looked at, and only then
 * taken.
 */
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { api, sentence } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { useLive } from '../stores/live';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { FoundPlate } from '../types';
import UploadBox from '../upload/UploadBox.vue';
import type { Finished } from '../upload/use-upload';
import NumberField from '../shared/NumberField.vue';

/** Likeness below which the person is asked to look closely. By trial. */
const ALIKE = 0.8;
/** Lead over the next offset below which the person is asked, too. By trial. */
const TELLING = 0.01;

const store = useShot();
const live = useLive();
const media = useMedia();
const playhead = usePlayhead();
const hash = ref<string | null>(null);
const found = ref<FoundPlate | null>(null);
const offset = ref(0);
const problem = ref('');
const busy = ref(false);
const candidates = computed(() =>
  media.all.filter((m) => m.hash !== store.shot?.mediaHash && m.state === 'ready' && m.frameCount > 1),
);
const own = computed(() => (hash.value === null ? undefined : media.byHash.get(hash.value)));
/** The frame of the new version that shows what the playhead is on; null where it does not go so far. */
const there = computed(() => {
  const n = playhead.frame + offset.value;
  return Number.isInteger(n) && n >= 0 && n < (found.value?.frameCount ?? 0) ? n : null;
});
const kept = computed(() => {
  if (!store.shot || !found.value) return 0;
  return Math.max(
    0,
    Math.min(found.value.frameCount - 1, store.shot.rangeTo + offset.value) -
      Math.max(0, store.shot.rangeFrom + offset.value) +
      1,
  );
});
const when = computed(() =>
  offset.value === 0
    ? 'It begins on the same frame'
    : `It begins ${Math.abs(offset.value)} ${Math.abs(offset.value) === 1 ? 'frame' : 'frames'} ${offset.value > 0 ? 'earlier' : 'later'}`,
);
const doubt = computed(() => {
  if (!found.value) return '';
  if (found.value.likeness < ALIKE) return 'The pictures are hardly alike: is it the same shot?';
  return found.value.margin < TELLING
    ? 'So little moves that the offset cannot be told for sure; compare the two pictures.'
    : '';
});
async function look(): Promise<void> {
  if (hash.value === null || own.value?.state !== 'ready') return;
  busy.value = true;
  try {
    const told = await api('POST /shots/:id/relink', { id: store.shot!.id }, { media: hash.value });
    // Without an offset the server only looks.
    if (!('offset' in told)) return;
    found.value = told;
    offset.value = told.offset;
    problem.value = '';
  } catch (e) {
    [found.value, problem.value] = [null, sentence(e)];
  } finally {
    busy.value = false;
  }
}
async function choose(h: string): Promise<void> {
  [hash.value, found.value] = [h, null];
  await look();
}
async function arrived(f: Finished): Promise<void> {
  const row = await api('POST /media', f);
  await media.load();
  await choose(row.hash);
}
async function take(): Promise<void> {
  if (hash.value === null) return;
  busy.value = true;
  try {
    await store.save();
    await api('POST /shots/:id/relink', { id: store.shot!.id }, { media: hash.value, offset: offset.value });
    // Frames and px of everything on the page have changed: it is opened anew.
    location.reload();
  } catch (e) {
    problem.value = sentence(e);
    busy.value = false;
  }
}
const off = live.on(
  'media',
  (e) =>
    void media
      .load()
      .then(() => (e.hash === hash.value ? look() : undefined))
      .catch(() => {}),
);
onMounted(() => void media.load().catch((e: unknown) => (problem.value = sentence(e))));
onUnmounted(off);
</script>

<template>
  <BenchSection title="Another version of the plate">
    <details data-test="relink">
      <summary
        class="dim"
        title="Regraded, of another size, longer or cut elsewhere: pins, tracks, touch-ups and dress move over to it"
      >
        Regraded, rescaled, longer ...
      </summary>
      <UploadBox class="mt-1" prompt="Drop the new version here" :done="arrived" />
      <BFormSelect
        v-if="candidates.length > 0"
        class="mt-1"
        :model-value="hash ?? ''"
        :options="[
          { value: '', text: 'or take one of the library' },
          ...candidates.map((m) => ({ value: m.hash, text: m.name })),
        ]"
        aria-label="New version of the plate"
        title="A clip that is in the library already"
        data-test="relink-media"
        @update:model-value="$event && choose(String($event))"
      />
      <p v-if="own && own.state !== 'ready'" class="dim mt-1 mb-0" role="status">
        {{ own.state === 'failed' ? own.problem : 'It is being read in.' }}
      </p>
      <p v-if="busy" class="dim mt-1 mb-0" role="status">The two are being laid over each other.</p>
      <template v-if="found && store.shot">
        <div class="pair mt-2">
          <figure>
            <img :src="`/api/media/${store.shot.mediaHash}/proxy/${playhead.frame}.jpg`" alt="The plate as it is" />
            <figcaption class="mono">now, {{ playhead.frame }}</figcaption>
          </figure>
          <figure>
            <img v-if="there !== null" :src="`/api/media/${hash}/proxy/${there}.jpg`" alt="The new version" />
            <figcaption class="mono">{{ there === null ? 'not in the new one' : `new, ${there}` }}</figcaption>
          </figure>
        </div>
        <p class="mb-1 mt-1" data-test="relink-found">
          {{ when }},
          {{ found.scale === 1 ? 'in the same size' : `${Number((100 * found.scale).toFixed(1))} % of the size` }};
          {{ Math.round(100 * found.likeness) }} % alike. {{ kept }} frames of the working range are in it.
        </p>
        <p v-if="doubt" class="weak mb-1" role="alert">{{ doubt }}</p>
        <div class="d-flex gap-1 align-items-center">
          <span class="dim">offset</span
          ><NumberField
            v-model="offset"
            whole
            aria-label="Offset, frames"
            title="Frame of the new version less frame of the old one; the two pictures above show whether it is right"
            data-test="relink-offset"
          />
          <BButton
            class="ms-auto"
            variant="primary"
            :disabled="busy"
            title="Pins, tracks, touch-ups and dress move over; earlier versions of each Screen are kept"
            data-test="relink-take"
            @click="take"
            >Use it</BButton
          >
        </div>
      </template>
      <p v-if="problem" class="weak mt-1 mb-0" role="alert" data-test="relink-problem">{{ problem }}</p>
    </details>
  </BenchSection>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
figure {
  margin: 0;
}
img {
  width: 100%;
  display: block;
}
figcaption {
  font-size: 0.75rem;
  color: var(--text-dim);
}
.form-control {
  width: 5rem;
  padding: 0 0.3rem;
  height: 1.5rem;
}
.weak {
  color: var(--weak);
}
</style>
