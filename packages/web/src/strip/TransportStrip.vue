<script setup lang="ts">
import { sentenceOf } from '../commands/catalogue';
import { perform } from '../commands/use-commands';
import { computed, ref, watchEffect } from 'vue';
import { useElementSize } from '@vueuse/core';
import FrameLanes from './FrameLanes.vue';
import NoteMarks from './NoteMarks.vue';
import { BAND, HEIGHT, drawTrust } from './trust-strip';
import { timecodeOf } from '../shared/format';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';

const playhead = usePlayhead();
const store = useShot();
const tracks = useTracks();
const view = useView();
const lane = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const { width } = useElementSize(lane);
const head = ref<HTMLElement | null>(null);
const { width: left } = useElementSize(head);
const track = computed(() => (store.chosenId === null ? undefined : tracks.tracks.get(store.chosenId)));
const x = (frame: number): number => (frame / playhead.count) * width.value;

watchEffect(
  () => {
    const c = canvas.value;
    if (!c || width.value < 2) return;
    const k = window.devicePixelRatio;
    [c.width, c.height] = [Math.round(width.value * k), Math.round((HEIGHT + BAND) * k)];
    const g = c.getContext('2d')!;
    const css = getComputedStyle(document.documentElement);
    const theme = view.theme;
    void theme;
    g.scale(k, k);
    drawTrust(g, { damaged: store.shot?.damaged ?? [], track: track.value, x, width: width.value, css });
  },
  { flush: 'post' },
);

function scrub(e: PointerEvent): void {
  const r = lane.value!.getBoundingClientRect();
  playhead.playing = false;
  playhead.go(Math.floor(((e.clientX - r.left) / r.width) * playhead.count));
}
function down(e: PointerEvent): void {
  lane.value!.setPointerCapture(e.pointerId);
  scrub(e);
}
function move(e: PointerEvent): void {
  if (e.buttons & 1) scrub(e);
}
const timecode = computed(() => store.shot && timecodeOf(playhead.frame, store.shot.probe));
const reference = computed(() => store.chosen?.recipe.referenceFrame);
const first = computed(() => store.shot?.probe.firstFrame ?? 0);
const summary = computed(() => {
  const f = track.value?.frames;
  if (!f || f.size === 0) return 'not followed yet';
  const weak = [...f.values()].filter((v) => v.trust < 0.75).length;
  const stale = (track.value?.stale ?? []).reduce((n, s) => n + s.to - s.from + 1, 0);
  const notes = [weak ? `${weak} weak` : '', stale ? `${stale} outdated` : ''].filter((t) => t !== '');
  return [`${f.size} of ${playhead.count} followed`, ...notes].join(', ');
});
</script>

