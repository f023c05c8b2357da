<script setup lang="ts">
import { refDebounced, useStorage } from '@vueuse/core';
import { ref, computed, watch, watchEffect } from 'vue';
import { useRoute } from 'vue-router';
import { KEYS } from './pages/use-shortcuts';
import { useLive } from './stores/live';
import { useView } from './stores/view';

const view = useView();
const live = useLive();
/** Ms; going from page to page cuts a stream off for a moment. */
const SETTLES = 1500;
const isGone = refDebounced(
  computed(() => !live.connected),
  SETTLES,
);
const search = ref('');
watchEffect(() => document.documentElement.setAttribute('data-bs-theme', view.theme));
const found = computed(() => KEYS.filter((k) => k.join(' ').toLowerCase().includes(search.value.toLowerCase())));
const tour = useStorage('yarlop.tour', 'offered');
function again(): void {
  tour.value = 'on';
  view.helpOpen = false;
}
const route = useRoute();
const shot = computed(() => (route.path.startsWith('/shots/') ? Number(route.params['id']) : null));
watch(shot, (now) => live.connect(now), { immediate: true });
</script>

<template>
  <BApp class="app">
    <p v-if="isGone" class="gone" role="alert" data-test="server-gone">
      <i class="bi bi-plug" aria-hidden="true" /> The server does not answer; it is asked again every second. What you
      change meanwhile is kept in this browser and saved when it is back.
    </p>
    <RouterView />
    <BOffcanvas v-model="view.helpOpen" placement="end" title="Help" data-test="help">
      <p>
        The route at the top is the order of the work: bring in the plate, follow the screen, set the pin, prove it,
        dress it, hand it over. Every stage is one click away at any time.
      </p>
      <label for="help-search">Keys</label>
      <BFormInput id="help-search" v-model="search" placeholder="Search" class="mb-2" />
      <table class="w-100">
        <tbody>
          <tr v-for="k in found" :key="k[0]">
            <td class="pe-2 align-top text-nowrap">
              <kbd>{{ k[0] }}</kbd>
            </td>
            <td>{{ k[1] }}</td>
          </tr>
        </tbody>
      </table>
      <BButton class="mt-3" variant="outline-secondary" data-test="tour-again" @click="again"
        >Take the tour of a shot again</BButton
      >
      <BFormCheckbox
        class="mt-3"
        switch
        :model-value="view.theme === 'light'"
        @update:model-value="view.theme = $event ? 'light' : 'dark'"
        >Light theme</BFormCheckbox
      >
    </BOffcanvas>
  </BApp>
</template>

<style scoped>
.app {
  height: 100%;
}
/* Over the page, so that nothing moves when it comes and goes. */
.gone {
  position: fixed;
  z-index: 1080;
  inset: auto 0 0;
  margin: 0;
  padding: 0.4rem 1rem;
  text-align: center;
  background: var(--bs-body-bg);
  border-top: 2px solid var(--weak, var(--bs-warning));
}
</style>
