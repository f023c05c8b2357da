<script setup lang="ts">
import { clamp } from '@yarlop/core/clamp';
import { computed, onMounted, ref, watch, watchEffect } from 'vue';
import { useEventListener, useIntervalFn } from '@vueuse/core';
import { holdPointer } from '../shared/hold-pointer';
import { hueOf } from '../shared/screen-look';
import type { Stage } from '../stages';
import { useLive } from '../stores/live';
import { useOutlineChoice } from '../stores/outline-choice';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import CornerBoard from '../corner-board/CornerBoard.vue';
import AidFilter from './AidFilter.vue';
import AidPanel from './AidPanel.vue';
import BendOverlay from './BendOverlay.vue';
import BoxFigures from './BoxFigures.vue';
import CameraOverlay from './CameraOverlay.vue';
import ProofMarks from './ProofMarks.vue';
import AreaOverlay from './AreaOverlay.vue';
import DrawOutline from './DrawOutline.vue';
import MeasureBox from './MeasureBox.vue';
import NoteOverlay from './NoteOverlay.vue';
import OutlineOverlay from './OutlineOverlay.vue';
import PointerLoupe from './PointerLoupe.vue';
import ProposedScreens from './ProposedScreens.vue';
import RoughCorners from './RoughCorners.vue';
import RideControl from './RideControl.vue';
import FillHandles from './FillHandles.vue';
import PinOverlay from './PinOverlay.vue';
import SeenOverlay from './SeenOverlay.vue';
import ToolHint from './ToolHint.vue';
import WholePinOverlay from './WholePinOverlay.vue';
import { layersFor } from '../pictures/layers';
import { isPlain } from '../shared/view-aid';
import { usePictures } from '../pictures/use-pictures';
import { useOtherPicture } from '../pictures/use-other-picture';
import type { LayerRequest } from '../shared/picture-request';
import { useComparison } from '../stores/comparison';
import { useRideView } from './use-ride-view';
import { usePixelReading } from './use-pixel-reading';
import { useViewport, wheelFactor } from './use-viewport';
import { useDropCorners } from './use-drop-corners';
import { useProposals } from './use-proposals';

const props = defineProps<{ stage: Stage }>();
const store = useShot();
const view = useView();
const playhead = usePlayhead();
const tracks = useTracks();
const choice = useOutlineChoice();
const live = useLive();
const holder = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const shot = computed(() => store.shot);
const size = computed(() => [shot.value?.probe.width ?? 1920, shot.value?.probe.height ?? 1080] as const);
const port = useViewport(
  holder,
  () => size.value[0],
  () => size.value[1],
  view,
);
const comparison = useComparison();
/** What is laid over the plate; in its turn of blinking, what that is compared with. */
function laidOver(frame: number, quick = false): LayerRequest[] {
  if (!view.plateOnly) return layersFor(props.stage, frame, quick);
  const isOther = view.blinking && comparison.other !== null && props.stage !== 'prove';
  return isOther ? layersFor(props.stage, frame, quick, comparison.other) : [];
}
const pictures = usePictures(
  shot,
  laidOver,
  (frame) => riding.ridden(frame),
  () => size.value[0] * port.zoom.value * window.devicePixelRatio,
);
const riding = useRideView(
  () => pictures.shown.value,
  () => [port.w.value / port.zoom.value, port.h.value / port.zoom.value],
  () => size.value,
);
const drop = useDropCorners();
const proposals = useProposals(() => props.stage);
useIntervalFn(
  () => {
    if (view.blinking) view.plateOnly = !view.plateOnly;
  },
  computed(() => 1000 / view.blinkRate),
);
watch(
  () => view.blinking,
  (on) => !on && (view.plateOnly = false),
);

watch(
  () => view.show + JSON.stringify(laidOver(playhead.frame)) + (view.table ?? ''),
  () => pictures.refresh(),
);

