/** The Screen laid flat on every frame: fetched whole, kept in memory, drawn from by the flat and the slit view. */
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue';
import { useDebounceFn } from '@vueuse/core';
import type { FlatStack } from '@yarlop/core/proof/flat-view';
import { flatAreaFor } from '@yarlop/core/proof/flat-view';
import { bytes, sentence } from '../api';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';

/** Bytes that a stack may take. */
const MOST_BYTES = 96e6;
/** px of one picture of it at the most. */
const MOST_PIXELS = 120_000;
/** ms without a change after which it is asked for. */
const SETTLE_MS = 250;

export function useFlatStack() {
  const store = useShot();
  const tracks = useTracks();
  const stack = shallowRef<FlatStack | null>(null);
  const done = ref(0);
  const problem = ref('');
  const loading = ref(false);
  let leave: AbortController | null = null;
  const track = computed(() => (store.chosenId === null ? undefined : tracks.tracks.get(store.chosenId)));
  /** what the pictures depend on */
  const depends = computed(() => {
    const r = store.chosen?.recipe;
    return r
      ? JSON.stringify([
          store.chosenId,
          r.pin,
          r.touchUps,
          r.settles,
          r.hand,
          track.value?.solveId,
          track.value?.frames.size,
        ])
      : null;
  });
  async function load(): Promise<void> {
    leave?.abort();
    const s = store.chosen;
    const t = track.value;
    if (!s || !t || t.frames.size === 0) return void (stack.value = null);
    const own = (leave = new AbortController());
    const from = Math.min(...t.frames.keys());
    const to = Math.max(...t.frames.keys());
    const frames = to - from + 1;
    const area = flatAreaFor(s.recipe.pin, Math.min(MOST_PIXELS, MOST_BYTES / frames));
    const size = area.width * area.height;
    const data = new Uint8Array(frames * size);
    loading.value = true;
    problem.value = '';
    done.value = 0;
    try {
      await store.save();
      await bytes(`/screens/${s.id}/flat`, { from, to, area }, own.signal, data, (n) => (done.value = n / data.length));
      stack.value = { area, from, frames, data };
    } catch (e) {
      if (!own.signal.aborted) problem.value = sentence(e);
    } finally {
      if (leave === own) loading.value = false;
    }
  }
  const soon = useDebounceFn(load, SETTLE_MS);
  watch(depends, () => void soon());
  watch(
    () => store.chosenId,
    () => (stack.value = null),
  );
  void load();
  onScopeDispose(() => leave?.abort());
  return { stack, done, problem, loading, load };
}
