/**
 * Which picture stands on the playhead's frame: the playback proxy at once, the lossless one as soon as it is there.
 */
import { onScopeDispose, shallowRef, ref, watch } from 'vue';
import type { Ref } from 'vue';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Shot } from '../types';
import { PictureCache, WORKERS } from './picture-cache';
import { seenTransfer } from './layers';
import type { LayerRequest, PictureRequest } from '../shared/picture-request';

/** Frames that are fetched ahead: a second. */
const AHEAD = 24;
/** ms without a change after which the full picture is asked for. */
const SETTLE_MS = 90;
/** The same while something is dragged. */
const DRAG_SETTLE_MS = 450;
/** px of width of the picture while a value is dragged. */
const DRAGGED = 640;

export function usePictures(
  shot: Ref<Shot | null>,
  layers: (frame: number, quick: boolean) => readonly LayerRequest[],
) {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const cache = new PictureCache();
  const bitmap = shallowRef<ImageBitmap | null>(null);
  /** the frame that the bitmap shows; whether its pixels are the plate's own */
  const shown = ref(-1);
  const lossless = ref(false);
  const failure = ref('');

  const request = (frame: number, exact: boolean): PictureRequest => {
    const s = shot.value!;
    return {
      url: exact ? `/api/media/${s.mediaHash}/frames/${frame}.png` : `/api/media/${s.mediaHash}/proxy/${frame}.jpg`,
      plateWidth: s.probe.width,
      ...(!exact && store.previewing !== null ? { most: DRAGGED } : {}),
      layers: layers(frame, !exact),
      transfer: seenTransfer(s.probe),
      show: view.show,
      ...(view.table && view.tool.kind !== 'sample' ? { table: view.table } : {}),
    };
  };
  function show(b: ImageBitmap, frame: number, exact: boolean): void {
    bitmap.value = b;
    shown.value = frame;
    lossless.value = exact;
    failure.value = '';
  }
  let settle: ReturnType<typeof setTimeout> | undefined;
  let making = 0;
  let again = false;
  /**
   * While as many pictures are being made as there are workers, the newest wish waits and those between are passed
   * over: a drag asks for more than can be made.
   */
  async function still(frame: number): Promise<void> {
    clearTimeout(settle);
    const exact = request(frame, true);
    const ready = cache.peek(exact);
    const current = (): boolean => playhead.frame === frame && !playhead.playing;
    if (ready) return show(ready, frame, true);
    if (making >= WORKERS) {
      again = true;
      return;
    }
    making++;
    try {
      const quick = await cache.get(request(frame, false));
      if (current()) show(quick, frame, false);
    } catch (e) {
      if (current()) failure.value = sentence(e);
      return;
    } finally {
      making--;
      if (again) {
        again = false;
        refresh();
      }
    }
    if (!current()) return;
    clearTimeout(settle);
    settle = setTimeout(
      () => {
        if (current())
          cache.get(request(playhead.frame, true)).then(
            (b) => current() && show(b, frame, true),
            (e: unknown) => (failure.value = sentence(e)),
          );
      },
      store.previewing === null ? SETTLE_MS : DRAG_SETTLE_MS,
    );
  }
  function refresh(): void {
    if (shot.value?.mediaState === 'ready' && !playhead.playing) void still(playhead.frame);
  }
  watch(() => [playhead.frame, shot.value?.mediaHash, shot.value?.mediaState] as const, refresh, { immediate: true });

  let ticking = 0;
  let due = 0;
  let times: number[] = [];
  function tick(now: number): void {
    if (!playhead.playing || !shot.value) return;
    ticking = requestAnimationFrame(tick);
    let ahead: number | null = playhead.frame;
    for (let i = 0; i < AHEAD && ahead !== null; i++) {
      if (cache.busy < 6) void cache.get(request(ahead, false)).catch(() => {});
      ahead = playhead.next(ahead);
    }
    if (now < due) return;
    const next = playhead.next(playhead.frame);
    if (next === null) {
      playhead.playing = false;
      return;
    }
    const b = cache.peek(request(next, false));
    if (!b) return;
    playhead.go(next);
    show(b, next, false);
    due = Math.max(due + 1000 / playhead.rate, now - 1000 / playhead.rate);
    times = [...times.filter((t) => now - t < 1000), now];
    playhead.measured = times.length;
  }
  watch(
    () => playhead.playing,
    (on) => {
      cancelAnimationFrame(ticking);
      times = [];
      if (on) {
        due = performance.now();
        ticking = requestAnimationFrame(tick);
      } else refresh();
    },
  );
  onScopeDispose(() => {
    cancelAnimationFrame(ticking);
    clearTimeout(settle);
    playhead.playing = false;
    cache.dispose();
  });
  return { bitmap, shown, lossless, failure, refresh };
}
