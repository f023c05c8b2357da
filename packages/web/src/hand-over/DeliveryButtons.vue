<script setup lang="ts">
/** Makes a delivery once more, or puts it in the bin. */
import { useBin } from '../space/use-bin';
import type { Delivery } from '../types';

defineProps<{ delivery: Delivery }>();
defineEmits<{ again: [] }>();
const bin = useBin();
</script>

<template>
  <button
    type="button"
    class="icon"
    :aria-label="`Deliver ${delivery.fileName} again`"
    title="Deliver the same again, as the shot is now"
    data-test="again"
    @click="$emit('again')"
  >
    <i class="bi bi-arrow-repeat" aria-hidden="true" />
  </button>
  <button
    type="button"
    class="icon"
    :aria-label="`Delete ${delivery.fileName}`"
    title="Put this delivery in the bin"
    data-test="to-bin"
    @click="bin.put({ kind: 'delivery', key: delivery.id, name: delivery.fileName })"
  >
    <i class="bi bi-trash3" aria-hidden="true" />
  </button>
</template>
