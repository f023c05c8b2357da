<script setup lang="ts">
/** Chooses a colour table, or brings one in. */
import { onMounted, ref } from 'vue';
import { sentence } from '../api';
import { useColourTables } from './colour-tables';

defineProps<{ chosen: string | null; label: string; help: string; name: string }>();
const emit = defineEmits<{ choose: [hash: string | null] }>();
const { all, load, bringIn } = useColourTables();
const problem = ref('');
const picker = ref<HTMLInputElement | null>(null);
onMounted(() => void load().catch((e: unknown) => (problem.value = sentence(e))));
async function take(e: Event): Promise<void> {
  const input = e.target as HTMLInputElement;
  const file = input.files?.[0];
  if (!file) return;
  try {
    emit('choose', (await bringIn(file)).hash);
    problem.value = '';
  } catch (x) {
    problem.value = sentence(x);
  }
  input.value = '';
}
</script>

<template>
  <div class="table">
    <select
      class="form-select"
      :value="chosen ?? ''"
      :aria-label="label"
      :title="help"
      :data-test="name"
      @change="emit('choose', ($event.target as HTMLSelectElement).value || null)"
    >
      <option value="">none</option>
      <option v-for="t in all" :key="t.hash" :value="t.hash">{{ t.name }}</option>
    </select>
    <BButton variant="outline-secondary" class="text-nowrap" title="Bring in a .cube file" @click="picker?.click()"
      >.cube ...</BButton
    >
    <input ref="picker" type="file" accept=".cube" class="d-none" :data-test="`${name}-file`" @change="take" />
  </div>
  <p v-if="problem" class="weak mb-0" role="alert">{{ problem }}</p>
</template>

<style scoped>
.table {
  display: flex;
  gap: 4px;
  margin: 0;
}
.form-select {
  padding-block: 0.1rem;
  font-size: 0.8125rem;
  min-width: 0;
}
.weak {
  color: var(--weak);
}
</style>
