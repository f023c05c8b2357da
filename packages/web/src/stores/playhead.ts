/** Which frame is shown, and how it moves. */
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';

export const usePlayhead = defineStore('playhead', () => {
  const frame = ref(0);
  const count = ref(1);
  const rate = ref(24);
  const playing = ref(false);
  const loop = ref(true);
  const from = ref(0);
  const to = ref(0);
  /** frames that are played round and round instead of the range; null for none */
  const span = ref<readonly [number, number] | null>(null);
  /** frames shown a second, measured while playing */
  const measured = ref(0);

  function setup(frames: number, framesPerSecond: number): void {
    count.value = frames;
    rate.value = framesPerSecond;
    frame.value = Math.min(frame.value, frames - 1);
  }
  function go(n: number): void {
    frame.value = Math.min(Math.max(Math.round(n), 0), count.value - 1);
  }
  function step(by: number): void {
    playing.value = false;
    go(frame.value + by);
  }
  /** The frame after `n` while playing; null at the end without loop. */
  function next(n: number): number | null {
    if (span.value) return n >= span.value[0] && n < span.value[1] ? n + 1 : span.value[0];
    const inside = n >= from.value && n <= to.value;
    const end = inside ? to.value : count.value - 1;
    if (n < end) return n + 1;
    if (loop.value) return inside ? from.value : 0;
    return null;
  }
  function toggle(): void {
    playing.value = !playing.value;
    if (playing.value && next(frame.value) === null) go(from.value);
  }
  /** What else is to show a frame before the next may come: nothing that is watched is to miss one. */
  const watchers = new Set<(frame: number) => boolean>();
  /** @param isReady whether the caller can show a frame now @returns ends the waiting for it */
  function waitFor(isReady: (frame: number) => boolean): () => void {
    watchers.add(isReady);
    return () => void watchers.delete(isReady);
  }
  const isAwaited = (n: number): boolean => [...watchers].some((isReady) => !isReady(n));
  const label = computed(() => frame.value);
  return {
    ...{ frame, count, rate, playing, loop, from, to, span, measured, label },
    ...{ setup, go, step, next, toggle, waitFor, isAwaited },
  };
});
