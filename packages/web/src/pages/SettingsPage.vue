<script setup lang="ts">
/** What is set for this browser, every key, and where the installation keeps its data. */
import { onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api, sentence } from '../api';
import { COMMANDS, GESTURES } from '../commands/catalogue';
import { bytesText, rangeChoices } from '../shared/format';
import { SURROUNDS } from '../shared/view-aid';
import OwnAccount from '../people/OwnAccount.vue';
import { useView } from '../stores/view';
import type { DiskUse } from '../types';

const view = useView();
const router = useRouter();
const disk = ref<DiskUse | null>(null);
const problem = ref('');
const THEMES = [
  { value: 'dark', text: 'Dark' },
  { value: 'light', text: 'Light' },
];
const GREYS = SURROUNDS.map((s) => ({ value: s, text: `${s} % grey` }));
const KEYS = [...COMMANDS.map((c) => [c.keys, c.title] as const), ...GESTURES];
onMounted(() =>
  api('GET /disk').then(
    (d) => (disk.value = d),
    (e: unknown) => (problem.value = sentence(e)),
  ),
);
</script>

<template>
  <main class="page">
    <p class="mb-1"><RouterLink to="/">Productions</RouterLink></p>
    <div class="d-flex align-items-baseline mb-3">
      <h1 class="mb-0">Settings</h1>
      <BButton class="ms-auto" variant="outline-secondary" data-test="back" @click="router.back()">Back</BButton>
    </div>
    <div class="columns">
      <div>
        <OwnAccount class="mb-3" />
        <section>
          <h2>Look</h2>
          <p class="dim">Kept in this browser, for every shot.</p>
          <dl>
            <dt id="set-theme">Theme</dt>
            <dd>
              <BFormRadioGroup
                v-model="view.theme"
                :options="THEMES"
                buttons
                button-variant="outline-secondary"
                aria-labelledby="set-theme"
                data-test="theme"
              />
            </dd>
            <dt id="set-surround">Around the picture</dt>
            <dd>
              <BFormRadioGroup
                v-model="view.surround"
                :options="GREYS"
                buttons
                button-variant="outline-secondary"
                aria-labelledby="set-surround"
                data-test="surround"
              />
              <span class="dim d-block">Share of white's light; the darker, the brighter the picture looks.</span>
            </dd>
            <dt id="set-white">Code values</dt>
            <dd>
              <BFormRadioGroup
                v-model="view.white"
                :options="rangeChoices"
                buttons
                button-variant="outline-secondary"
                aria-labelledby="set-white"
                data-test="white"
              />
              <span class="dim d-block">How the pixel under the pointer is read out, below the picture.</span>
            </dd>
          </dl>
        </section>
        <section>
          <h2>This installation</h2>
          <p v-if="problem" class="weak" role="alert">{{ problem }}</p>
          <dl v-else-if="disk" data-test="installation">
            <dt>Data</dt>
            <dd class="mono text-break">{{ disk.folder }}</dd>
            <dt>Free there</dt>
            <dd>
              <span class="mono">{{ bytesText(disk.free) }}</span>;
              <RouterLink to="/space">what takes up space, and the bin</RouterLink>
            </dd>
            <dt>At work</dt>
            <dd><RouterLink to="/settings/running" data-test="what-runs">jobs, memory and requests</RouterLink></dd>
            <dt>For programs</dt>
            <dd><RouterLink to="/settings/api" data-test="what-programs-ask">what can be asked of it</RouterLink></dd>
          </dl>
          <p v-else class="dim" role="status">Asking ...</p>
        </section>
      </div>
      <section>
        <h2>Keys</h2>
        <table class="keys">
          <tbody>
            <tr v-for="[keys, what] in KEYS" :key="keys + what">
              <td>
                <kbd>{{ keys }}</kbd>
              </td>
              <td>{{ what }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </main>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(20rem, 1fr) minmax(24rem, 1.3fr);
  gap: 2.5rem;
  align-items: start;
}
h2 {
  font-size: 1rem;
}
dt {
  font-weight: normal;
  color: var(--text-dim);
}
dd {
  margin-bottom: 0.9rem;
}
.keys td {
  padding: 0.15rem 0.8rem 0.15rem 0;
  vertical-align: top;
}
.weak {
  color: var(--weak);
}
</style>
