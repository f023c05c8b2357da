/**
 * Which picture stands on the playhead's frame: the playback proxy at once, the lossless one as soon as it is there.
 */
import { computed, onScopeDispose, shallowRef, ref, watch } from 'vue';
import type { Ref } from 'vue';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Shot } from '../types';
import { PictureCache, WORKERS, put } from './picture-cache';
import { fullPicture } from './layers';
import type {
  CutOut,
  LayerRequest,
  PictureParts,
  PictureRequest,
  Rectangle,
  SeenPicture,
} from '../shared/picture-request';
import { DragSize } from '../shared/drag-size';
import { CutOuts } from './cut-outs';
import { takenOf } from './ride-window';

/** Frames that are fetched ahead: a second. */
const AHEAD = 24;
/** Pictures that are asked for at once. */
const BUSY = 6;
/** ms without a change after which the full picture is asked for. */
const SETTLE_MS = 90;
/** The same while something is dragged. */
const DRAG_SETTLE_MS = 450;
/** px of width of the server's small pictures. */
const SMALL = 1280;
/** px of width of the picture while a value is dragged, where that keeps up with the hand. */
const DRAGGED = 640;

/**
 * @param layers of a frame, of playback's small pictures or of lossless ones
 * @param width px of the page that the whole picture takes
 * @param ridden what of a frame is seen in full pixels while it plays; null where the whole small picture is
 */
export function usePictures(
  shot: Ref<Shot | null>,
  layers: (frame: number, quick: boolean) => readonly LayerRequest[],
  ridden: (frame: number) => Rectangle | null,
  width: () => number,
) {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const cutOuts = new CutOuts();
  const cache = new PictureCache();
  const dragSize = new DragSize(WORKERS);
  /** the picture that stands now, of which frame; its canvas is drawn on again for the next */
  const picture = shallowRef<SeenPicture | null>(null);
  const shown = computed(() => picture.value?.frame ?? -1);
  /** whether its pixels are the plate's own */
  const lossless = ref(false);
  const failure = ref('');

  /** px of width that a small picture takes; undefined for all that it has */
  function most(s: Shot): number | undefined {
    const all = Math.min(SMALL, s.probe.width);
    const enough = store.previewing === null ? Math.round(width()) : Math.round(DRAGGED * dragSize.share);
    return enough < all ? enough : undefined;
  }
  function request(frame: number, exact: boolean): PictureRequest {
    const s = shot.value!;
    const laid = layers(frame, !exact);
    const small = exact || laid.length === 0 ? undefined : most(s);
    return {
      ...fullPicture(s, frame, laid),
      ...(exact ? {} : { url: `/api/media/${s.mediaHash}/proxy/${frame}.jpg` }),
      ...(small === undefined ? {} : { most: small }),
      show: view.show,
      ...(view.table && view.tool.kind !== 'sample' ? { table: view.table } : {}),
    };
  }
  /** What is played: small pictures of the whole, or a window in full pixels. */
  function playedOn(frame: number): PictureRequest {
    const window = ridden(frame);
    return window ? { ...request(frame, true), window } : request(frame, false);
  }
  async function cutOut(frame: number): Promise<CutOut> {
    const s = shot.value!;
    const size = [s.probe.width, s.probe.height] as const;
    const whole = { x: 0, y: 0, width: size[0], height: size[1] };
    const [own] = await cutOuts.of({ hash: s.mediaHash, size, frames: s.frameCount }, frame, (f) => {
      const { window, ...played } = playedOn(f);
      return [window ? takenOf({ ...played, window }, size) : whole];
    });
    return own!;
  }
  const canvas = new OffscreenCanvas(1, 1);
  function show(parts: PictureParts, frame: number, exact: boolean, window?: Rectangle): void {
    const { width, height } = shot.value!.probe;
    put(parts, canvas);
    picture.value = {
      frame,
      canvas,
      isLaidOver: parts.patch !== null,
      plate: parts.plate,
      at: window ?? { x: 0, y: 0, width, height },
    };
    lossless.value = exact;
    failure.value = '';
  }
  let settle: ReturnType<typeof setTimeout> | undefined;
  let making = 0;
  /** Pictures are asked for in turns; one that comes late does not take the place of a later turn's. */
  let turns = 0;
  let shownTurn = 0;
  function showOf(turn: number, parts: PictureParts, frame: number, exact: boolean): void {
    if (turn < shownTurn) return;
    shownTurn = turn;
    show(parts, frame, exact);
  }
  let again = false;
  /**
   * While as many pictures are being made as there are workers, the newest wish waits and those between are passed
   * over: a drag asks for more than can be made.
   */
  async function still(frame: number): Promise<void> {
    clearTimeout(settle);
    const turn = ++turns;
    const exact = request(frame, true);
    const ready = cache.peek(exact);
    const current = (): boolean => playhead.frame === frame && !playhead.playing;
    if (ready) return showOf(turn, ready, frame, true);
    if (making >= WORKERS) {
      again = true;
      return;
    }
    making++;
    const began = performance.now();
    try {
      const quick = await cache.get(request(frame, false));
      if (store.previewing !== null) dragSize.made(performance.now() - began);
      if (current()) showOf(turn, quick, frame, false);
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
        if (!current()) return;
        // What is asked for now is the newest wish, whosever turn began it.
        const newest = turns;
        cache.get(request(playhead.frame, true)).then(
          (b) => current() && showOf(newest, b, frame, true),
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
      if (cache.busy < BUSY) {
        const frame = ahead;
        const played = playedOn(frame);
        void cache.get(played, played.window && (() => cutOut(frame))).catch(() => {});
      }
      ahead = playhead.next(ahead);
    }
    if (now < due) return;
    const next = playhead.next(playhead.frame);
    if (next === null) {
      playhead.playing = false;
      return;
    }
    const played = playedOn(next);
    const parts = cache.peek(played);
    if (!parts || playhead.isAwaited(next)) return;
    playhead.go(next);
    show(parts, next, played.window !== undefined, played.window);
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
    cutOuts.clear();
    cache.dispose();
  });
  return { picture, shown, lossless, failure, refresh };
}
