<script setup lang="ts">
/** A name that is changed where it stands, by the pencil beside it. */
import { nextTick, ref } from 'vue';

const props = defineProps<{ name: string; what: string; keep: (name: string) => Promise<unknown> }>();
const typed = ref<string | null>(null);
const field = ref<HTMLInputElement | null>(null);
const pencil = ref<HTMLButtonElement | null>(null);

async function begin(): Promise<void> {
  typed.value = props.name;
  await nextTick();
  field.value?.focus();
  field.value?.select();
}
async function end(): Promise<void> {
  typed.value = null;
  await nextTick();
  pencil.value?.focus();
}
/** An empty name is none, and the old one stays. */
async function save(): Promise<void> {
  const name = typed.value?.trim();
  if (typed.value === null) return;
  if (name && name !== props.name) await props.keep(name);
  await end();
}
</script>

<template>
  <span class="in-place">
    <input
      v-if="typed !== null"
      ref="field"
      v-model="typed"
      class="form-control form-control-sm"
      maxlength="120"
      :aria-label="`Name of ${what}`"
      data-test="name-field"
      @keydown.enter.prevent="save"
      @keydown.esc.stop.prevent="end"
      @blur="save"
    />
    <template v-else>
      <slot>{{ name }}</slot>
      <button
        ref="pencil"
        type="button"
        class="pencil"
        :aria-label="`Rename ${what}`"
        :title="`Rename ${what}`"
        data-test="rename"
        @click.stop="begin"
      >
        <i class="bi bi-pencil" aria-hidden="true" />
      </button>
    </template>
  </span>
</template>

<style scoped>
.in-place {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  min-width: 0;
}
.pencil {
  border: 0;
  background: none;
  color: var(--text-dim);
  padding: 0 0.2rem;
  font-size: 0.8rem;
}
.pencil:hover,
.pencil:focus-visible {
  color: var(--brass);
}
</style>