/** What the dressed picture is compared with on the frame shown, where the divider wipes that away or both stand beside each other. */
const bare = useOtherPicture(
  () => props.stage,
  () => ((view.wipe !== null || view.beside) && !playhead.playing ? playhead.frame : null),
);
watchEffect(() => (view.seen = pictures.picture.value));
function draw(): void {
  const c = canvas.value;
  const seen = pictures.picture.value;
  if (!c) return;
  const k = window.devicePixelRatio;
  const w = Math.max(1, Math.round(port.w.value * k));
  const h = Math.max(1, Math.round(port.h.value * k));
  if (c.width !== w || c.height !== h) [c.width, c.height] = [w, h];
  const g = c.getContext('2d')!;
  g.clearRect(0, 0, w, h);
  if (!seen) return;
  const scale = port.zoom.value * k;
  // A picture that is made as large as it is seen is put down as it is.
  const isAsSeen = Math.abs(seen.canvas.width - seen.at.width * scale) < 0.5;
  g.imageSmoothingEnabled = port.zoom.value < 2 && !isAsSeen;
  // Without a graphics card the better way takes 20 ms of the page's own time: what follows the pointer has none to wait.
  g.imageSmoothingQuality = playhead.playing || store.previewing !== null ? 'low' : 'high';
  g.drawImage(
    seen.canvas,
    port.left.value * k + seen.at.x * scale,
    port.top.value * k + seen.at.y * scale,
    seen.at.width * scale,
    seen.at.height * scale,
  );
  if (bare.value?.frame !== pictures.shown.value) return;
  if (view.beside) return drawBeside(g, w, h, k, seen.canvas, bare.value.bitmap);
  if (view.wipe === null) return;
  g.save();
  g.beginPath();
  g.rect(0, 0, view.wipe * w, h);
  g.clip();
  g.drawImage(
    bare.value.bitmap,
    port.left.value * k,
    port.top.value * k,
    size.value[0] * port.zoom.value * k,
    size.value[1] * port.zoom.value * k,
  );
  g.restore();
}
/** Plate to the left and dressed picture to the right, both about the middle of the view. */
function drawBeside(
  g: CanvasRenderingContext2D,
  w: number,
  h: number,
  k: number,
  dressed: OffscreenCanvas,
  plate: CanvasImageSource,
): void {
  g.clearRect(0, 0, w, h);
  for (const [side, picture] of [plate, dressed].entries()) {
    g.save();
    g.beginPath();
    g.rect((side * w) / 2, 0, w / 2 - 1, h);
    g.clip();
    g.drawImage(
      picture,
      port.left.value * k + (side === 0 ? -w / 4 : w / 4),
      port.top.value * k,
      size.value[0] * port.zoom.value * k,
      size.value[1] * port.zoom.value * k,
    );
    g.restore();
  }
}
function wipeDown(e: PointerEvent): void {
  e.stopPropagation();
  holdPointer(
    e,
    e.currentTarget as Element,
    (m) => (view.wipe = clamp(local(m)[0] / port.w.value, 0.02, 0.98)),
    () => {},
  );
}
watchEffect(draw, { flush: 'post' });
onMounted(draw);

const corners = computed(() =>
  store.screens
    .map((s, i) => ({
      screen: s,
      hue: hueOf(i),
      quad: tracks.corners(s, pictures.shown.value < 0 ? playhead.frame : pictures.shown.value),
    }))
    .filter((c) => !c.screen.recipe.carried),
);

/** The chosen Screen's fill has handles on the picture: on the frame that is seen, never on one that is still on its way. */
const isPlacing = computed(() => {
  const isSeen = !playhead.playing && !view.plateOnly && pictures.shown.value === playhead.frame;
  return view.placing && store.chosen !== null && props.stage === 'dress' && isSeen;
});

const { shownAt, plateAt, meanAround } = usePixelReading(() => pictures.picture.value);

