<script setup lang="ts">
/** What a program can ask of the server, as its OpenAPI document says it. */
import { computed, onMounted, ref, shallowRef } from 'vue';
import type { ApiDocument } from './api-document';
import { operationsOf } from './api-document';

const document = shallowRef<ApiDocument | null>(null);
const problem = ref('');
const search = ref('');
onMounted(async () => {
  try {
    document.value = (await (await fetch('/api/openapi.json')).json()) as ApiDocument;
  } catch {
    problem.value = 'The server does not answer; try again when it is back.';
  }
});
const shown = computed(() => {
  const text = search.value.trim().toLowerCase();
  const all = document.value ? operationsOf(document.value) : [];
  return all.filter((o) =>
    `${o.method} ${o.path} ${o.takes?.name ?? ''} ${o.answers.name}`.toLowerCase().includes(text),
  );
});
const groups = computed(() => {
  const by = new Map<string, typeof shown.value>();
  for (const o of shown.value) by.set(o.group, [...(by.get(o.group) ?? []), o]);
  return [...by];
});
const pretty = (schema: unknown): string => JSON.stringify(schema, null, 2);
</script>

<template>
  <main class="page">
    <p class="mb-1"><RouterLink to="/">Productions</RouterLink> / <RouterLink to="/settings">Settings</RouterLink></p>
    <h1>What programs can ask</h1>
    <p class="dim">
      The routes that this page itself uses, with what they take and answer. A program reads the same as OpenAPI 3.1
      from
      <a href="/api/openapi.json">/api/openapi.json</a>.
    </p>
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <p v-else-if="!document" class="dim" role="status">Loading ...</p>
    <BFormInput
      v-if="document"
      v-model="search"
      class="search mb-3"
      type="search"
      placeholder="Look for an address or a name"
      aria-label="Look for a route"
      title="Addresses, and names of what is taken and answered"
      data-test="api-search"
    />
    <section v-for="[group, operations] in groups" :key="group" class="mb-3">
      <h2>{{ group }}</h2>
      <details v-for="o in operations" :key="o.method + o.path" :data-test="`api-${o.id}`">
        <summary class="mono">
          <span class="method">{{ o.method }}</span>{{ o.path }}
        </summary>
        <template v-if="o.takes">
          <h3>takes {{ o.takes.name }}</h3>
          <pre>{{ pretty(o.takes.schema) }}</pre>
        </template>
        <h3>answers {{ o.answers.name }}</h3>
        <pre>{{ pretty(o.answers.schema) }}</pre>
      </details>
    </section>
    <p v-if="document && shown.length === 0" class="dim">No route is like that.</p>
  </main>
</template>

<style scoped>
.search {
  width: 22rem;
}
.method {
  display: inline-block;
  width: 4.5rem;
  color: var(--text-dim);
}
details {
  border-top: 1px solid var(--line);
  padding: 0.25rem 0;
}
h3 {
  margin: 0.5rem 0 0.2rem;
  font-size: 0.875rem;
}
pre {
  max-height: 22rem;
  overflow: auto;
  padding: 0.5rem;
  background: var(--ink-raised);
}
</style>
