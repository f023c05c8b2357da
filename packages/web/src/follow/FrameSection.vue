<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import BenchSection from '../bench/BenchSection.vue';
import { computed } from 'vue';
import { EVIDENCE_KINDS } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import { useRecipe } from '../edits/use-recipe';

const playhead = usePlayhead();
const view = useView();
const { track } = useRecipe();
const frame = computed(() => track.value?.frames.get(playhead.frame));
const resting = computed(() => {
  if (!frame.value) return null;
  return EVIDENCE_KINDS.flatMap((kind) =>
    frame.value!.evidence[kind]
      ? [{ kind, text: `${Math.round(100 * frame.value!.evidence[kind])} % ${WORDS[kind]}` }]
      : [],
  );
});
const WORDS = { texture: 'picture', edges: 'edges', spots: 'spots', hand: 'hand', scene: 'scene' } as const;
</script>

<template>
  <BenchSection v-if="frame" class="frame" data-test="this-frame" title="This frame">
    <p class="mb-1" data-test="resting">
      It rests on <template v-if="resting?.length === 0">nothing; it is bridged from its neighbours</template>
      <span v-for="(r, i) in resting" :key="r.kind"
        ><i class="key" :style="{ background: `var(--rests-${r.kind})` }" />{{ r.text
        }}{{ i + 1 < resting!.length ? ', ' : '' }}</span
      >.
    </p>
    <table class="mono">
      <tbody>
        <tr>
          <th scope="row">corners to</th>
          <td>{{ frame.sigma.map((s) => s.toFixed(2)).join(' ') }} px</td>
        </tr>
        <tr>
          <th scope="row">trust</th>
          <td>{{ frame.trust.toFixed(2) }}</td>
        </tr>
        <tr>
          <th scope="row">blur</th>
          <td>{{ (frame.blur ?? 0).toFixed(1) }} px</td>
        </tr>
        <tr>
          <th scope="row">shutter open</th>
          <td>{{ track?.shutter ? `${Math.round(360 * track.shutter.share)} degrees` : 'not known yet' }}</td>
        </tr>
        <tr>
          <th scope="row">lens bows by</th>
          <td>{{ track?.lens ? track.lens.toFixed(4) : 'nothing' }}</td>
        </tr>
      </tbody>
    </table>
    <BFormCheckbox v-model="view.cells" switch class="mt-1" :title="sentenceOf('show-cells')" data-test="show-cells"
      >Show what it was followed by <kbd>T</kbd></BFormCheckbox
    >
  </BenchSection>
</template>

<style scoped>
.key {
  display: inline-block;
  width: 0.6rem;
  height: 0.6rem;
  margin: 0 0.25rem 0 0.15rem;
  border-radius: 1px;
}
th {
  font-weight: 400;
  font-family: 'IBM Plex Sans', sans-serif;
  color: var(--text-dim);
  padding-right: 0.8rem;
  white-space: nowrap;
}
</style>
