<script setup lang="ts">
import AnimatedControl from './AnimatedControl.vue';
import type { Control } from './dress-controls';
import { useDress } from '../edits/use-dress';

defineProps<{ controls: readonly Control[] }>();
const { bind } = useDress();
</script>

<template>
  <AnimatedControl
    v-for="k in controls"
    :key="k.field"
    :name="`${k.part}-${k.field}`"
    :label="k.label"
    :help="k.help"
    :min="k.min"
    :max="k.max"
    :step="k.step"
    v-bind="bind(k.part, k.field, k.base)"
  />
</template>
