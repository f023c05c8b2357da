<script setup lang="ts">
/** A fill made up here: a ground or background, a clip before it with its own key, and lines of text. */
import type { Foreground, MadeFill, TextLine } from '@yarlop/core/dress/content/made-fill';
import { FONTS } from '@yarlop/core/dress/content/letters';
import { computed } from 'vue';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { hexOf, rgbOf } from '../shared/colour-hex';
import type { Recipe } from '../types';
import AnimatedControl from './AnimatedControl.vue';
import { controlOf } from '../edits/use-dress';

const store = useShot();
const media = useMedia();
const playhead = usePlayhead();
const made = computed(() => store.chosen?.recipe.fill?.made as MadeFill | undefined);
const clips = computed(() => media.all.filter((m) => m.hash !== store.shot?.mediaHash));
let before: Recipe | null = null;
function write(name: string, next: MadeFill, final = true): void {
  const s = store.chosen;
  if (!s) return;
  before ??= s.recipe;
  const after = { ...before, fill: { ...before.fill, made: next } } as Recipe;
  if (!final) return store.preview(s.id, after);
  store.edit(name, after, before);
  before = null;
}
const set = (name: string, part: Partial<MadeFill>, final = true): void =>
  write(name, { ...made.value!, ...part }, final);
const setLine = (i: number, part: Partial<TextLine>, name: string, final = true): void =>
  set(name, { lines: made.value!.lines!.map((l, k) => (k === i ? { ...l, ...part } : l)) }, final);
const setForeground = (part: Partial<Foreground>, name: string, final = true): void =>
  set(name, { foreground: { ...made.value!.foreground!, ...part } }, final);
function chooseForeground(hash: string): void {
  const { foreground, ...rest } = made.value!;
  write('Choose foreground', hash ? { ...rest, foreground: { ...foreground, media: hash } } : rest);
}
const value = (e: Event): string => (e.target as HTMLInputElement).value;
const PLACES = [
  {
    field: 'x',
    label: 'Across',
    min: -1,
    max: 2,
    step: 0.005,
    base: 0.5,
    help: 'Where its middle stands, shares of the width',
  },
  {
    field: 'y',
    label: 'Down',
    min: -1,
    max: 2,
    step: 0.005,
    base: 0.5,
    help: 'Where its middle stands, shares of the height',
  },
  { field: 'opacity', label: 'Opacity', min: 0, max: 1, step: 0.01, base: 1, help: 'How much of it shows' },
] as const;
const SCALE = {
  field: 'scale',
  label: 'Scale',
  min: 0.02,
  max: 4,
  step: 0.01,
  base: 1,
  help: 'Its height by the height of the fill',
} as const;
const SIZE = {
  field: 'size',
  label: 'Size',
  min: 0.01,
  max: 1,
  step: 0.005,
  base: 0.1,
  help: 'Height of the letters, shares of the height of the fill',
} as const;
</script>

