<script setup lang="ts">
import { computed } from 'vue';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import { useRecipe } from './use-recipe';

const playhead = usePlayhead(), view = useView(), { track } = useRecipe();
const WORDS: Record<string, string> = { texture: 'picture' };
const frame = computed(() => track.value?.frames.get(playhead.frame));
const resting = computed(() => {
  if (!frame.value) return null;
  const shares = Object.entries(frame.value.evidence);
  if (shares.length === 0) return 'nothing; it is bridged from its neighbours';
  return shares.sort((a, b) => b[1] - a[1]).map(([kind, v]) => `${Math.round(100 * v)} % ${WORDS[kind] ?? kind}`).join(', ');
});
</script>

<template>
  <section v-if="frame" class="frame" data-test="this-frame">
    <h2>This frame</h2>
    <p class="mb-1" data-test="resting">It rests on {{ resting }}.</p>
    <table class="mono">
      <tbody>
        <tr><th scope="row">corners to</th><td>{{ frame.sigma.map((s) => s.toFixed(2)).join(' ') }} px</td></tr>
        <tr><th scope="row">trust</th><td>{{ frame.trust.toFixed(2) }}</td></tr>
        <tr><th scope="row">blur</th><td>{{ (frame.blur ?? 0).toFixed(1) }} px</td></tr>
        <tr><th scope="row">shutter open</th><td>{{ track?.shutter ? `${Math.round(360 * track.shutter.share)} degrees` : 'not known yet' }}</td></tr>
        <tr><th scope="row">lens bows by</th><td>{{ track?.lens ? track.lens.toFixed(4) : 'nothing' }}</td></tr>
      </tbody>
    </table>
    <BFormCheckbox v-model="view.cells" switch class="mt-1" data-test="show-cells">Show what it was followed by <kbd>T</kbd></BFormCheckbox>
  </section>
</template>

<style scoped>
th { font-weight: 400; font-family: 'IBM Plex Sans', sans-serif; color: var(--text-dim); padding-right: 0.8rem; white-space: nowrap; }
</style>
