<script setup lang="ts">
/** Regions of the plate that are graded, and marks that are painted out. */
import type { Levels } from '@yarlop/core/dress/colour/levels';
import type { Graded, PaintedOut, Retouch } from '@yarlop/core/dress/retouch/retouch';
import { boundsOf } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import BenchSection from '../bench/BenchSection.vue';
import { controlOf, useDress } from '../edits/use-dress';
import { useDressList } from '../edits/use-dress-list';
import NumberField from '../shared/NumberField.vue';
import { usePlayhead } from '../stores/playhead';
import { useView } from '../stores/view';
import AnimatedControl from './AnimatedControl.vue';
import { LEVELS } from './dress-controls';
import ListedRow from './ListedRow.vue';
import OutlineControls from './OutlineControls.vue';
import { setWords } from './part-words';

const { recipe, dress } = useDress();
const { list, change, row, on } = useDressList('retouches');
const view = useView();
const playhead = usePlayhead();
/** Levels that a region of the plate has: the others are for fills. */
const GRADES = LEVELS.filter((c) => c.field !== 'sync');
const HELP: Readonly<Partial<Record<string, string>>> = {
  gain: 'Multiplies the light in the region',
  opacity: 'How far the change shows',
};
const SOURCES = [
  { value: 'around', text: 'what is around it' },
  { value: 'beside', text: 'a place beside it' },
  { value: 'frame', text: 'another frame' },
];
const MIRRORS = [
  { value: '', text: 'as it is' },
  { value: 'across', text: 'mirrored left to right' },
  { value: 'down', text: 'mirrored top to bottom' },
];

const control = (r: Retouch, i: number, field: 'softness') =>
  controlOf(r[field], playhead.frame, 0, (v, final) => change(i, { [field]: v }, 'Set edge of region', final));
const blur = (r: Graded, i: number) =>
  controlOf(r.blur, playhead.frame, 0, (v, final) => change(i, { blur: v }, 'Blur region', final));
function grade(r: Graded, i: number, field: string, base: number) {
  const now = r.levels?.[field as 'gain'];
  return controlOf(now, playhead.frame, base, (v, final) => {
    const { [field as 'gain']: _old, ...rest } = r.levels ?? {};
    const levels: Levels = v === undefined ? rest : { ...rest, [field]: v };
    change(i, { levels: Object.keys(levels).length > 0 ? levels : undefined }, `Grade: ${field}`, final);
  });
}
/** Sizes of a mark by which what is taken lies beside it until somebody drags it. By eye. */
const ASIDE = 1.3;
/** A place beside a mark, away from the Screen: there it is most likely that nothing else stands. */
function besideOf({ points }: PaintedOut): [number, number] {
  const b = boundsOf(points);
  const size = Math.max(b.x1 - b.x0, b.y1 - b.y0);
  const pin = boundsOf(recipe.value!.pin as Quad);
  const away = [(b.x0 + b.x1 - pin.x0 - pin.x1) / 2, (b.y0 + b.y1 - pin.y0 - pin.y1) / 2] as const;
  const far = Math.hypot(...away) || 1;
  return [Math.round((ASIDE * size * away[0]) / far), Math.round((ASIDE * size * away[1]) / far)];
}
function takeFrom(i: number, from: PaintedOut['from']): void {
  const r = list.value[i] as PaintedOut;
  const offset = r.offset ?? besideOf(r);
  const part: Partial<PaintedOut> = { from };
  if (from === 'beside') Object.assign(part, { offset });
  if (from === 'frame') Object.assign(part, { frame: r.frame ?? playhead.frame });
  change(i, part, 'Set where a mark is painted from');
}
</script>