/** The place that is looked at closely: where a corner is dropped, by keys or by the pointer, or dragged to. */
const loupe = computed((): readonly [number, number] | null => {
  const drops = view.tool.kind === 'drop-corners';
  if (drops && drop.mark.value) return drop.mark.value;
  if (drops && view.pointer) return [view.pointer.x, view.pointer.y];
  const s = store.chosen;
  if (!view.dragging || view.armed === null || !s) return null;
  return tracks.corners(s, playhead.frame)?.[view.armed] ?? null;
});

/** A press beside everything takes nothing. */
function letGo(): void {
  [view.armed, view.whole, view.placing] = [null, false, false];
  choice.choose(null);
}
let panning: { x: number; y: number } | null = null;
const spaceHeld = ref(false);
function local(e: MouseEvent): [number, number] {
  const r = holder.value!.getBoundingClientRect();
  return [e.clientX - r.left, e.clientY - r.top];
}
function onDown(e: PointerEvent): void {
  if (e.button === 1 || (e.button === 0 && spaceHeld.value)) {
    panning = { x: e.clientX, y: e.clientY };
    holder.value!.setPointerCapture(e.pointerId);
    e.preventDefault();
  } else if (e.button === 0 && view.tool.kind === 'drop-corners') void drop.add(port.toPlate(...local(e)));
  else if (e.button === 0 && view.tool.kind === 'sample') {
    const rgb = meanAround(...port.toPlate(...local(e)));
    if (rgb) view.tool.take(rgb);
  } else if (e.button === 0 && view.tool.kind === 'select') letGo();
}
function onMove(e: PointerEvent): void {
  const [x, y] = port.toPlate(...local(e));
  // Reading a pixel back from a graphics card takes long; what is dragged is to follow the pointer.
  const isRead = e.buttons === 0;
  view.pointer = { x, y, rgb: isRead ? shownAt(x, y) : null, plate: isRead ? plateAt(x, y) : null };
  if (!panning) return;
  port.panBy(e.clientX - panning.x, e.clientY - panning.y);
  panning = { x: e.clientX, y: e.clientY };
}
function onWheel(e: WheelEvent): void {
  e.preventDefault();
  if (e.ctrlKey || Math.abs(e.deltaX) < 1) port.zoomAt(...local(e), wheelFactor(e));
  else port.panBy(-e.deltaX, -e.deltaY);
}
let spaceUsed = false;
const typing = (e: KeyboardEvent): boolean =>
  (e.target as HTMLElement).closest('input, textarea, select, button, a, [role="slider"]') !== null;
useEventListener(window, 'keydown', (e) => {
  if (e.code !== 'Space' || typing(e)) return;
  e.preventDefault();
  if (!e.repeat) [spaceHeld.value, spaceUsed] = [true, false];
});
useEventListener(window, 'keyup', (e) => {
  if (e.code !== 'Space' || !spaceHeld.value) return;
  spaceHeld.value = false;
  if (!spaceUsed) playhead.toggle();
});
function onUp(): void {
  if (panning && spaceHeld.value) spaceUsed = true;
  panning = null;
}
const ingest = computed(() =>
  [...live.jobs.values()].find(
    (j) => j.kind === 'ingest' && j.mediaHash === shot.value?.mediaHash && j.state !== 'done',
  ),
);
const problem = computed(() =>
  shot.value?.mediaState === 'failed' ? shot.value.mediaProblem : pictures.failure.value,
);
const grey = computed(
  () => `rgb(${[0, 0, 0].map(() => Math.round(255 * (view.surround / 100) ** (1 / 2.2))).join(' ')})`,
);
</script>

