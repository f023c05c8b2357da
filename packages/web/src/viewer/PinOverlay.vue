<script setup lang="ts">
import { computed } from 'vue';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import { holdPointer } from '../shared/hold-pointer';
import { useView } from '../stores/view';
import type { Screen } from '../types';
import { usePinEdit } from '../edits/use-pin-edit';
import { rulingLines, vanishing } from './ruling';
import type { useViewport } from './use-viewport';

const props = defineProps<{
  screen: Screen;
  quad: Quad;
  hue: string;
  port: ReturnType<typeof useViewport>;
  frame: number;
  chosen: boolean;
  quiet: boolean;
  ruled: boolean;
}>();
const view = useView();
const edit = usePinEdit();
const points = computed(() => props.quad.map((p) => props.port.toView(p)));
const outline = computed(() => points.value.map((p) => p.join(',')).join(' '));
const ruling = computed(() =>
  view.ruling && props.chosen && props.ruled
    ? rulingLines(props.quad, view.rulingParts, view.rulingExtent).map((l) => l.map((p) => props.port.toView(p)).flat())
    : [],
);
/** Px of the view beyond which a horizon is drawn to. */
const FAR = 20_000;
const far = computed(() => {
  if (!view.ruling || !view.horizon || !props.chosen || !props.ruled) return null;
  const { across, down, horizon } = vanishing(props.quad);
  const [a, b] = (horizon ?? []).map((p) => props.port.toView(p));
  const l = a && b ? Math.hypot(b[0] - a[0], b[1] - a[1]) : 0;
  return {
    points: [across, down].flatMap((p) => (p ? [props.port.toView(p)] : [])),
    line:
      a && b && l > 0
        ? [
            a[0] - ((b[0] - a[0]) / l) * FAR,
            a[1] - ((b[1] - a[1]) / l) * FAR,
            a[0] + ((b[0] - a[0]) / l) * FAR,
            a[1] + ((b[1] - a[1]) / l) * FAR,
          ]
        : null,
  };
});

/**
 * A right-angle bracket that stands outside the corner, its arms along the outward sides: the pixel itself stays free.
 */
function bracket(i: number): string {
  const p = points.value[i]!;
  const a = points.value[(i + 1) % 4]!;
  const b = points.value[(i + 3) % 4]!;
  const away = (q: [number, number]): [number, number] => {
    const l = Math.hypot(p[0] - q[0], p[1] - q[1]) || 1;
    return [(p[0] - q[0]) / l, (p[1] - q[1]) / l];
  };
  const u = away(a);
  const v = away(b);
  const gap = 5;
  const arm = 15;
  const at = (k: number, m: number): string =>
    `${(p[0] + u[0] * k + v[0] * m).toFixed(2)} ${(p[1] + u[1] * k + v[1] * m).toFixed(2)}`;
  return `M${at(gap, -arm + gap)}L${at(gap, gap)}L${at(-arm + gap, gap)}`;
}
function grip(i: number): { cx: number; cy: number } {
  const p = points.value[i]!;
  const c = points.value.reduce((s, q) => [s[0] + q[0] / 4, s[1] + q[1] / 4], [0, 0] as [number, number]);
  const l = Math.hypot(p[0] - c[0], p[1] - c[1]) || 1;
  return { cx: p[0] + ((p[0] - c[0]) / l) * 6, cy: p[1] + ((p[1] - c[1]) / l) * 6 };
}
function down(e: PointerEvent, i: number): void {
  if (e.button !== 0 || view.tool.kind !== 'select') return;
  e.stopPropagation();
  view.armed = i;
  const start = props.quad[i]!;
  const from = [e.clientX, e.clientY];
  const drag = edit.begin(props.screen, props.frame, i);
  view.dragging = true;
  holdPointer(
    e,
    e.target as Element,
    (m) =>
      drag.to([
        start[0] + (m.clientX - from[0]!) / props.port.zoom.value,
        start[1] + (m.clientY - from[1]!) / props.port.zoom.value,
      ]),
    () => {
      view.dragging = false;
      drag.end();
    },
  );
}
</script>

<template>
  <g :style="{ '--hue': hue }" :data-test="`pin-${screen.id}`">
    <line
      v-for="(l, i) in ruling"
      :key="i"
      :x1="l[0]"
      :y1="l[1]"
      :x2="l[2]"
      :y2="l[3]"
      class="ruling"
      data-test="ruling"
    />
    <template v-if="far">
      <line
        v-if="far.line"
        :x1="far.line[0]"
        :y1="far.line[1]"
        :x2="far.line[2]"
        :y2="far.line[3]"
        class="horizon"
        data-test="horizon"
      />
      <path
        v-for="(p, i) in far.points"
        :key="`v${i}`"
        :d="`M${p[0]} ${p[1] - 7}L${p[0] + 6} ${p[1] + 5}H${p[0] - 6}Z`"
        class="vanishing"
      />
    </template>
    <polygon v-if="!quiet" :points="outline" class="halo" />
    <polygon v-if="!quiet" :points="outline" class="side" :class="{ other: !chosen }" />
    <template v-if="chosen">
      <g v-for="(_, i) in points" :key="i">
        <path :d="bracket(i)" class="halo wide" />
        <path :d="bracket(i)" class="bracket" :class="{ armed: view.armed === i }" />
        <circle
          v-bind="grip(i)"
          r="13"
          class="grip"
          :data-test="`corner-${CORNER_NAMES[i]}`"
          :data-x="quad[i]![0]"
          :data-y="quad[i]![1]"
          @pointerdown="down($event, i)"
        />
      </g>
    </template>
  </g>
</template>

<style scoped>
.side {
  fill: none;
  stroke: var(--hue);
  stroke-width: 1.25;
}
.side.other {
  stroke-dasharray: 6 5;
}
.halo {
  stroke-width: 3;
}
.halo.wide {
  stroke-width: 5;
}
.bracket {
  fill: none;
  stroke: var(--hue);
  stroke-width: 2.25;
}
.bracket.armed {
  stroke: #fff6dd;
  stroke-width: 3.25;
}
.grip {
  fill: transparent;
  pointer-events: all;
  cursor: move;
}
.ruling {
  stroke: var(--hue);
  stroke-width: 0.9;
  opacity: 0.75;
}
.horizon {
  stroke: #fff6dd;
  stroke-width: 1;
  stroke-dasharray: 10 6;
}
.vanishing {
  fill: none;
  stroke: #fff6dd;
  stroke-width: 1.5;
}
</style>