<template>
  <div v-if="made" class="made" data-test="made">
    <label class="row-of"
      ><span class="dim">ground</span
      ><input
        type="color"
        :value="hexOf(made.ground)"
        title="Colour where there is no background picture; choose a picture above for its background"
        data-test="made-ground"
        @change="set('Set ground', { ground: rgbOf(value($event)) })"
    /></label>
    <label class="row-of"
      ><span class="dim">before it</span
      ><select
        class="form-select"
        :value="made.foreground?.media ?? ''"
        title="A picture or clip before the background, such as a person to be keyed"
        data-test="made-foreground"
        @change="chooseForeground(value($event))"
      >
        <option value="">nothing</option>
        <option v-for="m in clips" :key="m.hash" :value="m.hash">{{ m.name }}</option>
      </select></label
    >
    <template v-if="made.foreground">
      <AnimatedControl
        v-for="f in [...PLACES, SCALE]"
        :key="f.field"
        :name="`foreground-${f.field}`"
        :label="f.label"
        :help="f.help"
        :min="f.min"
        :max="f.max"
        :step="f.step"
        v-bind="
          controlOf(made.foreground[f.field], playhead.frame, f.base, (v, final) =>
            setForeground({ [f.field]: v }, `Set foreground ${f.field}`, final),
          )
        "
      />
      <div class="row-of">
        <BFormCheckbox
          :model-value="Boolean(made.foreground.key)"
          title="Takes a colour out of it, such as the chroma paint behind a person"
          @update:model-value="
            setForeground(
              { key: $event ? { colour: [0.16, 0.62, 0.26], gone: 0.25, solid: 0.6 } : undefined } as never,
              'Key foreground',
            )
          "
          >keyed</BFormCheckbox
        ><input
          v-if="made.foreground.key"
          type="color"
          :value="hexOf(made.foreground.key.colour)"
          title="Colour that is taken out"
          @change="
            setForeground({ key: { ...made.foreground!.key!, colour: rgbOf(value($event)) } }, 'Set key of foreground')
          "
        />
      </div>
    </template>
    <div v-for="(l, i) in made.lines ?? []" :key="i" class="line" :data-test="`line-${i}`">
      <div class="d-flex gap-1">
        <input
          class="form-control"
          :value="l.text"
          maxlength="200"
          :aria-label="`Text of line ${i + 1}`"
          title="What the line says"
          :data-test="`line-${i}-text`"
          @change="setLine(i, { text: value($event) }, 'Write line')"
        /><input
          type="color"
          :value="hexOf(l.colour ?? [1, 1, 1])"
          :aria-label="`Colour of line ${i + 1}`"
          title="Colour of the letters"
          @change="setLine(i, { colour: rgbOf(value($event)) }, 'Colour line')"
        />
        <button
          type="button"
          class="icon"
          title="Delete this line"
          :aria-label="`Delete line ${i + 1}`"
          @click="set('Delete line', { lines: made.lines!.filter((_, k) => k !== i) })"
        >
          <i class="bi bi-trash3" aria-hidden="true" />
        </button>
      </div>
      <div class="d-flex gap-1">
        <BFormSelect
          :model-value="l.font ?? 'sans'"
          :options="[...FONTS]"
          :aria-label="`Font of line ${i + 1}`"
          title="One of the shipped fonts, drawn as outlines"
          @update:model-value="setLine(i, { font: $event as TextLine['font'] } as never, 'Set font')"
        /><BFormSelect
          :model-value="l.align ?? 'middle'"
          :options="['left', 'middle', 'right']"
          :aria-label="`Alignment of line ${i + 1}`"
          title="Which of its ends stands at its place"
          @update:model-value="setLine(i, { align: $event as TextLine['align'] } as never, 'Align line')"
        />
      </div>
      <AnimatedControl
        v-for="f in [...PLACES, SIZE]"
        :key="f.field"
        :name="`line-${i}-${f.field}`"
        :label="f.label"
        :help="f.help"
        :min="f.min"
        :max="f.max"
        :step="f.step"
        v-bind="
          controlOf(l[f.field], playhead.frame, f.base, (v, final) =>
            setLine(i, { [f.field]: v }, `Set line ${f.field}`, final),
          )
        "
      />
    </div>
    <BButton
      variant="outline-secondary"
      title="A line of text more: its place, size and opacity can be keyed"
      data-test="add-line"
      @click="
        set('Add line', {
          lines: [
            ...(made.lines ?? []),
            { text: 'Gale warning', font: 'sans bold', size: 0.1, y: 0.2 + 0.15 * (made.lines?.length ?? 0) },
          ],
        })
      "
      >Add a line of text</BButton
    >
  </div>
</template>

<style scoped>
.made {
  border-left: 2px solid var(--line);
  padding-left: 0.5rem;
  margin-top: 0.5rem;
  font-size: 0.8125rem;
}
.row-of {
  display: grid;
  grid-template-columns: 5.4rem 1fr;
  gap: 4px;
  align-items: center;
  margin-bottom: 3px;
}
.line {
  border-top: 1px solid var(--line);
  padding: 4px 0;
}
input[type='color'] {
  width: 2.2rem;
  height: 1.5rem;
  padding: 0;
  border: 1px solid var(--line);
  background: none;
}
.icon {
  background: none;
  border: 0;
  padding: 0;
  color: var(--text-dim);
}
.form-select {
  padding-block: 0.1rem;
  font-size: 0.8125rem;
}
</style>
