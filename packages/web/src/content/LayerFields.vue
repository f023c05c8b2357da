<script setup lang="ts">
/** What the chosen layer is made of: its words, fields, colours, numbers with their keys, and when it shows. */
import { FONTS } from '@yarlop/core/dress/content/letters';
import type { Animated } from '@yarlop/core/dress/base/keys';
import { PIECE_COLOURS, WHITE } from '@yarlop/core/dress/content/layer-parts';
import type { ContentLayer, PictureKey } from '@yarlop/core/dress/content/layers';
import { pieceOf } from '@yarlop/core/dress/content/pieces';
import { computed } from 'vue';
import AnimatedControl from '../dress/AnimatedControl.vue';
import { controlOf } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';
import { hexOf, rgbOf } from '../shared/colour-hex';
import { useMedia } from '../stores/media';
import KeyedPicture from './KeyedPicture.vue';
import { withMembers } from './content-layers';
import { controlsOf } from './layer-controls';

const props = defineProps<{ layer: ContentLayer; frame: number; picking: boolean }>();
const emit = defineEmits<{ change: [layer: ContentLayer, name: string, final: boolean]; pick: [] }>();
const media = useMedia();
const clips = computed(() => media.all.filter((m) => m.state === 'ready'));

function set(members: object, name: string, final = true): void {
  emit('change', withMembers(props.layer, members), name, final);
}
const valueOf = (e: Event): string => (e.target as HTMLInputElement).value;
const bound = (field: string, label: string, base: number) =>
  controlOf((props.layer as unknown as Record<string, Animated>)[field], props.frame, base, (v, final) =>
    set({ [field]: v }, `Set ${label.toLowerCase()}`, final),
  );

/** Colours that a layer has, by the names of its members. */
const colours = computed(() => {
  const { layer } = props;
  if (layer.kind === 'picture') return [];
  const own = [{ field: 'colour', label: layer.kind === 'piece' ? 'Accent' : 'Colour', value: layer.colour }] as const;
  if (layer.kind !== 'piece') return own;
  return [...own, { field: 'paper', label: 'Card', value: layer.paper }, { field: 'ink', label: 'Text', value: layer.ink }] as const; // prettier-ignore
});
const shownColour = (field: keyof typeof PIECE_COLOURS, value: readonly number[] | undefined): string =>
  hexOf(value ?? (props.layer.kind === 'piece' ? PIECE_COLOURS[field] : WHITE));
const fields = computed(() => (props.layer.kind === 'piece' ? pieceOf(props.layer.piece).fields : []));
const written = (id: string, base: string): string =>
  (props.layer.kind === 'piece' ? props.layer.fields?.[id] : undefined) ?? base;
function write(id: string, text: string): void {
  if (props.layer.kind === 'piece') set({ fields: { ...props.layer.fields, [id]: text } }, 'Write field');
}
const setKey = (key: PictureKey | undefined, name: string): void => set({ key }, name);
</script>

