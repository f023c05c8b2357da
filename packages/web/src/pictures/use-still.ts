/**
 * The plate's own pixels of a frame, without anything laid over them: for close-ups, which must never be looked at
 * through a proxy or a card.
 */
import { LRUCache } from 'lru-cache';
import { onScopeDispose, shallowRef, watch } from 'vue';
import { useShot } from '../stores/shot';

export interface Still {
  readonly frame: number;
  readonly bitmap: ImageBitmap | OffscreenCanvas;
  /** where on the plate it begins, px; at its top left where left out */
  readonly x?: number;
  readonly y?: number;
}

/** Pictures kept by each that asks; a 1080p one takes 8 MB. */
const KEPT = 4;
/** ms without a change after which the lossless picture is asked for. */
const SETTLE_MS = 70;

/** @param frame which one; null for none. While it changes quickly the last one stays. */
export function useStill(frame: () => number | null) {
  const store = useShot();
  const still = shallowRef<Still | null>(null);
  const kept = new LRUCache<string, Promise<ImageBitmap>>({
    max: KEPT,
    dispose: (picture) => void picture.then((x) => x !== still.value?.bitmap && x.close()).catch(() => {}),
  });
  let timer: ReturnType<typeof setTimeout> | undefined;
  function get(hash: string, n: number): Promise<ImageBitmap> {
    const key = `${hash} ${n}`;
    const known =
      kept.get(key) ??
      fetch(`/api/media/${hash}/frames/${n}.png`).then(async (r) =>
        createImageBitmap(await r.blob(), { colorSpaceConversion: 'none', premultiplyAlpha: 'none' }),
      );
    kept.set(key, known);
    known.catch(() => kept.delete(key));
    return known;
  }
  watch(
    () => [store.shot?.mediaState === 'ready' ? store.shot.mediaHash : null, frame()] as const,
    ([hash, n]) => {
      clearTimeout(timer);
      if (!hash || n === null) return (still.value = null);
      const take = (): void =>
        void get(hash, n)
          .then((bitmap) => {
            if (frame() === n && store.shot?.mediaHash === hash) still.value = { frame: n, bitmap };
          })
          .catch(() => {});
      if (kept.has(`${hash} ${n}`)) take();
      else timer = setTimeout(take, SETTLE_MS);
      return undefined;
    },
    { immediate: true },
  );
  onScopeDispose(() => {
    clearTimeout(timer);
    for (const b of kept.values()) void b.then((x) => x.close()).catch(() => {});
  });
  return still;
}