<template>
  <div
    ref="holder"
    class="picture"
    :class="[`tool-${view.tool.kind}`, { panning: spaceHeld }]"
    :style="{ background: grey }"
    tabindex="-1"
    data-keys="picture"
    data-test="picture"
    :data-frame="pictures.shown.value"
    :data-lossless="pictures.lossless.value"
    :data-zoom="port.zoom.value"
    :data-left="port.left.value"
    :data-top="port.top.value"
    @pointerdown="onDown"
    @pointermove="onMove"
    @pointerup="onUp"
    @pointerleave="view.pointer = null"
    @wheel="onWheel"
  >
    <AidFilter />
    <canvas
      ref="canvas"
      :class="{ aided: !isPlain(view) }"
      role="img"
      :aria-label="`Frame ${pictures.shown.value} of ${shot?.name ?? 'the shot'}`"
    />
    <svg v-if="shot && !view.beside" class="overlay" aria-label="Pins and patches">
      <template v-for="c in corners" :key="c.screen.id">
        <PinOverlay
          v-if="c.quad && !(isPlacing && c.screen.id === store.chosenId)"
          :screen="c.screen"
          :quad="c.quad"
          :hue="c.hue"
          :port="port"
          :ruled="stage !== 'dress' && stage !== 'hand-over'"
          :frame="playhead.frame"
          :chosen="c.screen.id === store.chosenId"
          :quiet="!view.plateOnly && (stage === 'prove' || stage === 'dress' || stage === 'hand-over')"
        />
        <WholePinOverlay
          v-if="c.quad && view.whole && c.screen.id === store.chosenId && !playhead.playing"
          :screen="c.screen"
          :quad="c.quad"
          :port="port"
          :frame="playhead.frame"
        />
      </template>
      <FillHandles v-if="isPlacing" :port="port" />
      <OutlineOverlay
        v-if="store.chosen && (stage === 'follow' || stage === 'dress')"
        :port="port"
        :parts="stage === 'dress' ? ['holdouts', 'retouches'] : ['patches']"
      />
      <BendOverlay v-if="store.chosen && stage === 'dress' && !playhead.playing" :port="port" />
      <polygon
        v-for="(g, i) in view.ghosts.filter((x) => x.frame === playhead.frame)"
        :key="`ghost${i}`"
        :points="g.corners.map((p) => port.toView(p).join(',')).join(' ')"
        class="ghost"
        data-test="ghost"
      />
      <AreaOverlay v-if="store.chosen && (stage === 'pin' || stage === 'follow')" :port="port" />
      <SeenOverlay v-if="store.chosen && stage === 'follow'" :port="port" />
      <ProofMarks v-if="stage === 'prove' || stage === 'follow'" :port="port" />
      <CameraOverlay v-if="stage === 'follow' && !playhead.playing" :port="port" />
      <DrawOutline v-if="store.chosen" :port="port" />
      <NoteOverlay :port="port" />
      <MeasureBox :port="port" />
      <polygon
        v-for="(p, i) in proposals.list.value"
        :key="`proposal ${i}`"
        class="proposal"
        :class="{ lit: proposals.lit.value === i }"
        :points="p.corners.map((c) => port.toView(c as unknown as [number, number]).join()).join(' ')"
        @pointerdown.stop
        @click="proposals.take(proposals.lit.value)"
      />
      <g v-if="view.tool.kind === 'drop-corners'">
        <path
          v-if="drop.mark.value"
          :d="`M${port.toView(drop.mark.value)[0] - 12} ${port.toView(drop.mark.value)[1]}h24m-12 -12v24`"
          fill="none"
          stroke="var(--brass)"
          stroke-width="1.5"
          data-test="key-mark"
        />
        <circle
          v-for="(p, i) in drop.points.value"
          :key="i"
          :cx="port.toView(p)[0]"
          :cy="port.toView(p)[1]"
          r="5"
          fill="none"
          stroke="var(--brass)"
          stroke-width="2"
        />
      </g>
    </svg>
    <CornerBoard v-if="view.boardCalled && !view.boardLarge && stage !== 'pin' && stage !== 'prove'" class="floating" />
    <button
      v-if="view.wipe !== null"
      type="button"
      class="wipe"
      :style="{ left: `${100 * view.wipe}%` }"
      aria-label="Divider between plate and dressed picture"
      title="Plate to the left, dressed to the right: drag, or arrow keys; W takes it away"
      data-test="wipe"
      @pointerdown="wipeDown"
      @keydown.left.stop.prevent="view.wipe = Math.max(0.02, view.wipe - 0.02)"
      @keydown.right.stop.prevent="view.wipe = Math.min(0.98, view.wipe + 0.02)"
    >
      <i class="bi bi-arrows" aria-hidden="true" />
    </button>
    <ProposedScreens v-if="proposals.list.value.length > 0" :proposals="proposals" @pointerdown.stop />
    <RoughCorners v-if="drop.dropped.value" @pointerdown.stop @done="drop.dropped.value = false" />
    <AidPanel
      v-if="!view.boardLarge"
      :class="{ 'd-none': view.alone && !view.aidOpen }"
      @pointerdown.stop
      @wheel.stop
    />
    <RideControl v-if="!view.boardLarge" :class="{ 'd-none': view.alone }" @pointerdown.stop />
    <ToolHint :corner="drop.asks.value" :dropped="drop.points.value.length" :problem="drop.problem.value" />
    <BoxFigures @pointerdown.stop @wheel.stop />
    <div v-if="ingest && shot?.mediaState === 'waiting'" class="notice" role="status">
      <p>Reading the plate in: {{ ingest.framesDone }} of {{ ingest.framesTotal }} frames</p>
      <BProgress :value="ingest.framesDone" :max="Math.max(1, ingest.framesTotal)" />
      <BButton class="mt-2" variant="outline-secondary" @click="live.cancel(ingest.id)">Cancel</BButton>
    </div>
    <div v-else-if="problem" class="notice" role="alert">{{ problem }}</div>
    <div v-else-if="pictures.shown.value < 0" class="notice" role="status">
      {{ shot?.mediaState === 'waiting' ? 'The plate waits to be read in ...' : 'Loading the picture ...' }}
    </div>
    <PointerLoupe v-if="loupe" :port="port" :at="loupe" />
    <slot />
  </div>
