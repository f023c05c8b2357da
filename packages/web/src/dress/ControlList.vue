<script setup lang="ts">
import AnimatedControl from './AnimatedControl.vue';
import type { Animated } from '@yarlop/core/dress/base/keys';
import { valueAt } from '@yarlop/core/dress/base/keys';
import type { Control } from './dress-controls';
import { useDress } from '../edits/use-dress';
import { usePlayhead } from '../stores/playhead';

defineProps<{ controls: readonly Control[] }>();
const { dress, bind } = useDress();
const playhead = usePlayhead();
/** What a control shows while nothing is set. */
function baseOf({ part, base, follows }: Control): number {
  const owner = dress.value[part] as Readonly<Record<string, Animated | undefined>> | undefined;
  return follows ? valueAt(owner?.[follows], playhead.frame, base) : base;
}
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
    v-bind="bind(k.part, k.field, baseOf(k))"
  />
</template>
