<script setup lang="ts">
/** What is offered when four rough corners were dropped: to lay them onto the glass at once. */
import { computed, ref, watch } from 'vue';
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { useSnapGlass } from '../edits/use-snap-glass';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';

const emit = defineEmits<{ done: [] }>();
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const { busy, problem, snap } = useSnapGlass();
const corners = computed(() => store.chosen && tracks.corners(store.chosen, playhead.frame));
const said = ref('');
async function lay(): Promise<void> {
  const from = corners.value;
  const got = from && (await snap(from));
  if (!got) return;
  const found = got.sides.filter((s) => s.found).length;
  said.value =
    found === 4 ? 'All four sides lie on the glass.' : `${found} of 4 sides were found; set the others in Pin.`;
}
provideCommand('snap-glass', lay, () => !busy.value && !!corners.value);
watch(
  () => [store.chosenId, playhead.frame],
  () => emit('done'),
);
</script>

<template>
  <div class="rough" role="status" data-test="rough-corners">
    <span>{{ problem || said || 'Rough corners are enough to begin with.' }}</span>
    <BButton
      v-if="!said"
      variant="primary"
      size="sm"
      :disabled="!isReady('snap-glass')"
      :title="sentenceOf('snap-glass')"
      data-test="lay-rough"
      @click="perform('snap-glass')"
      >Lay them onto the glass <kbd>G</kbd></BButton
    >
    <BButton variant="outline-secondary" size="sm" data-test="rough-done" @click="emit('done')">{{
      said ? 'Good' : 'Keep them'
    }}</BButton>
  </div>
</template>

<style scoped>
.rough {
  position: absolute;
  left: 8px;
  bottom: 42px;
  display: flex;
  align-items: center;
  gap: 0.7rem;
  padding: 0.35rem 0.8rem;
  background: var(--ink);
  border: 1px solid var(--brass);
  border-radius: 3px;
  white-space: nowrap;
}
</style>
