<script setup lang="ts">
/** Which Screens stand before which. */
import { computed, ref } from 'vue';
import { sentence } from '../api';
import { steady } from '../shared/steady';
import { useShot } from '../stores/shot';

const store = useShot();
const problem = ref('');
const ids = steady(() => store.screens.map((s) => s.id));
const at = computed(() => ids.value.indexOf(store.chosenId!));
async function move(by: -1 | 1): Promise<void> {
  const order = [...ids.value];
  const to = at.value + by;
  [order[at.value], order[to]] = [order[to]!, order[at.value]!];
  await store.setDepth(order).then(
    () => (problem.value = ''),
    (e: unknown) => (problem.value = sentence(e)),
  );
}
</script>

<template>
  <div v-if="ids.length > 1" class="d-flex gap-1 align-items-center mt-1">
    <span class="dim">{{
      at === 0 ? 'at the back' : at === ids.length - 1 ? 'in front' : `${at + 1} of ${ids.length} from the back`
    }}</span>
    <BButton
      variant="outline-secondary"
      class="ms-auto"
      :disabled="at >= ids.length - 1"
      title="Let this Screen stand before the next one"
      data-test="depth-forward"
      @click="move(1)"
      >Forward</BButton
    >
    <BButton
      variant="outline-secondary"
      :disabled="at <= 0"
      title="Let this Screen stand behind the one before"
      data-test="depth-back"
      @click="move(-1)"
      >Back</BButton
    >
  </div>
  <p v-if="problem" class="weak mb-0" role="alert">{{ problem }}</p>
</template>

<style scoped>
.weak {
  color: var(--weak);
}
</style>
