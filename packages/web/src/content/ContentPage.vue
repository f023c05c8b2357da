<script setup lang="ts">
/** Made-up content laid out flat: its layers, the picture with handles, the chosen layer's numbers, the frames. */
import { drawnLayer } from '@yarlop/core/dress/content/layer-parts';
import type { ContentLayer } from '@yarlop/core/dress/content/layers';
import { seatOf } from '@yarlop/core/dress/content/layers';
import type { LetterOutlines } from '@yarlop/core/dress/content/letters';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import type { NewLayer } from '@yarlop/core/dress/content/new-layer';
import { newLayer } from '@yarlop/core/dress/content/new-layer';
import { useElementSize } from '@vueuse/core';
import { computed, onMounted, ref, shallowRef, useTemplateRef } from 'vue';
import { onBeforeRouteLeave, useRoute } from 'vue-router';
import { sentence } from '../api';
import { putValue } from '../edits/use-dress';
import { movedInList } from '../edits/moved-in-list';
import { letters as loadLetters } from '../pictures/letters';
import NameInPlace from '../shared/NameInPlace.vue';
import { useMedia } from '../stores/media';
import ContentPicture from './ContentPicture.vue';
import ContentState from './ContentState.vue';
import FrameStrip from './FrameStrip.vue';
import GroundPart from './GroundPart.vue';
import LayerFields from './LayerFields.vue';
import LayerList from './LayerList.vue';
import {
  easeOn,
  keyFrames,
  lastFrameOf,
  withKeysEased,
  withKeysMoved,
  withMembers,
  withoutKeysOn,
} from './content-layers';
import { useContent } from './use-content';
import { useContentKeys } from './use-content-keys';
import { useMadePicture } from './use-made-picture';

const route = useRoute();
const media = useMedia();
const open = useContent(Number(route.params['id']));
const { content, document } = open;
const problem = ref('');
const frame = ref(0);
const length = ref(120);
const playing = ref(false);
const chosen = ref<number | null>(null);
const picking = ref(false);
const letters = shallowRef<LetterOutlines | null>(null);

/** px of the picture that is made: sharper than any page shows it costs time alone. */
const MOST_PX = 900;
/** CSS px left free about the picture: handles stand out beyond it. */
const MARGIN = 48;
/** Where no proportions were set. */
const USUAL = 16 / 10;
const stage = useTemplateRef<HTMLElement>('stage');
const { width: roomX, height: roomY } = useElementSize(stage);
const proportions = computed(() => document.value.proportions ?? USUAL);
const layers = computed((): readonly ContentLayer[] => document.value.layers ?? []);
const layer = computed(() => (chosen.value === null ? undefined : layers.value[chosen.value]));
const size = computed(() => {
  const height = Math.max(60, Math.min(roomY.value - 2 * MARGIN, (roomX.value - 2 * MARGIN) / proportions.value));
  return { width: Math.round(height * proportions.value), height: Math.round(height) };
});
const sizes = computed(() =>
  layers.value.map((l) => {
    const of = l.kind === 'picture' ? media.byHash.get(l.media)?.probe : undefined;
    return letters.value
      ? drawnLayer(l, frame.value, letters.value, of ? of.width / of.height : 1)
      : { width: 0, height: 0 };
  }),
);
/** While a colour is taken from a picture, the picture is there whole. */
const shown = computed((): MadeFill => {
  if (!picking.value || chosen.value === null) return document.value;
  return withLayer(chosen.value, withMembers(layers.value[chosen.value]!, { key: undefined }));
});
const made = useMadePicture(() => {
  if (!content.value || roomX.value === 0) return null;
  const full = Math.min(MOST_PX, Math.round(size.value.height * window.devicePixelRatio));
  const wide = Math.round(full * proportions.value);
  return { document: shown.value, frame: frame.value, size: [wide, full], isDragged: open.isDragged.value };
});

function withLayer(i: number, l: ContentLayer): MadeFill {
  return { ...document.value, layers: layers.value.map((o, k) => (k === i ? l : o)) };
}
function change(i: number, l: ContentLayer, name: string, final: boolean): void {
  if (final) open.edit(name, withLayer(i, l));
  else open.preview(withLayer(i, l));
}
const setLayers = (name: string, next: readonly ContentLayer[]): void =>
  open.edit(name, { ...document.value, layers: next });
function add(what: NewLayer): void {
  const file = media.all.find((m) => m.state === 'ready')?.hash ?? '';
  setLayers('Add layer', [...layers.value, newLayer(what, file)]);
  chosen.value = layers.value.length - 1;
}
function move(i: number, by: 1 | -1): void {
  setLayers('Order layers', movedInList(layers.value, i, by));
  if (chosen.value === i) chosen.value = i + by;
}
function copy(i: number): void {
  setLayers('Copy layer', layers.value.toSpliced(i + 1, 0, layers.value[i]!));
  chosen.value = i + 1;
}
function remove(i: number): void {
  chosen.value = null;
  picking.value = false;
  setLayers(
    'Delete layer',
    layers.value.filter((_, k) => k !== i),
  );
}
function mute(i: number): void {
  const { off } = layers.value[i]!;
  change(i, withMembers(layers.value[i]!, { off: off ? undefined : true }), off ? 'Show layer' : 'Hide layer', true);
}
function choose(i: number | null): void {
  chosen.value = i;
  picking.value = false;
}
function pickKey(colour: readonly number[]): void {
  picking.value = false;
  const l = layer.value;
  if (l?.kind === 'picture' && l.key) change(chosen.value!, withMembers(l, { key: { ...l.key, colour } }), 'Take colour of key', true); // prettier-ignore
}
function nudge(dx: number, dy: number): boolean {
  const l = layer.value;
  if (!l) return false;
  const { x, y } = seatOf(l, frame.value);
  const across = putValue(l.x, frame.value, Number((x + dx / 1000 / proportions.value).toFixed(6)));
  const down = putValue(l.y, frame.value, Number((y + dy / 1000).toFixed(6)));
  change(chosen.value!, withMembers(l, { x: across, y: down }), 'Nudge layer', true);
  return true;
}
const keyed = (name: string, how: (l: ContentLayer) => ContentLayer): void => {
  if (layer.value) change(chosen.value!, how(layer.value), name, true);
};
const go = (to: number): void => void (frame.value = Math.min(length.value - 1, Math.max(0, to)));