<template>
  <BenchSection title="Retouching" :said="setWords(dress, 'retouches')">
    <template #note>the plate itself</template>
    <div v-for="(r, i) in list" :key="i" class="retouch" :data-test="`retouch-${i}`">
      <ListedRow v-bind="row(i)" :title="r.kind === 'grade' ? 'graded region' : 'painted out'" v-on="on(i)" />
      <template v-if="r.kind === 'paint-out'">
        <label class="labelled"
          ><span>filled from</span
          ><BFormSelect
            :model-value="r.from"
            :options="SOURCES"
            title="Where the picture comes from that covers the mark; its level follows what is around the mark"
            :data-test="`paint-from-${i}`"
            @update:model-value="takeFrom(i, $event as PaintedOut['from'])"
        /></label>
        <label v-if="r.from === 'beside'" class="labelled"
          ><span>taken</span
          ><BFormSelect
            :model-value="r.mirror ?? ''"
            :options="MIRRORS"
            title="Drag the dashed outline on the picture to where it is taken from"
            :data-test="`paint-mirror-${i}`"
            @update:model-value="change(i, { mirror: ($event || undefined) as PaintedOut['mirror'] }, 'Mirror')"
        /></label>
        <div v-if="r.from === 'frame'" class="labelled">
          <span>frame</span>
          <span class="d-flex gap-1"
            ><NumberField
              whole
              :min="0"
              :max="playhead.count - 1"
              :model-value="r.frame ?? 0"
              aria-label="Frame it is taken from"
              title="A frame on which the mark is gone or lies elsewhere; the plane brings it here"
              :data-test="`paint-frame-${i}`"
              @update:model-value="change(i, { frame: $event }, 'Set frame it is taken from')"
            /><BButton
              variant="outline-secondary"
              size="sm"
              class="text-nowrap"
              title="Take it from the frame shown"
              @click="change(i, { frame: playhead.frame }, 'Set frame it is taken from')"
              >This frame</BButton
            ></span
          >
        </div>
      </template>
      <template v-else>
        <AnimatedControl
          v-for="c in GRADES"
          :key="c.field"
          :name="`grade-${i}-${c.field}`"
          :label="c.label"
          :help="HELP[c.field] ?? c.help"
          :min="c.min"
          :max="c.max"
          :step="c.step"
          v-bind="grade(r, i, c.field, c.base)"
        />
        <AnimatedControl
          :name="`grade-${i}-blur`"
          label="Blur"
          help="Blurs the plate in the region, sigma in px of the reference frame"
          :min="0"
          :max="40"
          :step="0.1"
          v-bind="blur(r, i)"
        />
        <BFormCheckbox
          :model-value="r.after ?? false"
          title="The region lies over the dressed picture, the fill included, instead of on the plate under it"
          :data-test="`grade-after-${i}`"
          @update:model-value="change(i, { after: $event ? true : undefined }, 'Grade over the fill')"
          >over the fill too</BFormCheckbox
        >
      </template>
      <AnimatedControl
        :name="`retouch-soft-${i}`"
        label="edge width"
        help="Width of the edge, px"
        :min="0"
        :max="80"
        :step="0.5"
        v-bind="control(r, i, 'softness')"
      />
      <OutlineControls :of="{ part: 'retouches', index: i }" :outline="r" />
    </div>
    <div class="d-flex gap-1 flex-wrap">
      <BButton
        variant="outline-secondary"
        title="Draw around a part of the plate whose colours or sharpness are to change: green light on a key, a reflection"
        data-test="draw-grade"
        @click="view.tool = { kind: 'draw-patch', patch: 'grade' }"
        >Grade a region</BButton
      >
      <BButton
        variant="outline-secondary"
        title="Draw around a mark on bezel, table or glass that is to go; its surroundings close over it"
        data-test="draw-paint-out"
        @click="view.tool = { kind: 'draw-patch', patch: 'paint-out' }"
        >Paint out a mark</BButton
      >
    </div>
  </BenchSection>
</template>

<style scoped>
.retouch {
  border-left: 2px solid var(--line);
  padding-left: 0.5rem;
  margin-bottom: 0.5rem;
  font-size: 0.8125rem;
}
</style>
