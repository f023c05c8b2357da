<script setup lang="ts">
/** Darkest, mean and brightest of the measured box, of the plate and of what is laid over it, while it plays as well. */
import { computed } from 'vue';
import type { BoxFigures } from '@yarlop/core/dress/colour/box-figures';
import { boxFigures } from '@yarlop/core/dress/colour/box-figures';
import { codeText, rangeChoices } from '../shared/format';
import { pixelsIn } from '../shared/pixels';
import type { SeenPicture } from '../shared/picture-request';
import { useView } from '../stores/view';

const view = useView();
const COLUMNS = ['darkest', 'mean', 'brightest'] as const;

/** Of the box in one of a picture's parts; null where that is not there, or the box is not in it. */
function figuresIn(seen: SeenPicture, of: SeenPicture['canvas'] | ImageBitmap | null): BoxFigures | null {
  const b = view.box;
  if (!b || !of) return null;
  const k = of.width / seen.at.width;
  const pixels = pixelsIn(of, {
    x: Math.round((b.x - seen.at.x) * k),
    y: Math.round((b.y - seen.at.y) * k),
    width: Math.max(1, Math.round(b.width * k)),
    height: Math.max(1, Math.round(b.height * k)),
  });
  return pixels && boxFigures(pixels);
}
const rows = computed(() => {
  const seen = view.seen;
  if (!seen || !view.box) return [];
  const shown = figuresIn(seen, seen.canvas);
  if (!seen.isLaidOver) return [{ name: 'plate', figures: shown }];
  return [
    { name: 'plate', figures: figuresIn(seen, seen.plate) },
    { name: 'shown', figures: shown },
  ];
});
const told = (values: readonly number[]): string => values.map((v) => codeText(v, view.white)).join('  ');
</script>

<template>
  <div v-if="view.box" class="figures mono" role="group" aria-label="Values in the box" data-test="box-figures">
    <div class="head">
      <span
        >{{ view.box.width }}x{{ view.box.height }} px at {{ view.box.x }}, {{ view.box.y }}, frame
        {{ view.seen?.frame }}</span
      >
      <BFormSelect
        v-model="view.white"
        size="sm"
        aria-label="Range of code values"
        title="The range that code values are told in, here and below the picture"
        data-test="box-range"
        :options="rangeChoices"
      />
      <BButton
        size="sm"
        variant="outline-secondary"
        title="Take the box away (Shift+A)"
        aria-label="Take the box away"
        data-test="box-away"
        @click="view.box = null"
        ><i class="bi bi-x" aria-hidden="true"
      /></BButton>
    </div>
    <table>
      <thead>
        <tr>
          <th />
          <th v-for="c in COLUMNS" :key="c" scope="col">{{ c }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.name" :data-test="`box-${row.name}`">
          <th scope="row">{{ row.name }}</th>
          <template v-if="row.figures">
            <td v-for="c in COLUMNS" :key="c">{{ told(row.figures[c]) }}</td>
          </template>
          <td v-else colspan="3" class="dim">
            {{ row.name === 'plate' ? 'not read while the view rides' : 'not in what is seen' }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.figures {
  position: absolute;
  left: 8px;
  bottom: 42px;
  padding: 4px 8px;
  font-size: 0.75rem;
  background: var(--ink);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.head span {
  flex: 1 1 auto;
}
.head select {
  width: auto;
  padding-block: 0;
  font-size: 0.75rem;
}
.head button {
  padding: 0 4px;
}
th {
  font-weight: normal;
  color: var(--text-dim);
  padding-right: 0.9rem;
}
td {
  padding-right: 1.2rem;
  white-space: pre;
}
</style>
