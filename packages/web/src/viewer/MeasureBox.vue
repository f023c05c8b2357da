<script setup lang="ts">
/** The box whose values are read out, on the picture: drawn with its tool, and there until it is taken away. */
import { computed } from 'vue';
import { clamp } from '@yarlop/core/clamp';
import { provideCommand } from '../commands/use-commands';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { DrawnBox } from './use-drawn-box';
import { useDrawnBox } from './use-drawn-box';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const view = useView();
const store = useShot();
const { box: drawn, begin } = useDrawnBox();
const isTool = computed(() => view.tool.kind === 'measure-box');
provideCommand(
  'measure-box',
  () => {
    const off = isTool.value || view.box !== null;
    view.tool = { kind: off ? 'select' : 'measure-box' };
    view.box = null;
  },
  () => store.shot !== null,
);

function press(e: PointerEvent): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  begin(e, take);
}
/** Whole px of the plate, one at the least. */
function take({ left, top, right, bottom }: DrawnBox): void {
  const { width, height } = store.shot!.probe;
  const [x0, y0] = props.port.toPlate(left, top);
  const [x1, y1] = props.port.toPlate(right, bottom);
  const x = clamp(Math.round(x0), 0, width - 1);
  const y = clamp(Math.round(y0), 0, height - 1);
  const across = clamp(Math.round(x1) - x, 1, width - x);
  const down = clamp(Math.round(y1) - y, 1, height - y);
  view.box = { x, y, width: across, height: down };
  view.tool = { kind: 'select' };
}
const shown = computed(() => {
  const b = view.box;
  if (drawn.value || !b) return drawn.value;
  const [left, top] = props.port.toView([b.x, b.y]);
  const [right, bottom] = props.port.toView([b.x + b.width, b.y + b.height]);
  return { left, top, right, bottom };
});
</script>

<template>
  <g>
    <rect
      v-if="isTool"
      x="0"
      y="0"
      width="100%"
      height="100%"
      class="catcher"
      data-test="box-catcher"
      @pointerdown="press"
    />
    <template v-if="shown">
      <rect
        v-for="k in ['under', 'line']"
        :key="k"
        :class="k"
        :x="shown.left"
        :y="shown.top"
        :width="shown.right - shown.left"
        :height="shown.bottom - shown.top"
        :data-test="k === 'line' ? 'measured-box' : undefined"
      />
    </template>
  </g>
</template>

<style scoped>
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
.under,
.line {
  fill: none;
}
.under {
  stroke: #000a;
  stroke-width: 3;
}
.line {
  stroke: var(--text);
  stroke-width: 1;
}
</style>
