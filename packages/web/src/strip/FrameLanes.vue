<script setup lang="ts">
/**
 * Lanes over the strip's frame axis, on demand: thumbnails, measured slip, touch-ups with their fades, keys by hand,
 * presence.
 */
import { clamp } from '@yarlop/core/clamp';
import { computed, ref, watchEffect } from 'vue';
import { useElementSize } from '@vueuse/core';
import type { TouchUp } from '@yarlop/core/solve/touch-up';
import { changed, touchUpsOf } from '../edits/touch-up-edit';
import { pathId } from '@yarlop/core/dress/base/key-edit';
import { keyLabel } from '../dress/key-label';
import { useKeyLane } from '../stores/key-lane';
import { useProofs } from '../stores/proofs';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { holdPointer } from '../shared/hold-pointer';
import { useView } from '../stores/view';
import KeyLanes from './KeyLanes.vue';
import KeyTools from './KeyTools.vue';
import SectionLane from './SectionLane.vue';
import { CURVE_HEIGHT } from './key-lane-size';
import type { Recipe } from '../types';

const playhead = usePlayhead();
const store = useShot();
const proofs = useProofs();
const view = useView();
const keyLane = useKeyLane();
const axis = ref<HTMLElement | null>(null);
const slip = ref<HTMLCanvasElement | null>(null);
const { width } = useElementSize(axis);
const x = (frame: number): number => (frame / playhead.count) * width.value;
const middle = (frame: number): number => x(frame + 0.5);
/** px; height of a thumbnail. */
const THUMB = 26;
/** px at 1920 wide; slip at which a bar is as high as its lane. */
const FULL = 3;
/** px; height of a lane. */
const LANE = 18;
const thumbs = computed(() => {
  const s = store.shot;
  if (!s || s.mediaState !== 'ready' || width.value < 50) return [];
  const wide = (THUMB * s.probe.width) / s.probe.height;
  const n = Math.max(1, Math.floor(width.value / wide));
  return Array.from({ length: n }, (_, i) => ({
    left: (i * width.value) / n,
    wide: width.value / n,
    url: `/api/media/${s.mediaHash}/proxy/${Math.min(s.frameCount - 1, Math.floor(((i + 0.5) * s.frameCount) / n))}.jpg`,
  }));
});
const touchUps = computed(() => (store.chosen ? touchUpsOf(store.chosen.recipe) : []));
/** A tent: as wide as its fades, as high as its share. */
const tent = (t: TouchUp): string => {
  const a = middle(t.frame - t.before.frames);
  const b = middle(t.frame + t.after.frames);
  const m = middle(t.frame);
  const top = 3;
  const base = LANE - 1;
  const left = t.before.shape === 'hold' ? `${a},${base} ${a},${top}` : `${a},${base}`;
  const right = t.after.shape === 'hold' ? `${b},${top} ${b},${base}` : `${b},${base}`;
  return `${left} ${m},${top} ${right}`;
};
watchEffect(
  () => {
    const c = slip.value;
    const s = store.chosen;
    if (!c || width.value < 2) return;
    const k = window.devicePixelRatio;
    const css = getComputedStyle(document.documentElement);
    const theme = view.theme;
    const scale = 1920 / (store.shot?.probe.width ?? 1920);
    const w = Math.max(1, width.value / playhead.count);
    void theme;
    [c.width, c.height] = [Math.round(width.value * k), LANE * k];
    const g = c.getContext('2d')!;
    g.scale(k, k);
    for (const f of s ? proofs.left(s) : []) {
      const worst = f.by.reduce<number | null>((m, p) => (p ? Math.max(m ?? 0, Math.hypot(...p) * scale) : m), null);
      if (worst === null) continue;
      const h = Math.max(1, Math.min(1, worst / FULL) * LANE);
      g.fillStyle = css.getPropertyValue(worst > 1 ? '--weak' : '--rests-edges');
      g.fillRect(x(f.frame), LANE - h, Math.max(1, w - (w > 4 ? 1 : 0)), h);
    }
  },
  { flush: 'post' },
);
function drag(e: PointerEvent, i: number, what: 'frame' | 'before' | 'after'): void {
  const s = store.chosen;
  const t = touchUps.value[i];
  if (!s || !t) return;
  const before = s.recipe;
  const from = e.clientX;
  const per = playhead.count / width.value;
  let after: Recipe = before;
  holdPointer(
    e,
    e.target as Element,
    (m) => {
      const d = Math.round((m.clientX - from) * per);
      const part: Partial<TouchUp> =
        what === 'frame'
          ? { frame: clamp(t.frame + d, 0, playhead.count - 1) }
          : { [what]: { ...t[what], frames: Math.max(0, t[what].frames + (what === 'after' ? d : -d)) } };
      after = changed(before, i, part);
      store.preview(s.id, after);
    },
    () => {
      if (after !== before) store.edit(what === 'frame' ? 'Move touch-up' : 'Set fade', after, before);
      else if (what === 'frame') playhead.go(t.frame);
    },
  );
}
const recipe = computed(() => store.chosen?.recipe);
</script>

