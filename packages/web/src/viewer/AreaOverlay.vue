<script setup lang="ts">
/** What is followed of the chosen Screen, where its pin lies elsewhere: it rides on the same plane. */
import { computed } from 'vue';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { followedApart } from '../follow/followed-apart';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const points = computed(() => {
  const s = store.chosen;
  const area = s && followedApart(s.recipe, tracks.tracks.get(s.id));
  const h = s && area ? tracks.plane(s, playhead.frame) : null;
  return h && area ? area.map((p) => props.port.toView(mapPoint(h, p)).join(',')).join(' ') : '';
});
</script>

<template>
  <g v-if="points">
    <polygon :points="points" class="halo" />
    <polygon :points="points" class="area" data-test="followed-area"><title>What is followed</title></polygon>
  </g>
</template>

<style scoped>
.area {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  stroke-dasharray: 1 5;
  stroke-linecap: round;
}
</style>
