<script setup lang="ts">
/** When a clip in the slot plays, and how its code values become light. */
import { curveChoices, primariesChoices } from '../shared/colour-names';
import { computed } from 'vue';
import { useDress } from '../edits/use-dress';
import NumberField from '../shared/NumberField.vue';
import TableSelect from '../shared/TableSelect.vue';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';

type Fill = NonNullable<Recipe['fill']>;
const store = useShot();
const media = useMedia();
const playhead = usePlayhead();
const { recipe } = useDress();
const fill = computed(() => recipe.value?.fill);
const clip = computed(() => (fill.value?.media ? media.byHash.get(fill.value.media) : undefined));
const ENDS = [
  { value: 'hold', text: 'holds its last picture' },
  { value: 'loop', text: 'begins again' },
];
const PRIMARIES = primariesChoices('auto', 'bt709', 'bt2020', 'p3', 'p3-dci', 'bt601-625', 'bt601-525', 'ap0', 'ap1');
const CURVES = curveChoices('auto', 'srgb', 'bt709', 'gamma22', 'gamma24', 'linear', 'pq', 'hlg', 'acescct', 'acescc');
function fillPart(name: string, part: Partial<Fill>): void {
  if (recipe.value?.fill) store.edit(name, { ...recipe.value, fill: { ...recipe.value.fill, ...part } });
}
function setTable(hash: string | null): void {
  const { table, ...rest } = recipe.value!.fill!;
  void table;
  store.edit('Set colour table of fill', { ...recipe.value!, fill: hash ? { ...rest, table: hash } : rest });
}
</script>

<template>
  <details v-if="fill" class="mt-2">
    <summary title="When the clip begins, how fast it plays, and how its code values become light">
      Time and colour
    </summary>
    <div v-if="(clip?.frameCount ?? 1) > 1" class="pairs">
      <span>begins on frame</span
      ><span class="d-flex gap-1"
        ><NumberField
          whole
          :model-value="fill.start ?? 0"
          aria-label="Frame on which the clip begins"
          title="Frame of the plate on which the clip begins"
          data-test="fill-start"
          @update:model-value="fillPart('Set start of fill', { start: $event })"
        /><BButton
          variant="outline-secondary"
          title="The clip begins on this frame"
          @click="fillPart('Set start of fill', { start: playhead.frame })"
          >Here</BButton
        ></span
      >
      <span>speed</span
      ><NumberField
        :min="0"
        :max="100"
        :step="0.1"
        :model-value="fill.speed ?? 1"
        aria-label="Speed of the clip"
        title="1 as it is; 0 stands still"
        data-test="fill-speed"
        @update:model-value="fillPart('Set speed of fill', { speed: $event })"
      />
      <span>after its end</span
      ><BFormSelect
        :model-value="fill.end ?? 'hold'"
        :options="ENDS"
        title="What follows the clip's last picture"
        data-test="fill-end"
        @update:model-value="fillPart('Set end of fill', { end: $event as Fill['end'] })"
      />
      <span>its rate</span
      ><BFormSelect
        :model-value="fill.rate ?? 'time'"
        :options="[
          { value: 'time', text: 'keeps its own time' },
          { value: 'frames', text: 'a picture a frame' },
        ]"
        title="Whether a clip of another rate keeps its time or goes picture by picture"
        @update:model-value="fillPart('Set rate of fill', { rate: $event as Fill['rate'] })"
      />
      <BFormCheckbox
        :model-value="fill.reverse ?? false"
        title="Play it from its end to its beginning"
        @update:model-value="fillPart('Reverse fill', { reverse: Boolean($event) })"
        >backwards</BFormCheckbox
      >
    </div>
    <div class="pairs">
      <span>its curve</span
      ><BFormSelect
        :model-value="fill.transfer ?? 'auto'"
        :options="CURVES"
        title="By which curve its code values become light; pictures made for displays keep their code values in a display plate"
        @update:model-value="fillPart('Set curve of fill', { transfer: $event as Fill['transfer'] })"
      />
      <span>its primaries</span
      ><BFormSelect
        :model-value="fill.primaries ?? 'auto'"
        :options="PRIMARIES"
        title="Which red, green and blue its numbers mean"
        data-test="fill-primaries"
        @update:model-value="fillPart('Set primaries of fill', { primaries: $event as Fill['primaries'] })"
      />
      <span>goes through</span>
      <div>
        <TableSelect
          :chosen="fill.table ?? null"
          label="Colour table of the fill"
          help="A colour table that its code values go through first"
          name="fill-table"
          @choose="setTable"
        />
      </div>
    </div>
  </details>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: 6.2rem 1fr;
  gap: 3px 6px;
  align-items: center;
  font-size: 0.8125rem;
  margin-top: 3px;
}
summary {
  color: var(--text-dim);
}
</style>