<template>
  <div class="lanes" data-test="lanes">
    <div class="names dim">
      <span :style="{ height: `${THUMB}px` }">plate</span><span>slip</span><span>touch-ups</span><span>by hand</span
      ><span>sections</span><span>dress keys</span>
      <BFormSelect
        v-if="keyLane.shown"
        class="curve-name"
        size="sm"
        :style="{ marginTop: `${(CURVE_HEIGHT - LANE) / 2 - 6}px` }"
        :model-value="pathId(keyLane.shown.path)"
        :options="keyLane.tracks.map((t) => ({ value: pathId(t.path), text: keyLabel(t.path) }))"
        aria-label="Value whose curve is shown"
        title="The value whose curve and keys are shown"
        data-test="key-value"
        @update:model-value="keyLane.asked = $event as string"
      />
    </div>
    <div ref="axis" class="axis">
      <div class="thumbs" :style="{ height: `${THUMB}px` }">
        <img
          v-for="(t, i) in thumbs"
          :key="i"
          :src="t.url"
          alt=""
          :style="{ left: `${t.left}px`, width: `${t.wide}px` }"
        />
      </div>
      <canvas ref="slip" class="row-lane" role="img" aria-label="Measured slip, frame by frame" />
      <svg class="row-lane" :height="LANE" role="group" aria-label="Touch-ups and their fades">
        <g
          v-for="(t, i) in touchUps"
          :key="i"
          :class="{ muted: t.muted, here: t.frame === playhead.frame }"
          :data-test="`tent-${t.frame}`"
        >
          <polygon :points="tent(t)" class="tent" />
          <rect
            :x="middle(t.frame - t.before.frames) - 4"
            y="9"
            width="8"
            height="9"
            class="grip side"
            :data-test="`tent-before-${t.frame}`"
            @pointerdown.stop="drag($event, i, 'before')"
          />
          <rect
            :x="middle(t.frame + t.after.frames) - 4"
            y="9"
            width="8"
            height="9"
            class="grip side"
            :data-test="`tent-after-${t.frame}`"
            @pointerdown.stop="drag($event, i, 'after')"
          />
          <circle
            :cx="middle(t.frame)"
            cy="5"
            r="4.5"
            class="grip peak"
            :data-test="`tent-peak-${t.frame}`"
            @pointerdown.stop="drag($event, i, 'frame')"
          >
            <title>Touch-up on frame {{ t.frame }}: drag to another frame, drag its ends for its fades</title>
          </circle>
        </g>
      </svg>
      <div class="row-lane">
        <span
          v-for="k in recipe?.hand ?? []"
          :key="`h${k.frame}`"
          class="hand"
          :style="{ left: `${middle(k.frame)}px` }"
          :title="`Placed by hand on frame ${k.frame}`"
        />
        <span
          v-for="(p, i) in recipe?.presence ?? []"
          :key="`p${i}`"
          class="presence"
          :style="{ left: `${x(p.from)}px`, width: `${x(Math.min(playhead.count, p.to + 1)) - x(p.from)}px` }"
          title="In the shot"
        />
        <span
          v-for="l in recipe?.likenesses ?? []"
          :key="`l${l.corner}${l.frame}`"
          class="likeness"
          :style="{ left: `${middle(l.frame)}px` }"
          :title="`Likeness remembered on frame ${l.frame}`"
        />
      </div>
      <SectionLane :x="x" :per="playhead.count / width" />
      <KeyLanes :middle="middle" :per="playhead.count / width" />
      <span class="head" :style="{ left: `${middle(playhead.frame)}px` }" />
    </div>
    <div class="fill"><KeyTools /></div>
  </div>
</template>

<style scoped>
.lanes {
  display: flex;
  gap: 0.75rem;
  padding: 4px 0.6rem 2px;
  background: var(--ink);
  border-top: 1px solid var(--line);
}
.names {
  width: var(--strip-left);
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  font-size: 0.72rem;
}
.names span {
  height: 18px;
}
.axis {
  position: relative;
  flex: 1;
  min-width: 10rem;
}
.fill {
  width: 9rem;
  align-self: flex-end;
}
.curve-name {
  width: 100%;
  max-width: 11rem;
}
.thumbs {
  position: relative;
  overflow: hidden;
}
.thumbs img {
  position: absolute;
  top: 0;
  height: 100%;
  object-fit: cover;
}
.row-lane {
  display: block;
  position: relative;
  width: 100%;
  height: 18px;
  border-top: 1px solid var(--line);
  overflow: visible;
}
.tent {
  fill: color-mix(in srgb, var(--brass) 30%, transparent);
  stroke: var(--brass);
  stroke-width: 1;
}
.muted .tent {
  fill: none;
  stroke-dasharray: 2 3;
}
.here .tent {
  fill: color-mix(in srgb, var(--brass) 55%, transparent);
}
.grip {
  cursor: ew-resize;
  fill: transparent;
}
.peak {
  fill: var(--brass);
}
.side:hover {
  fill: var(--brass);
}
.hand {
  position: absolute;
  top: 4px;
  width: 8px;
  height: 8px;
  margin-left: -4px;
  background: var(--rests-hand);
  border-radius: 1px;
  transform: skewX(-20deg);
}

.presence {
  position: absolute;
  bottom: 1px;
  height: 3px;
  background: var(--text-dim);
}
.likeness {
  position: absolute;
  top: 3px;
  width: 2px;
  height: 11px;
  background: var(--rests-spots);
}
.head {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--text);
  pointer-events: none;
}
</style>
