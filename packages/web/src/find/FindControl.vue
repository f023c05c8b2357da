<script setup lang="ts">
/** Finds a control of the bench, a number of the dress or a command by name, and goes to it. */
import { useStorage } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import type { Place } from './find-places';
import { commandPlaces, dressPlaces, elementOf, found, placesOn } from './find-places';
import { openPart } from '../bench/open-parts';

/** Places that are listed at once. */
const MOST = 8;
/** Places that are remembered as used lately. */
const REMEMBERED = 6;
/** Ms for which a control that was gone to stands out. */
const STANDS_OUT = 1600;

const props = defineProps<{ bench: HTMLElement | null }>();
const route = useRoute();
const router = useRouter();
const field = useTemplateRef<{ focus(): void }>('field');
const recent = useStorage<string[]>('yarlop.found', []);
const search = ref('');
const isOpen = ref(false);
const places = shallowRef<Place[]>([]);
/** What is there changes with every edit, so it is looked at when it is asked for. */
watch([isOpen, search], () => {
  if (!isOpen.value || !props.bench) return;
  const here = placesOn(props.bench);
  const known = new Set(here.map((p) => p.id));
  const elsewhere = dressPlaces().filter((p) => !known.has(p.id));
  places.value = [...here, ...commandPlaces(isReady), ...elsewhere];
});
const byId = computed(() => new Map(places.value.map((p) => [p.id, p])));
const listed = (_: unknown, typed: string) =>
  found(places.value, typed, recent.value, MOST).map((p) => ({ value: p.id, text: p.label }));

/** The control in its part of the bench, opened and in sight. */
async function show(section: string, label: string): Promise<void> {
  openPart(section);
  await nextTick();
  const element = props.bench && elementOf(props.bench, section, label);
  if (!element) return;
  element.closest('details')?.setAttribute('open', '');
  element.scrollIntoView({ block: 'center' });
  element.focus();
  element.classList.add('gone-to');
  setTimeout(() => element.classList.remove('gone-to'), STANDS_OUT);
}
async function go(id: unknown): Promise<void> {
  const place = byId.value.get(String(id));
  search.value = '';
  isOpen.value = false;
  if (!place) return;
  recent.value = [place.id, ...recent.value.filter((r) => r !== place.id)].slice(0, REMEMBERED);
  // The field takes the keyboard once more after a choice.
  await nextTick();
  const { goes } = place;
  if (goes.kind === 'command') return perform(goes.id);
  if (goes.kind === 'dress') await router.push(`/shots/${String(route.params['id'])}/dress`);
  await nextTick();
  await show(goes.section, goes.label);
}
provideCommand('find-control', () => {
  field.value?.focus();
  isOpen.value = true;
});
</script>

<template>
  <div class="find" :title="sentenceOf('find-control')">
    <label class="visually-hidden" for="find-control">Find a control</label>
    <BAutocomplete
      id="find-control"
      ref="field"
      v-model:search="search"
      v-model:open="isOpen"
      size="sm"
      :model-value="null"
      :filter-function="listed"
      no-toggle
      open-on-focus
      placeholder="Find a control  /"
      @change="go"
    >
      <template #option="{ value }">
        <span class="place" :title="byId.get(String(value))?.help" :data-test="`found-${String(value)}`">
          <span class="name">{{ byId.get(String(value))?.label }}</span>
          <span class="dim ms-auto">{{ byId.get(String(value))?.where }}</span>
        </span>
      </template>
      <template #empty>
        <span class="dim">{{ search ? 'Nothing here is called so.' : 'A name, or a part of one.' }}</span>
      </template>
    </BAutocomplete>
  </div>
</template>

<style scoped>
.find {
  /* As wide as the bench beneath it, which leaves room for its scrollbar. */
  overflow: hidden auto;
  scrollbar-gutter: stable;
  flex: none;
  padding: 0.5rem 0.8rem 0.1rem;
}
.place {
  display: flex;
  gap: 0.6rem;
  min-width: 0;
  font-size: 0.8125rem;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
}
.find :deep(.dropdown-item) {
  padding: 0.2rem 0.5rem;
}
</style>