useContentKeys({
  play: () => (playing.value = !playing.value),
  step: (by) => go(frame.value + by),
  go: (to) => go(to === 'first' ? 0 : length.value - 1),
  nudge,
  remove: () => chosen.value !== null && remove(chosen.value),
  leave: () => choose(null),
  undo: () => open.undo(),
  redo: () => open.redo(),
});

onMounted(async () => {
  try {
    await open.load();
    await media.load(content.value!.productionId);
    letters.value = await loadLetters();
    length.value = Math.max(length.value, lastFrameOf(layers.value) + 1);
  } catch (e) {
    problem.value = sentence(e);
  }
});
// Screens show it as it is left.
onBeforeRouteLeave(async () => {
  await open.show().catch(() => {});
});
</script>

<template>
  <main class="content-page">
    <BAlert v-if="problem" :model-value="true" variant="warning">{{ problem }}</BAlert>
    <template v-if="content">
      <header>
        <RouterLink v-if="route.query['back']" :to="String(route.query['back'])" data-test="content-back"
          ><i class="bi bi-arrow-left" aria-hidden="true" /> Back to the shot</RouterLink
        >
        <RouterLink v-else :to="`/productions/${content.productionId}/library`" data-test="content-back"
          ><i class="bi bi-arrow-left" aria-hidden="true" /> Library</RouterLink
        >
        <h1><NameInPlace :name="content.name" what="the content" :keep="open.rename" /></h1>
        <ContentState :open="open" />
      </header>
      <aside class="side">
        <LayerList
          :layers="layers"
          :chosen="chosen"
          @choose="choose"
          @add="add"
          @mute="mute"
          @move="move"
          @copy="copy"
          @remove="remove"
        />
        <GroundPart
          :document="document"
          :proportions="proportions"
          @change="(name, part) => open.edit(name, { ...document, ...part })"
        />
      </aside>
      <div ref="stage" class="stage">
        <ContentPicture
          v-if="roomX > 0"
          :layers="layers"
          :sizes="sizes"
          :chosen="chosen"
          :frame="frame"
          :width="size.width"
          :height="size.height"
          :picture="made.picture.value"
          :is-newest="made.isNewest.value"
          :picking="picking"
          :data-frame="made.frame.value"
          data-test="content-view"
          @choose="choose"
          @change="change"
          @pick="pickKey"
        />
        <p v-if="made.problem.value" class="weak">{{ made.problem.value }}</p>
      </div>
      <aside class="side right">
        <LayerFields
          v-if="layer"
          :key="chosen!"
          :layer="layer"
          :frame="frame"
          :picking="picking"
          @change="(l, name, final) => change(chosen!, l, name, final)"
          @pick="picking = !picking"
        />
        <p v-else class="dim">
          Choose a layer in the list or on the picture: its words, colours and numbers stand here. A drop beside a
          number lets it change from frame to frame.
        </p>
      </aside>
      <FrameStrip
        class="frames"
        :frame="frame"
        :length="length"
        :keys="layer ? keyFrames(layer) : []"
        :ease="layer ? easeOn(layer, frame) : null"
        :playing="playing"
        @go="go"
        @length="length = $event"
        @playing="playing = $event"
        @move="(from, to) => keyed('Move keys', (l) => withKeysMoved(l, from, to, length - 1))"
        @ease="(ease) => keyed('Ease keys', (l) => withKeysEased(l, frame, ease))"
        @remove="keyed('Delete keys', (l) => withoutKeysOn(l, frame))"
      />
    </template>
  </main>
</template>

<style scoped>
.content-page {
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / 16rem minmax(0, 1fr) 20rem;
  grid-template-areas: 'head head head' 'left stage right' 'left frames right';
  height: 100%;
}
header {
  grid-area: head;
  display: flex;
  gap: 1rem;
  align-items: center;
  padding: 6px 12px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 1rem;
  margin: 0;
}
.side {
  grid-area: left;
  padding: 8px;
  overflow: hidden auto;
  border-right: 1px solid var(--line);
  background: var(--ink-raised);
  font-size: 0.8125rem;
}
.side.right {
  grid-area: right;
  border-right: 0;
  border-left: 1px solid var(--line);
}
.stage {
  grid-area: stage;
  display: flex;
  align-items: center;
  justify-content: center;
  overflow: hidden;
  background: var(--surround);
}
.frames {
  grid-area: frames;
}
</style>
