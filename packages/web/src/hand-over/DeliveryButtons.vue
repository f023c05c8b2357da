<script setup lang="ts">
/** Makes a delivery once more, or puts it in the bin. */
import { useBin } from '../space/use-bin';
import type { Delivery } from '../types';
import IconButton from '../shared/IconButton.vue';

defineProps<{ delivery: Delivery }>();
defineEmits<{ again: [] }>();
const bin = useBin();
</script>

<template>
  <IconButton
    icon="arrow-repeat"
    :label="`Deliver ${delivery.fileName} again`"
    title="Deliver the same again, as the shot is now"
    data-test="again"
    @click="$emit('again')"
  />
  <IconButton
    icon="trash3"
    :label="`Delete ${delivery.fileName}`"
    title="Put this delivery in the bin"
    data-test="to-bin"
    @click="bin.put({ kind: 'delivery', key: delivery.id, name: delivery.fileName })"
  />
</template>
