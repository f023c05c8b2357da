<script setup lang="ts">
import { useStorage } from '@vueuse/core';
import { ref, computed, watch, watchEffect } from 'vue';
import { useRoute } from 'vue-router';
import { KEYS } from './pages/use-shortcuts';
import { useLive } from './stores/live';
import { useView } from './stores/view';

const view = useView();
const live = useLive();
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
</style>
