<script setup lang="ts">
/** The flat picture of made-up content: layers are chosen by pressing them, and placed by the handles about the chosen one. */
import { layerCorners, layerMatrix } from '@yarlop/core/dress/content/layer-parts';
import { layerPlane, numbersOfSeat } from '@yarlop/core/dress/content/layer-plane';
import type { ContentLayer } from '@yarlop/core/dress/content/layers';
import { isLayerShown, seatOf } from '@yarlop/core/dress/content/layers';
import type { Rgb } from '@yarlop/core/dress/colour/levels';
import type { Grip, SnapLine } from '@yarlop/core/dress/shape/place-by-hand';
import { placed } from '@yarlop/core/dress/shape/place-by-hand';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import { until } from '@vueuse/core';
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import { withNumbers } from '../edits/use-fill-place';
import { holdPointer } from '../shared/hold-pointer';
import GripFrame from '../viewer/GripFrame.vue';

const props = defineProps<{
  layers: readonly ContentLayer[];
  /** width and height of each layer without its scale, heights of the content */
  sizes: readonly { readonly width: number; readonly height: number }[];
  chosen: number | null;
  frame: number;
  /** CSS px */
  width: number;
  height: number;
  picture: ImageBitmap | null;
  /** whether that is the picture of what is shown now, and no earlier one */
  isNewest: boolean;
  /** the next press takes a colour from the picture */
  picking: boolean;
}>();
const emit = defineEmits<{
  choose: [index: number | null];
  change: [index: number, layer: ContentLayer, name: string, final: boolean];
  pick: [colour: Rgb];
}>();
const canvas = useTemplateRef<HTMLCanvasElement>('canvas');
const lines = ref<readonly SnapLine[]>([]);
/** CSS px within which a layer meets a line. By eye. */
const SNAP = 7;
const NAMES = { move: 'Move layer', scale: 'Scale layer', turn: 'Turn layer', lean: 'Lean layer' } as const;

const aspect = computed(() => props.width / props.height);
const toView = ([x, y]: Point): [number, number] => [x * props.height, y * props.height];
watch(
  () => [props.picture, canvas.value] as const,
  ([picture, c]) => {
    if (!picture || !c) return;
    [c.width, c.height] = [picture.width, picture.height];
    c.getContext('2d')!.drawImage(picture, 0, 0);
  },
  { immediate: true },
);

const outlines = computed(() =>
  props.layers.map((l, i) => {
    if (!isLayerShown(l, props.frame)) return '';
    const quad = layerCorners(props.sizes[i]!, layerMatrix(seatOf(l, props.frame), aspect.value));
    return quad.map((p) => toView(p).join(',')).join(' ');
  }),
);
/** A layer as it lies on this frame; null where there is none. */
function lying(i: number | null) {
  const layer = i === null ? undefined : props.layers[i];
  const own = i === null ? undefined : props.sizes[i];
  if (!layer || !own) return null;
  return { layer, plane: layerPlane(own, aspect.value), numbers: numbersOfSeat(seatOf(layer, props.frame)) };
}
const taken = computed(() => {
  const now = lying(props.chosen);
  return now && { seen: (at: Point) => toView(mapPoint(now.plane.frame(now.numbers), at)) };
});
const area = computed(() => (taken.value ? (outlines.value[props.chosen!] ?? '') : ''));
const met = computed(() =>
  lines.value.map(({ axis, at }) => {
    const far = axis === 0 ? [[at, -0.2], [at, 1.2]] : [[-0.2, at], [aspect.value + 0.2, at]]; // prettier-ignore
    return `M${far.map((p) => toView(p as unknown as Point).join(' ')).join('L')}`;
  }),
);

/** Where the pointer is, heights of the content. */
function at(e: PointerEvent): Point {
  const box = canvas.value!.getBoundingClientRect();
  return [(e.clientX - box.left) / props.height, (e.clientY - box.top) / props.height];
}

/** Of the whole picture: while that is being made, an earlier one is seen, which the key has changed. */
async function pick(e: PointerEvent): Promise<void> {
  const place = at(e);
  await until(() => props.isNewest).toBe(true);
  await nextTick();
  const c = canvas.value!;
  const [x, y] = place.map((v) => Math.floor(v * c.height)) as [number, number];
  const { data } = c.getContext('2d')!.getImageData(x, y, 1, 1);
  emit('pick', [0, 1, 2].map((i) => Number((data[i]! / 255).toFixed(4))) as unknown as Rgb);
}

/** The layer in front that a place lies on. */
function pressed(e: PointerEvent, index: number): void {
  if (e.button !== 0) return;
  if (props.picking) return void pick(e);
  // What is chosen by a press is dragged by the same one.
  emit('choose', index);
  hold(e, index, { does: 'move', at: [0.5, 0.5] });
}

function take(e: PointerEvent, grip: Grip): void {
  if (e.button !== 0) return;
  e.stopPropagation();
  if (props.picking) return void pick(e);
  hold(e, props.chosen!, grip);
}

function hold(e: PointerEvent, index: number, grip: Grip): void {
  const now = lying(index);
  if (!now) return;
  const { layer, plane, numbers } = now;
  const from = at(e);
  const { frame } = props;
  let after = layer;
  holdPointer(
    e,
    canvas.value!.nextElementSibling!,
    (m) => {
      const isFree = m.ctrlKey || m.metaKey;
      const held = { apart: m.shiftKey, aboutMiddle: m.altKey, snap: isFree ? 0 : SNAP / props.height };
      const made = placed(plane, numbers, grip, [from, at(m)], held);
      lines.value = made.lines;
      after = withNumbers(layer, frame, made.numbers, numbers);
      emit('change', index, after, NAMES[grip.does], false);
    },
    () => {
      lines.value = [];
      if (after !== layer) emit('change', index, after, NAMES[grip.does], true);
    },
  );
}
</script>

<template>
  <div class="flat" :class="{ picking }" :style="{ width: `${width}px`, height: `${height}px` }">
    <canvas ref="canvas" data-test="content-picture" />
    <svg :width="width" :height="height" @pointerdown="picking ? pick($event) : emit('choose', null)">
      <polygon
        v-for="(points, i) in outlines"
        :key="i"
        :points="points"
        class="layer"
        :data-test="`layer-area-${i}`"
        @pointerdown.stop="pressed($event, i)"
      />
      <g v-if="taken && !picking">
        <polygon :points="area" class="area" @pointerdown="take($event, { does: 'move', at: [0.5, 0.5] })">
          <title>Drag to move the layer; Shift along one axis; Ctrl past the lines</title>
        </polygon>
        <GripFrame :seen="taken.seen" what="the layer" name="layer" @take="take">
          <path v-for="(d, i) in met" :key="`met${i}`" :d="d" class="met" data-test="layer-met" />
        </GripFrame>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.flat {
  position: relative;
  background: #111;
  box-shadow: 0 0 0 1px var(--line);
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
svg {
  position: absolute;
  inset: 0;
  overflow: visible;
  touch-action: none;
}
.layer {
  fill: transparent;
  pointer-events: all;
  cursor: pointer;
}
.layer:hover {
  stroke: #cfe8ff;
  stroke-width: 1;
}
.area {
  fill: transparent;
  pointer-events: all;
  cursor: move;
}
.met {
  fill: none;
  stroke: var(--brass);
  stroke-width: 1.5;
}
.picking svg * {
  cursor: crosshair;
}
</style>