<template>
  <FrameLanes v-if="view.lanes && !view.alone" :style="{ '--strip-left': `${left}px` }" />
  <section class="strip" aria-label="Transport">
    <div ref="head" class="left">
      <div class="keys">
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('first-frame')"
          aria-label="First frame"
          @click="perform('first-frame')"
          ><i class="bi bi-chevron-bar-left"
        /></BButton>
        <BButton
          variant="outline-secondary"
          title="One frame back (left arrow)"
          aria-label="One frame back"
          @click="playhead.step(-1)"
          ><i class="bi bi-chevron-left"
        /></BButton>
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('play')"
          :aria-label="playhead.playing ? 'Pause' : 'Play'"
          data-test="play"
          @click="perform('play')"
          ><i class="bi" :class="playhead.playing ? 'bi-pause-fill' : 'bi-play-fill'"
        /></BButton>
        <BButton
          variant="outline-secondary"
          title="One frame on (right arrow)"
          aria-label="One frame on"
          @click="playhead.step(1)"
          ><i class="bi bi-chevron-right"
        /></BButton>
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('last-frame')"
          aria-label="Last frame"
          @click="perform('last-frame')"
          ><i class="bi bi-chevron-bar-right"
        /></BButton>
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('play-round')"
          aria-label="Loop"
          :pressed="playhead.loop"
          @click="perform('play-round')"
          ><i class="bi bi-arrow-repeat"
        /></BButton>
      </div>
      <div class="frame mono">
        <span class="now" data-test="frame">{{ playhead.frame + first }}</span><span class="dim">
          / {{ playhead.count - 1 + first }}</span
        >
        <span class="dim tc">{{ timecode ?? '' }}</span>
        <BButton
          variant="outline-secondary"
          :pressed="view.lanes"
          :title="sentenceOf('lanes')"
          aria-label="Lanes"
          data-test="lanes-open"
          @click="perform('lanes')"
          ><i class="bi" :class="view.lanes ? 'bi-chevron-down' : 'bi-chevron-up'"
        /></BButton>
      </div>
    </div>
    <div
      ref="lane"
      class="lane"
      role="slider"
      tabindex="0"
      aria-label="Frame"
      :aria-valuemin="0"
      :aria-valuemax="playhead.count - 1"
      :aria-valuenow="playhead.frame"
      :aria-valuetext="`Frame ${playhead.frame}, ${summary}`"
      data-test="lane"
      @pointerdown="down"
      @pointermove="move"
    >
      <canvas ref="canvas" />
      <span class="outside" :style="{ left: 0, width: `${x(playhead.from)}px` }" />
      <span class="outside" :style="{ left: `${x(playhead.to + 1)}px`, right: 0 }" />
      <span
        v-if="reference !== undefined"
        class="reference"
        :style="{ left: `${x(reference)}px` }"
        title="Reference frame"
      />
      <span
        v-for="h in track?.halted ?? []"
        :key="h.frame"
        class="halt"
        :style="{ left: `${x(h.frame)}px` }"
        :title="h.reason"
        >!</span
      >
      <NoteMarks :x="x" />
      <span
        class="head"
        :style="{ left: `${x(playhead.frame)}px`, width: `${Math.max(2, width / playhead.count)}px` }"
      />
    </div>
    <div class="note dim" data-test="summary">{{ playhead.playing ? `${playhead.measured} frames/s` : summary }}</div>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 0.75rem;
  padding: 0.3rem 0.6rem;
  height: 52px;
  background: var(--ink);
  border-top: 1px solid var(--line);
}
.left {
  display: flex;
  align-items: center;
  gap: 0.75rem;
}
.keys {
  display: flex;
  gap: 2px;
}
.keys .btn {
  padding: 0.15rem 0.4rem;
}
.frame {
  min-width: 14rem;
  white-space: nowrap;
  display: flex;
  align-items: baseline;
}
.frame .btn {
  padding: 0 0.35rem;
  margin-left: auto;
}
.now {
  font-size: 1.05rem;
}
.tc {
  margin-left: 0.8rem;
}
.lane {
  position: relative;
  flex: 1;
  height: 35px;
  cursor: pointer;
  background: var(--ink-raised);
  border: 1px solid var(--line);
  min-width: 10rem;
}
.lane canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.outside {
  position: absolute;
  top: 0;
  bottom: 0;
  background: repeating-linear-gradient(45deg, #0006 0 4px, transparent 4px 8px);
  pointer-events: none;
}
.head {
  position: absolute;
  top: -3px;
  bottom: -3px;
  background: color-mix(in srgb, var(--text) 35%, transparent);
  border-left: 2px solid var(--text);
  pointer-events: none;
}
.reference {
  position: absolute;
  top: 0;
  width: 0;
  height: 0;
  border: 5px solid transparent;
  border-top: 7px solid var(--text);
  margin-left: -5px;
  pointer-events: none;
}
.halt {
  position: absolute;
  top: 1px;
  color: var(--brass-ink);
  background: var(--weak);
  font-weight: 700;
  font-size: 0.7rem;
  padding: 0 4px;
  border-radius: 2px;
}
.note {
  width: 9rem;
  text-align: right;
  font-size: 0.8125rem;
  line-height: 1.2;
}
</style>
