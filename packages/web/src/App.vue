<script setup lang="ts">
import { refDebounced, useEventListener, useStorage } from '@vueuse/core';
import { ref, computed, useTemplateRef, watch, watchEffect } from 'vue';
import { useRoute } from 'vue-router';
import { COMMANDS, GESTURES } from './commands/catalogue';
import { isReady, perform } from './commands/use-commands';
import { SIGNED_OUT } from './api';
import { useLive } from './stores/live';
import { useMe } from './stores/me';
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
const field = useTemplateRef<{ focus(): void }>('field');
watchEffect(() => document.documentElement.setAttribute('data-bs-theme', view.theme));
const matches = (...texts: readonly string[]): boolean =>
  texts.join(' ').toLowerCase().includes(search.value.trim().toLowerCase());
const commands = computed(() => COMMANDS.filter((c) => matches(c.keys, c.title, c.sentence ?? '')));
const gestures = computed(() => GESTURES.filter((g) => matches(...g)));
/** What was found does it, where it can be done. */
function done(id: string): void {
  view.helpOpen = false;
  perform(id);
}
function first(): void {
  const one = commands.value.find((c) => isReady(c.id));
  if (one && search.value.trim() !== '') done(one.id);
}
const tour = useStorage('yarlop.tour', 'offered');
function again(): void {
  tour.value = 'on';
  view.helpOpen = false;
}
const route = useRoute();
const shot = computed(() => (route.path.startsWith('/shots/') ? Number(route.params['id']) : null));
const me = useMe();
// Strangers hear nothing; whoever has signed in again hears what the page shows.
watch(
  [shot, () => route.matched.length > 0 && !me.isStranger] as const,
  ([now, mayHear]) => (mayHear ? live.connect(now) : live.disconnect()),
  { immediate: true },
);
const isOut = computed(() => me.isStranger && route.matched.length > 0 && route.meta['isOpen'] !== true);
useEventListener(window, SIGNED_OUT, () => me.leave());
</script>

<template>
  <BApp class="app">
    <p v-if="isOut" class="gone" role="alert" data-test="signed-out">
      <i class="bi bi-door-closed" aria-hidden="true" /> You are signed out. What you changed is kept in this browser;
      <RouterLink :to="{ path: '/sign-in', query: { then: route.fullPath } }">sign in again</RouterLink> to save it.
    </p>
    <p v-else-if="isGone" class="gone" role="alert" data-test="server-gone">
      <i class="bi bi-plug" aria-hidden="true" /> The server does not answer; it is asked again every second. What you
      change meanwhile is kept in this browser and saved when it is back.
    </p>
    <RouterView />
    <BOffcanvas v-model="view.helpOpen" placement="end" title="Help" data-test="help" @shown="field?.focus()">
      <p>
        The route at the top is the order of the work: bring in the plate, follow the screen, set the pin, prove it,
        dress it, hand it over. Every stage is one click away at any time.
      </p>
      <label for="help-search">What can be done, and its key</label>
      <BFormInput
        id="help-search"
        ref="field"
        v-model="search"
        placeholder="Search; Enter does the first that can be done here"
        class="mb-2"
        @keydown.enter.prevent="first"
      />
      <table class="w-100">
        <tbody>
          <tr v-for="c in commands" :key="c.id">
            <td class="pe-2 align-top keys">
              <kbd>{{ c.keys }}</kbd>
            </td>
            <td>
              <button
                v-if="isReady(c.id)"
                type="button"
                class="do"
                :title="c.sentence ?? c.title"
                :data-test="`do-${c.id}`"
                @click="done(c.id)"
              >
                {{ c.title }}
              </button>
              <span v-else class="dim" title="It cannot be done here at present">{{ c.title }}</span>
            </td>
          </tr>
          <tr v-for="g in gestures" :key="g.join()">
            <td class="pe-2 align-top keys">
              <kbd>{{ g[0] }}</kbd>
            </td>
            <td>{{ g[1] }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="commands.length + gestures.length === 0" class="dim">Nothing is called so.</p>
      <BButton class="mt-3" variant="outline-secondary" data-test="tour-again" @click="again"
        >Take the tour of a shot again</BButton
      >
      <p class="mt-3">
        <RouterLink to="/settings" @click="view.helpOpen = false">Settings: theme, surround, read-outs</RouterLink>
      </p>
    </BOffcanvas>
  </BApp>
</template>

<style scoped>
.app {
  height: 100%;
}
.do {
  background: none;
  border: 0;
  padding: 0;
  text-align: start;
  color: inherit;
  text-decoration: underline dotted;
  text-underline-offset: 0.2em;
}
/* The longest names of keys break, so that what they do has the room. */
.keys {
  max-width: 6.5rem;
}
.do:hover {
  color: var(--accent, inherit);
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
