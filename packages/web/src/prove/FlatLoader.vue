<script setup lang="ts">
import { useFlatStack } from './use-flat-stack';

const { stack, done, problem, loading, load } = useFlatStack();
</script>

<template>
  <slot v-if="stack" :stack="stack" />
  <div
    v-if="loading || problem || !stack"
    class="state"
    :class="{ quiet: loading && stack }"
    :role="problem ? 'alert' : 'status'"
  >
    <template v-if="problem"
      >{{ problem }} <BButton variant="outline-secondary" @click="load">Try again</BButton></template
    >
    <template v-else-if="loading">Laying the frames flat: {{ Math.round(100 * done) }} %</template>
    <template v-else>Nothing is followed yet that could be laid flat.</template>
  </div>
</template>

<style scoped>
.state {
  position: absolute;
  left: 50%;
  top: 45%;
  transform: translate(-50%, -50%);
  background: var(--ink);
  border: 1px solid var(--line);
  padding: 0.5rem 1rem;
  border-radius: 3px;
  z-index: 2;
}
.state.quiet {
  top: auto;
  bottom: 4px;
}
</style>
