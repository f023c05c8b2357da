<script setup lang="ts">
/** The layers of made-up content, what stands in front on top; and what may be added. */
import type { ContentLayer } from '@yarlop/core/dress/content/layers';
import type { NewLayer } from '@yarlop/core/dress/content/new-layer';
import { computed } from 'vue';
import { useMedia } from '../stores/media';
import { ADDED, ADDED_PIECES, titleOf } from './content-layers';
import IconButton from '../shared/IconButton.vue';

const props = defineProps<{ layers: readonly ContentLayer[]; chosen: number | null }>();
const emit = defineEmits<{
  choose: [index: number];
  add: [what: NewLayer];
  mute: [index: number];
  /** towards the front, or towards the back */
  move: [index: number, by: 1 | -1];
  copy: [index: number];
  remove: [index: number];
}>();
const media = useMedia();
const ICONS = {
  words: 'bi-fonts',
  shape: 'bi-square',
  picture: 'bi-image',
  piece: 'bi-layout-text-window-reverse',
} as const;
const rows = computed(() => props.layers.map((layer, index) => ({ layer, index })).reverse());
const hasFiles = computed(() => media.all.some((m) => m.state === 'ready'));
</script>

<template>
  <section aria-label="Layers">
    <h2>Layers <span class="dim fw-normal">in front first</span></h2>
    <BDropdown
      class="w-100 mb-2"
      variant="outline-secondary"
      toggle-class="w-100"
      menu-class="w-100"
      title="Put something more in front"
      data-test="add-layer"
    >
      <template #button-content>Add</template>
      <BDropdownItemButton
        v-for="(word, what) in ADDED"
        :key="what"
        :disabled="what === 'picture' && !hasFiles"
        :data-test="`add-${what}`"
        @click="emit('add', what)"
        >{{ word }}</BDropdownItemButton
      >
      <BDropdownDivider />
      <BDropdownItemButton
        v-for="p in ADDED_PIECES"
        :key="p.id"
        :data-test="`add-${p.id}`"
        @click="emit('add', p.id)"
        >{{ p.title }}</BDropdownItemButton
      >
    </BDropdown>
    <p v-if="layers.length === 0" class="dim">
      Nothing stands on the ground yet. Add words, a shape, a picture, or a whole piece such as a call or a clock.
    </p>
    <ul class="rows">
      <li
        v-for="{ layer, index } in rows"
        :key="index"
        :class="{ chosen: index === chosen, off: layer.off }"
        :data-test="`layer-${index}`"
      >
        <button
          type="button"
          class="title"
          :aria-pressed="index === chosen"
          title="Choose it: its handles lie on the picture, its numbers beside it"
          @click="emit('choose', index)"
        >
          <i class="bi" :class="ICONS[layer.kind]" aria-hidden="true" /> {{ titleOf(layer, media.byHash) }}
        </button>
        <IconButton
          icon="arrow-up"
          :disabled="index === layers.length - 1"
          title="Towards the front"
          :label="`Layer ${index + 1} towards the front`"
          @click="emit('move', index, 1)"
        />
        <IconButton
          icon="arrow-down"
          :disabled="index === 0"
          title="Towards the back"
          :label="`Layer ${index + 1} towards the back`"
          @click="emit('move', index, -1)"
        />
        <IconButton
          :icon="layer.off ? 'eye-slash' : 'eye'"
          :aria-pressed="Boolean(layer.off)"
          :title="layer.off ? 'Show it again' : 'Keep it, but do not show it'"
          :label="`Layer ${index + 1} shows`"
          :data-test="`mute-layer-${index}`"
          @click="emit('mute', index)"
        />
        <IconButton
          icon="copy"
          title="One more like it"
          :label="`Copy layer ${index + 1}`"
          @click="emit('copy', index)"
        />
        <IconButton
          icon="trash3"
          title="Delete this layer"
          :label="`Delete layer ${index + 1}`"
          :data-test="`delete-layer-${index}`"
          @click="emit('remove', index)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
:deep(.dropdown-item) {
  padding: 0.15rem 0.75rem;
  font-size: 0.8125rem;
}
.rows {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 3px 4px;
  border: 1px solid transparent;
  border-radius: 3px;
}
li.chosen {
  border-color: var(--brass);
}
li.off .title {
  opacity: 0.55;
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  text-align: left;
  font-size: 0.8125rem;
}
</style>
