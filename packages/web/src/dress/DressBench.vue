<script setup lang="ts">
import BenchSection from '../bench/BenchSection.vue';
import { computed, onMounted, ref } from 'vue';
import { useLive } from '../stores/live';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { api } from '../api';
import type { Media } from '../types';
import UploadBox from '../upload/UploadBox.vue';
import type { Finished } from '../upload/use-upload';

const store = useShot(), media = useMedia(), view = useView(), live = useLive();
const recipe = computed(() => store.chosen?.recipe);
const fills = computed(() => media.all.filter((m) => m.hash !== store.shot?.mediaHash));
const adding = ref(false);
onMounted(() => void media.load());
live.on('media', () => void media.load());

function choose(hash: string | null): void {
  if (!recipe.value) return;
  const { fill, ...rest } = recipe.value;
  void fill;
  store.edit(hash ? 'Choose fill' : 'Take fill out', hash ? { ...rest, fill: { media: hash } } : rest);
}
async function arrived(f: Finished): Promise<void> {
  const m = await api<Media>('POST', '/media', { upload: f.upload, fileName: f.fileName });
  await media.load();
  choose(m.hash);
  adding.value = false;
}
</script>

<template>
  <div v-if="recipe">
    <section>
      <BFormCheckbox v-model="view.plateOnly" switch title="Take the fills away and see the plate (V)">Show the plate alone <kbd>V</kbd></BFormCheckbox>
    </section>
    <BenchSection title="Fill">
      <template #note>of {{ recipe.name }}</template>
      <div class="fills">
        <button v-for="m in fills" :key="m.hash" type="button" class="fill" title="Put this into the slot; nothing else changes" :class="{ chosen: recipe.fill?.media === m.hash }" :aria-pressed="recipe.fill?.media === m.hash" :data-test="`fill-${m.name}`" @click="choose(m.hash)">
          <img v-if="m.state === 'ready'" :src="`/api/media/${m.hash}/proxy/0.jpg`" :alt="''" /><span v-else class="dim">{{ m.state === 'failed' ? 'failed' : 'reading in ...' }}</span>
          <span class="name">{{ m.name }}</span><span class="dim mono">{{ m.probe.width }}x{{ m.probe.height }}{{ m.frameCount > 1 ? `, ${m.frameCount} fr` : '' }}</span>
        </button>
      </div>
      <p v-if="fills.length === 0" class="dim">The library holds no fill yet. Bring in a picture or a clip.</p>
      <div class="d-flex gap-1 mt-2">
        <BButton variant="primary" title="Add a picture or a clip to the library, for this slot" @click="adding = !adding">Bring in a fill</BButton>
        <BButton variant="outline-secondary" :disabled="!recipe.fill" title="Leave the slot empty" @click="choose(null)">Take it out</BButton>
      </div>
      <UploadBox v-if="adding" class="mt-2" prompt="Drop a picture or a clip here" :done="arrived" />
      <p class="dim mt-2 mb-0">The fill is stretched to the pin; turn the picture's long side with the corners' order. A clip starts on the plate's first frame and holds its last picture.</p>
    </BenchSection>
  </div>
  <p v-else class="dim">Drop four corners on a screen first.</p>
</template>

<style scoped>
.fills { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; max-height: 300px; overflow: auto; }
.fill { display: flex; flex-direction: column; background: var(--ink); border: 1px solid var(--line); color: var(--text); padding: 4px; border-radius: 3px; text-align: left; font-size: 0.75rem; }
.fill.chosen { border-color: var(--brass); outline: 1px solid var(--brass); }
.fill img { height: 84px; object-fit: contain; background: #111; }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
