<script setup lang="ts">
/**
 * What a frame was followed by: cells and places on edges, small and solid where they agree, hollow where they do not;
 * and the spots.
 */
import { computed, ref, watch } from 'vue';
import { SPOT_BOX, SPOT_SEARCH, knownPlace } from '@yarlop/core/follow/spots/spots';
import { distort } from '@yarlop/core/geometry/lens';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { api } from '../api';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Recipe, Seen } from '../types';
import type { useViewport } from './use-viewport';

const props = defineProps<{ port: ReturnType<typeof useViewport> }>();
const store = useShot();
const tracks = useTracks();
const view = useView();
const playhead = usePlayhead();
const seen = ref<{ frame: number; data: Seen } | null>(null);
/** Frames to each side of which a spot's way is drawn. */
const WAY_FRAMES = 24;
const NOTHING: Seen = { cells: [], spots: [] };
const spots = computed(() => store.chosen?.recipe.spots ?? []);

watch(
  () =>
    [
      store.chosenId,
      playhead.frame,
      playhead.playing,
      view.cells,
      spots.value.length,
      tracks.tracks.get(store.chosenId ?? -1)?.frames,
    ] as const,
  async ([id, frame, playing]) => {
    if (id === null || playing || (!view.cells && spots.value.length === 0)) return (seen.value = null);
    const data = await api('GET /screens/:id/seen/:frame', { id, frame }).catch(() => NOTHING);
    if (store.chosenId === id && playhead.frame === frame) seen.value = { frame, data };
    return undefined;
  },
  { immediate: true },
);

const marks = computed(() => {
  const s = store.chosen;
  const h = s && tracks.plane(s, playhead.frame);
  const data = seen.value?.frame === playhead.frame ? seen.value.data : null;
  if (!h || !data || !view.cells) return [];
  const { width, height } = store.shot!.probe;
  const lens = { radial: tracks.tracks.get(s.id)?.lens ?? 0, width, height };
  const out: { x: number; y: number; r: number; trust: number; edge: boolean }[] = [];
  for (let i = 0; i + 3 < data.cells.length; i += 4) {
    const [x, y] = props.port.toView(mapPoint(h, distort(lens, [data.cells[i]!, data.cells[i + 1]!])));
    const trust = data.cells[i + 3]! / 100;
    out.push({ x, y, r: data.cells[i + 2] === 0 ? 1.6 : 2 + 2 * trust, trust, edge: data.cells[i + 2] === 0 });
  }
  return out;
});

/** Where a spot is on the frame shown: as placed by hand, as found, or carried by the plane. */
const places = computed(() => {
  const s = store.chosen;
  if (!s) return [];
  const frame = playhead.frame;
  const h = tracks.plane(s, frame);
  const found = seen.value?.frame === frame ? seen.value.data.spots : [];
  return spots.value.map((spot, i) => {
    const hand = spot.keys?.find((k) => k.frame === frame);
    const sight = found[i];
    const known = knownPlace(spot, frame, s.recipe.referenceFrame);
    const carried = h ? mapPoint(h, spot.at) : null;
    const at = known ?? (sight ? ([sight[0], sight[1]] as const) : carried);
    if (!at) return null;
    const box = spot.box ?? SPOT_BOX;
    const search = spot.search ?? SPOT_SEARCH;
    const z = props.port.zoom.value;
    const [x, y] = props.port.toView([at[0], at[1]]);
    return {
      at,
      x,
      y,
      w: box[0] * z,
      h: box[1] * z,
      sw: search[0] * z,
      sh: search[1] * z,
      byHand: Boolean(hand),
      sure: Boolean(known || sight),
      name: spot.name,
    };
  });
});
/** The chosen spot's own way around the frame shown. */
const way = computed(() => {
  const path = view.spot === null ? [] : (spots.value[view.spot]?.path ?? []);
  const near = path.filter((p) => Math.abs(p[0] - playhead.frame) <= WAY_FRAMES);
  return near.map((p) => props.port.toView([p[1], p[2]]).join(',')).join(' ');
});
function drag(e: PointerEvent, i: number): void {
  const s = store.chosen;
  const place = places.value[i];
  if (!s || !place || e.button !== 0 || view.tool.kind !== 'select') return;
  e.stopPropagation();
  view.spot = i;
  const before = s.recipe;
  const frame = playhead.frame;
  const from = [e.clientX, e.clientY];
  const { at } = place;
  const reference = frame === before.referenceFrame;
  let after: Recipe = before;
  holdPointer(
    e,
    e.target as Element,
    (m) => {
      const p: [number, number] = [
        at[0] + (m.clientX - from[0]!) / props.port.zoom.value,
        at[1] + (m.clientY - from[1]!) / props.port.zoom.value,
      ];
      const spots = [...before.spots!];
      const q = spots[i]!;
      const others = (q.keys ?? []).filter((x) => x.frame !== frame);
      const keys = [...others, { frame, at: p }].sort((a, b) => a.frame - b.frame);
      spots[i] = reference ? { ...q, at: p } : { ...q, keys };
      after = { ...before, spots };
      store.preview(s.id, after);
    },
    () => {
      if (after === before) return;
      store.edit(reference ? 'Move spot' : 'Place spot by hand', after, before);
      // The next frame in the direction of work comes up.
      if (!reference) playhead.step(frame < before.referenceFrame ? -1 : 1);
    },
  );
}
function add(e: PointerEvent): void {
  const s = store.chosen;
  if (!s || e.button !== 0) return;
  e.stopPropagation();
  const r = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  const at = props.port.toPlate(e.clientX - r.left, e.clientY - r.top);
  store.edit('Add spot', { ...s.recipe, spots: [...spots.value, { name: `spot ${spots.value.length + 1}`, at }] });
  view.spot = spots.value.length - 1;
  view.tool = { kind: 'select' };
}
</script>

