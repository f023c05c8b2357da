<script setup lang="ts">
/** Asks before something goes into the bin, and names what goes with it. */
import { computed, ref, watch } from 'vue';
import { sentence } from '../api';
import { bytesText, countText } from '../shared/format';
import type { GoesWith } from '../types';
import type { BinItem } from './use-bin';
import { useBin } from './use-bin';

const props = defineProps<{ item: BinItem | null }>();
const emit = defineEmits<{ close: []; done: [] }>();
const bin = useBin();
const goes = ref<GoesWith | null>(null);
const problem = ref('');
watch(
  () => props.item,
  async (item) => {
    [goes.value, problem.value] = [null, ''];
    if (!item) return;
    await bin.goesWith(item).then(
      (g) => (goes.value = g),
      (e: unknown) => (problem.value = sentence(e)),
    );
  },
  { immediate: true },
);
const along = computed(() => {
  const g = goes.value;
  if (!g) return '';
  const parts = [
    g.shots > 0 ? countText(g.shots, 'shot') : '',
    g.screens > 0 ? countText(g.screens, 'Screen') : '',
    g.deliveries > 0 ? countText(g.deliveries, 'delivery', 'deliveries') : '',
  ].filter((p) => p !== '');
  return parts.length > 0 ? `With it go ${parts.join(', ')}.` : 'Nothing else goes with it.';
});
async function go(): Promise<void> {
  const { item } = props;
  if (!item) return;
  const isDone = await bin.put(item);
  problem.value = bin.problem.value;
  if (!isDone) return;
  emit('done');
  emit('close');
}
</script>

<template>
  <BModal
    :model-value="item !== null"
    :title="`Delete &quot;${item?.name ?? ''}&quot;?`"
    ok-title="Put it in the bin"
    ok-variant="primary"
    cancel-title="Keep it"
    cancel-variant="outline-secondary"
    data-test="delete-dialog"
    @ok.prevent="go"
    @update:model-value="!$event && emit('close')"
  >
    <p v-if="problem" class="weak mb-0" role="alert">{{ problem }}</p>
    <p v-else-if="!goes" class="dim mb-0" role="status">Looking what depends on it ...</p>
    <template v-else>
      <p class="mb-1" data-test="goes-with">{{ along }}</p>
      <p class="mb-0 dim">
        It lies in the bin for 14 days and can be taken out as it is now; after that
        {{ goes.bytes > 0 ? bytesText(goes.bytes) + ' are freed' : 'it is gone for good' }}. Plates stay in the library.
      </p>
    </template>
  </BModal>
</template>

<style scoped>
.weak {
  color: var(--weak);
}
</style>