<template>
  <section aria-label="The chosen layer" data-test="layer-fields">
    <template v-if="layer.kind === 'words'">
      <textarea
        class="form-control mb-1"
        rows="2"
        maxlength="2000"
        :value="layer.text"
        aria-label="What it says"
        title="What it says; lines may be broken"
        data-test="layer-text"
        @change="set({ text: valueOf($event) }, 'Write words')"
      />
      <div class="d-flex gap-1 mb-1">
        <BFormSelect
          :model-value="layer.font ?? 'sans'"
          :options="[...FONTS]"
          aria-label="Font"
          title="One of the shipped fonts, drawn as outlines"
          @update:model-value="set({ font: $event }, 'Set font')"
        /><BFormSelect
          :model-value="layer.align ?? 'middle'"
          :options="['left', 'middle', 'right']"
          aria-label="Alignment"
          title="How its lines stand to one another"
          @update:model-value="set({ align: $event }, 'Align words')"
        />
      </div>
    </template>
    <template v-for="f in fields" :key="f.id">
      <label class="labelled"
        ><span class="dim">{{ f.label }}</span
        ><textarea
          v-if="f.isLong"
          class="form-control"
          rows="4"
          maxlength="2000"
          :value="written(f.id, f.base)"
          :title="
            f.id === 'lines' ? 'One line each; those that begin with > are the Screen\'s own' : 'What is written there'
          "
          :data-test="`field-${f.id}`"
          @change="write(f.id, valueOf($event))" /><input
          v-else
          class="form-control"
          maxlength="200"
          :value="written(f.id, f.base)"
          title="What is written there"
          :data-test="`field-${f.id}`"
          @change="write(f.id, valueOf($event))"
      /></label>
    </template>
    <label v-if="layer.kind === 'picture'" class="labelled"
      ><span class="dim">File</span
      ><select
        class="form-select"
        :value="layer.media"
        title="A picture or clip of the library"
        data-test="layer-media"
        @change="set({ media: valueOf($event) }, 'Choose file')"
      >
        <option v-for="m in clips" :key="m.hash" :value="m.hash">{{ m.name }}</option>
      </select></label
    >
    <label v-if="layer.kind === 'picture'" class="labelled"
      ><span class="dim">Begins</span
      ><NumberField
        :model-value="layer.start ?? 0"
        whole
        :min="-100000"
        :max="100000"
        title="Frame of the content on which a clip begins"
        @update:model-value="set({ start: $event || undefined }, 'Set begin')"
    /></label>
    <div v-if="colours.length > 0" class="d-flex gap-2 my-1">
      <label v-for="c in colours" :key="c.field" class="d-flex gap-1 align-items-center"
        ><input
          type="color"
          :value="shownColour(c.field, c.value)"
          :title="`${c.label} of this layer`"
          :data-test="`layer-${c.field}`"
          @change="set({ [c.field]: rgbOf(valueOf($event)) }, 'Set colour')"
        /><span class="dim">{{ c.label }}</span></label
      >
    </div>
    <AnimatedControl
      v-for="c in controlsOf(layer)"
      :key="c.field"
      :name="`layer-${c.field}`"
      :label="c.label"
      :help="c.help"
      :min="c.min"
      :max="c.max"
      :step="c.step"
      v-bind="bound(c.field, c.label, c.base)"
    />
    <KeyedPicture
      v-if="layer.kind === 'picture'"
      class="mt-2"
      :layer="layer"
      :picking="picking"
      @key="setKey"
      @pick="emit('pick')"
    />
    <div class="labelled mt-2">
      <span class="dim">Shows from</span>
      <span class="d-flex gap-1 align-items-center"
        ><NumberField
          optional
          whole
          :model-value="layer.from ?? null"
          placeholder="first"
          :min="-100000"
          :max="100000"
          aria-label="First frame on which it shows"
          title="First frame on which it shows"
          data-test="layer-from"
          @update:model-value="set({ from: $event ?? undefined }, 'Set when it shows')" /><span class="dim">to</span
        ><NumberField
          optional
          whole
          :model-value="layer.to ?? null"
          placeholder="last"
          :min="-100000"
          :max="100000"
          aria-label="Last frame on which it shows"
          title="Last frame on which it shows"
          @update:model-value="set({ to: $event ?? undefined }, 'Set when it shows')"
      /></span>
    </div>
    <label class="labelled"
      ><span class="dim">Name</span
      ><input
        class="form-control"
        maxlength="120"
        :value="layer.name ?? ''"
        placeholder="by what it shows"
        title="How it is called in the list"
        @change="set({ name: valueOf($event).trim() || undefined }, 'Name layer')"
    /></label>
  </section>
</template>

<style scoped>
.form-control,
.form-select {
  padding: 0.1rem 0.3rem;
  font-size: 0.8125rem;
}
</style>
