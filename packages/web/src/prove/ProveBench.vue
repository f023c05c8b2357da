<script setup lang="ts">
import { computed } from 'vue';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';

const store = useShot(), tracks = useTracks(), playhead = usePlayhead(), view = useView();
const track = computed(() => (store.chosenId === null ? undefined : tracks.tracks.get(store.chosenId)));
const weakest = computed(() => [...(track.value?.frames.values() ?? [])].sort((a, b) => a.trust - b.trust || b.sigma[0]! - a.sigma[0]!).slice(0, 10));
const bridged = computed(() => [...(track.value?.frames.values() ?? [])].filter((f) => Object.keys(f.evidence).length === 0).length);
const px = (sigma: readonly number[]): string => Math.max(...sigma).toFixed(2);
</script>

<template>
  <section>
    <BFormCheckbox v-model="view.plateOnly" switch data-test="plate-only">Show the plate alone <kbd>V</kbd></BFormCheckbox>
    <p class="dim mt-2 mb-0">Play it. Fine lines that crawl against the bezel are slip, leaning diagonals are shear, rings that breathe are wobble.</p>
  </section>
  <section v-if="track && track.frames.size > 0">
    <h2>Least sure frames</h2>
    <table class="weakest">
      <thead><tr class="dim"><th>Frame</th><th>Trust</th><th>Worst corner</th></tr></thead>
      <tbody>
        <tr v-for="f in weakest" :key="f.frame" :class="{ here: f.frame === playhead.frame }">
          <td><BButton variant="link" class="p-0 mono" @click="playhead.step(f.frame - playhead.frame)">{{ f.frame }}</BButton></td>
          <td class="mono">{{ f.trust.toFixed(2) }}</td><td class="mono">{{ px(f.sigma) }} px</td>
        </tr>
      </tbody>
    </table>
    <p v-if="bridged" class="weak mt-2 mb-0">{{ bridged }} frames are bridged: nothing could be measured on them.</p>
  </section>
  <p v-else class="dim">Nothing is followed yet. Go to Follow and follow the Screen; the card then rides on every frame.</p>
</template>

<style scoped>
.weakest { width: 100%; }
.weakest th { font-weight: 400; font-size: 0.78rem; }
.here { outline: 1px solid var(--brass); }
.weak { color: var(--weak); }
</style>