</template>

<style scoped>
.picture:focus {
  outline: none !important;
}
.picture {
  position: relative;
  width: 100%;
  height: 100%;
  overflow: hidden;
  touch-action: none;
}
.picture canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
canvas.aided {
  filter: url('#view-aid');
}
.ghost {
  fill: none;
  stroke: #f6e7bd;
  stroke-width: 2;
  stroke-dasharray: 7 5;
}
.overlay {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.tool-drop-corners,
.tool-draw-patch,
.tool-add-spot,
.tool-sample {
  cursor: crosshair;
}
.panning {
  cursor: grab;
}
.wipe {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 22px;
  margin-left: -11px;
  border: 0;
  background: linear-gradient(#fff6dd, #fff6dd) center / 1px 100% no-repeat;
  color: #fff6dd;
  cursor: ew-resize;
  touch-action: none;
}
.wipe i {
  background: #000a;
  padding: 2px;
  border-radius: 2px;
}
.proposal {
  fill: transparent;
  stroke: var(--text);
  stroke-width: 1;
  stroke-dasharray: 2 6;
  opacity: 0.6;
  pointer-events: none;
}
.proposal.lit {
  stroke: var(--brass);
  stroke-width: 2;
  stroke-dasharray: 10 4;
  opacity: 1;
  pointer-events: all;
  cursor: pointer;
}
.notice {
  position: absolute;
  left: 50%;
  top: 40%;
  transform: translate(-50%, -50%);
  background: var(--ink);
  border: 1px solid var(--line);
  padding: 1rem 1.4rem;
  border-radius: 4px;
  max-width: 32rem;
  min-width: 20rem;
}
.notice p {
  margin-bottom: 0.5rem;
}
.floating {
  position: absolute;
  right: 8px;
  top: 8px;
  width: 260px;
  background: var(--ink-raised);
  border: 1px solid var(--line);
  padding: 6px;
}
</style>
