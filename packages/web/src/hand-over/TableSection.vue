<script setup lang="ts">
/** A table of the house's own: a template, looked at while it is written. */
import { PLACEHOLDERS } from '@yarlop/core/formats/table-template';
import { useClipboard, useDebounceFn, useStorage } from '@vueuse/core';
import { ref, watch } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { sentence } from '../api';
import ConventionFields from './ConventionFields.vue';
import { FIRST_TEMPLATE } from './formats';
import type { DeliverSettings } from '../types';
import { useConventions } from './use-conventions';
import { useDeliveries } from './use-deliveries';
import IconButton from '../shared/IconButton.vue';

const { deliver, text, tried } = useDeliveries();
const { conventions } = useConventions();
const { copy } = useClipboard();
const template = useStorage('yarlop.template', FIRST_TEMPLATE);
const kept = useStorage<Record<string, string>>('yarlop.templates', {});
const name = ref('');
const look = ref('');
const problem = ref('');
/** Lines of the table that are shown. */
const LINES = 6;
const settings = (): DeliverSettings => ({ as: 'table', template: template.value, ...conventions.value });
const refresh = useDebounceFn(async () => {
  try {
    look.value = (await text(settings())).split('\n').slice(0, LINES).join('\n');
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}, 350);
watch([template, conventions], () => void refresh(), { deep: true });
function keep(): void {
  if (name.value.trim()) kept.value = { ...kept.value, [name.value.trim()]: template.value };
}
function drop(n: string): void {
  kept.value = Object.fromEntries(Object.entries(kept.value).filter(([k]) => k !== n));
}
</script>

<template>
  <BenchSection title="A table of your own">
    <details data-test="own-table" @toggle="refresh">
      <summary title="Text with placeholders, for a program or a house with a format of its own">
        Write its template
      </summary>
      <textarea
        v-model="template"
        class="form-control mono mt-1"
        rows="6"
        spellcheck="false"
        aria-label="Template of the table"
        title="Text with placeholders in double braces; the part between {{each frame}} and {{end}} stands once a frame"
        data-test="template"
      />
      <details class="mt-1">
        <summary title="What may stand in braces">Placeholders</summary>
        <dl class="words">
          <template v-for="[word, what] in PLACEHOLDERS" :key="word"
            ><dt class="mono">{{ word }}</dt>
            <dd>{{ what }}</dd></template
          >
        </dl>
        <p class="dim mb-0">A colon and a number set the digits: <span class="mono" v-text="'{{tl.x:3}}'" />.</p>
      </details>
      <pre v-if="!problem" class="look mono" data-test="table-look">{{ look }}</pre>
      <p v-else class="weak" role="alert" data-test="table-problem">{{ problem }}</p>
      <ConventionFields />
      <div class="d-flex gap-1 mt-1">
        <BButton
          variant="outline-secondary"
          title="Write the table as a file"
          data-test="deliver-table"
          @click="deliver(settings())"
          >Deliver</BButton
        ><BButton
          variant="outline-secondary"
          title="Put the table on the clipboard"
          @click="tried(async () => copy(await text(settings())))"
          >Copy</BButton
        >
      </div>
      <div class="d-flex gap-1 mt-1">
        <input
          v-model="name"
          class="form-control"
          placeholder="keep it as ..."
          aria-label="Name of the template"
          title="A name under which this template is kept in the browser"
        /><BButton
          variant="outline-secondary"
          :disabled="!name.trim()"
          title="Keep the template under this name"
          @click="keep"
          >Keep</BButton
        >
      </div>
      <div v-for="(t, n) in kept" :key="n" class="d-flex gap-2">
        <BButton variant="link" class="p-0" :title="`Take up the template ${n}`" @click="template = t">{{ n }}</BButton>
        <IconButton
          icon="trash3"
          class="ms-auto"
          :label="`Forget the template ${n}`"
          :title="`Forget ${n}`"
          @click="drop(String(n))"
        />
      </div>
    </details>
  </BenchSection>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
textarea {
  font-size: 0.75rem;
}
.look {
  background: var(--ink);
  border: 1px solid var(--line);
  padding: 4px;
  font-size: 0.6875rem;
  margin: 4px 0;
  overflow: auto;
}
.words {
  display: grid;
  grid-template-columns: 5.5rem 1fr;
  gap: 0 6px;
  font-size: 0.75rem;
  margin: 4px 0;
}
.words dt {
  font-weight: 400;
}
.words dd {
  margin: 0;
  color: var(--text-dim);
}
.weak {
  color: var(--weak);
}
</style>