<template>
  <g data-test="seen" :data-count="marks.length">
    <template v-for="(m, i) in marks" :key="i">
      <circle
        v-if="m.trust >= 0.3"
        :cx="m.x"
        :cy="m.y"
        :r="m.r"
        class="agrees"
        :class="{ edge: m.edge }"
        :style="{ opacity: 0.35 + 0.65 * m.trust }"
      />
      <circle v-else :cx="m.x" :cy="m.y" :r="m.edge ? 1.6 : 3.2" class="differs" />
    </template>
    <polyline v-if="way" :points="way" class="way" data-test="spot-way" />
    <g v-for="(p, i) in places" :key="`s${i}`">
      <template v-if="p">
        <rect
          v-if="view.spot === i"
          :x="p.x - p.sw / 2"
          :y="p.y - p.sh / 2"
          :width="p.sw"
          :height="p.sh"
          class="search"
        />
        <path
          :d="`M${p.x - p.w / 2} ${p.y}L${p.x} ${p.y - p.h / 2}L${p.x + p.w / 2} ${p.y}L${p.x} ${p.y + p.h / 2}Z`"
          class="halo"
        />
        <path
          :d="`M${p.x - p.w / 2} ${p.y}L${p.x} ${p.y - p.h / 2}L${p.x + p.w / 2} ${p.y}L${p.x} ${p.y + p.h / 2}Z`"
          class="spot"
          :class="{ unsure: !p.sure, chosen: view.spot === i }"
          :data-test="`spot-mark-${i}`"
          @pointerdown="drag($event, i)"
        />
        <circle :cx="p.x" :cy="p.y" :r="p.byHand ? 3 : 1.5" class="heart" />
        <text v-if="view.spot === i" :x="p.x + p.w / 2 + 4" :y="p.y + 4" class="label">{{ p.name }}</text>
      </template>
    </g>
    <rect
      v-if="view.tool.kind === 'add-spot'"
      x="0"
      y="0"
      width="100%"
      height="100%"
      class="catcher"
      data-test="spot-catcher"
      @pointerdown="add"
    />
  </g>
</template>

<style scoped>
.agrees {
  fill: #f6e7bd;
  stroke: #000a;
  stroke-width: 0.6;
}
.agrees.edge {
  fill: #bfe3d6;
}
.differs {
  fill: none;
  stroke: var(--weak);
  stroke-width: 1;
}
.spot {
  fill: transparent;
  stroke: #f6e7bd;
  stroke-width: 1.5;
  pointer-events: all;
  cursor: move;
}
.spot.unsure {
  stroke-dasharray: 2 4;
}
.spot.chosen {
  stroke: var(--brass);
  stroke-width: 2;
}
.search {
  fill: none;
  stroke: #f6e7bd88;
  stroke-width: 1;
  stroke-dasharray: 6 4;
}
.way {
  fill: none;
  stroke: #b18ad6;
  stroke-width: 1.5;
  opacity: 0.9;
}
.heart {
  fill: #f6e7bd;
  stroke: #000;
  stroke-width: 0.7;
  pointer-events: none;
}
.label {
  fill: #f6e7bd;
  font:
    12px 'IBM Plex Sans',
    sans-serif;
  paint-order: stroke;
  stroke: #000a;
  stroke-width: 3;
}
.catcher {
  fill: transparent;
  pointer-events: all;
  cursor: crosshair;
}
</style>
