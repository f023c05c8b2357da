<script setup lang="ts">
/** What was drawn on the picture for notes on the frame shown, and the stroke that is being drawn. */
import { computed, ref } from 'vue';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useReview } from '../stores/review';
import { useView } from '../stores/view';
import type { useViewport } from './use-viewport';

/** Px of the view between the places of a stroke. By eye. */
const STEP = 2.5;

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const playhead = usePlayhead();
const review = useReview();
const view = useView();
/** px of the view */
const stroke = ref<Point[]>([]);

const lineOf = (flat: readonly number[]): string =>
  Array.from({ length: flat.length / 2 }, (_, i) => props.port.toView([flat[2 * i]!, flat[2 * i + 1]!]).join()).join(
    ' ',
  );
const drawn = computed(() => {
  const { draft } = review;
  const isHere = draft && draft.from <= playhead.frame && playhead.frame <= draft.to;
  const notes = review.here.map((n) => ({ key: `n${n.id}`, strokes: n.strokes, isOpen: n.state === 'open' }));
  return isHere ? [...notes, { key: 'draft', strokes: draft.strokes, isOpen: true }] : notes;
});

function press(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  const target = e.currentTarget as SVGElement;
  const box = target.ownerSVGElement!.getBoundingClientRect();
  const at = (m: PointerEvent): Point => [m.clientX - box.left, m.clientY - box.top];
  stroke.value = [at(e)];
  holdPointer(
    e,
    target,
    (m) => {
      const p = at(m);
      if (distance(p, stroke.value.at(-1)!) >= STEP) stroke.value = [...stroke.value, p];
    },
    take,
  );
}
function take(): void {
  const { draft } = review;
  const places = stroke.value.length > 1 ? stroke.value.map((p) => props.port.toPlate(...p)) : [];
  stroke.value = [];
  if (!draft || places.length === 0) return;
  const flat = places.flat().map((v) => Math.round(v * 10) / 10);
  // What is drawn on another frame is about that one too.
  const { frame } = playhead;
  review.write({
    strokes: [...draft.strokes, flat],
    from: Math.min(draft.from, frame),
    to: Math.max(draft.to, frame),
  });
}
</script>

<template>
  <g v-if="review.isOpen" data-test="note-strokes-shown" :data-count="drawn.reduce((n, d) => n + d.strokes.length, 0)">
    <template v-for="d in drawn" :key="d.key">
      <g v-for="(s, i) in d.strokes" :key="i" :class="{ settled: !d.isOpen }">
        <polyline :points="lineOf(s)" class="under" />
        <polyline :points="lineOf(s)" class="line" />
      </g>
    </template>
    <polyline v-if="stroke.length > 1" :points="stroke.map((p) => p.join()).join(' ')" class="line" />
    <rect
      v-if="view.tool.kind === 'draw-note'"
      x="0"
      y="0"
      width="100%"
      height="100%"
      class="catcher"
      data-test="note-catcher"
      @pointerdown="press"
    />
  </g>
</template>

<style scoped>
polyline {
  fill: none;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.under {
  stroke: #000a;
  stroke-width: 5;
}
.line {
  stroke: var(--on-picture-scene);
  stroke-width: 2.5;
}
.settled {
  opacity: 0.45;
}
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
</style>
