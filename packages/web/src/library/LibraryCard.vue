<script setup lang="ts">
/** One file of the library: its picture, name, tags, and where it is used. */
import { computed, ref } from 'vue';
import { countText, rateText } from '../shared/format';
import NameInPlace from '../shared/NameInPlace.vue';
import type { LibraryItem } from '../types';

const props = defineProps<{ item: LibraryItem; isChosen: boolean; rename: (name: string) => Promise<unknown> }>();
const emit = defineEmits<{ choose: [isChosen: boolean]; tag: [tag: string] }>();
const isOpen = ref(false);
/** As many places as stand in a card before the rest is folded. */
const SOME = 3;
const places = computed(() => [
  ...props.item.plateOf.map((p) => ({ key: `p${p.id}`, to: `/shots/${p.id}/plate`, text: `plate of ${p.name}` })),
  ...props.item.shownBy.map((s) => ({
    key: `s${s.screen}`,
    to: `/shots/${s.shot}/dress?screen=${s.screen}`,
    text: `on ${s.name}, ${s.shotName}`,
  })),
]);
const listed = computed(() => (isOpen.value ? places.value : places.value.slice(0, SOME)));
const facts = computed(() => {
  const { probe, frameCount } = props.item;
  const long = frameCount > 1 ? `, ${frameCount} frames, ${rateText(probe.frameRate)} fps` : '';
  return `${probe.width}x${probe.height}${long}`;
});
</script>

<template>
  <article class="file" :class="{ chosen: isChosen }" :data-test="`file-${item.name}`">
    <label class="thumb" :title="isChosen ? 'Leave it out' : 'Choose it'">
      <img
        v-if="item.state === 'ready'"
        :src="`/api/media/${item.hash}/proxy/${Math.floor(item.frameCount / 2)}.jpg`"
        alt=""
      />
      <span v-else-if="item.state === 'failed'" class="weak">{{ item.problem }}</span>
      <span v-else class="dim" role="status">Reading in ...</span>
      <input
        type="checkbox"
        class="form-check-input"
        :checked="isChosen"
        :aria-label="`Choose ${item.name}`"
        @change="emit('choose', ($event.target as HTMLInputElement).checked)"
      />
    </label>
    <div class="facts">
      <NameInPlace :name="item.name" :what="item.name" :keep="rename"
        ><strong class="name" :title="item.fileName">{{ item.name }}</strong></NameInPlace
      >
      <span class="dim mono">{{ facts }}</span>
      <span v-if="item.tags.length > 0" class="tags">
        <button
          v-for="t in item.tags"
          :key="t"
          type="button"
          class="tag"
          :title="`Show all that are tagged ${t}`"
          @click="emit('tag', t)"
        >
          {{ t }}
        </button>
      </span>
      <ul v-if="places.length > 0" class="places">
        <li v-for="p in listed" :key="p.key">
          <RouterLink :to="p.to">{{ p.text }}</RouterLink>
        </li>
        <li v-if="places.length > SOME">
          <BButton variant="link" class="p-0" @click="isOpen = !isOpen">{{
            isOpen ? 'fewer' : `${countText(places.length - SOME, 'place')} more`
          }}</BButton>
        </li>
      </ul>
      <span v-else class="dim">used nowhere</span>
    </div>
  </article>
</template>

<style scoped>
.file {
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink-raised);
  overflow: hidden;
}
.file.chosen {
  border-color: var(--brass);
  box-shadow: 0 0 0 1px var(--brass);
}
.thumb {
  display: grid;
  place-items: center;
  aspect-ratio: 16 / 9;
  background: #161616;
  position: relative;
  cursor: pointer;
}
.thumb img {
  width: 100%;
  height: 100%;
  object-fit: contain;
  position: absolute;
}
.thumb span {
  padding: 1rem;
}
.thumb input {
  position: absolute;
  left: 8px;
  top: 6px;
  width: 1.15rem;
  height: 1.15rem;
}
.facts {
  display: flex;
  flex-direction: column;
  padding: 0.5rem 0.7rem;
  gap: 0.15rem;
}
.name {
  overflow-wrap: anywhere;
}
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.tag {
  border: 1px solid var(--line);
  border-radius: 2px;
  background: none;
  color: var(--text-dim);
  font-size: 0.78rem;
  padding: 0 0.4rem;
}
.tag:hover {
  border-color: var(--brass);
}
.places {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 0.82rem;
}
.weak {
  color: var(--weak);
}
</style>
