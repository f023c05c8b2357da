/** The Screen laid flat in colour, bare or dressed, from the plate's full pixels: a frame at a time, and some ahead while it plays. */
import type { Quad } from '@yarlop/core/geometry/quad';
import { flatAreaFor } from '@yarlop/core/proof/flat-view';
import { computed, onScopeDispose, shallowRef, watch } from 'vue';
import type { Ref } from 'vue';
import { sentence } from '../api';
import { CutOuts } from '../pictures/cut-outs';
import { fullPicture, layersFor } from '../pictures/layers';
import { PictureCache } from '../pictures/picture-cache';
import { takenOf } from '../pictures/ride-window';
import type { CutOut, PictureRequest, Rectangle } from '../shared/picture-request';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { windowOf } from './flat-window';

/** px of one picture at the most: about as many as the page shows of it. */
const MOST_PIXELS = 600_000;
/** Frames that are asked for ahead while it plays. */
const AHEAD = 12;
/** Pictures that are asked for at once. */
const BUSY = 4;

/** Of frames on which the Screen is not known. */
const NOTHING: Rectangle = { x: 0, y: 0, width: 1, height: 1 };

export type FlatShow = 'plate' | 'dressed';

export interface FlatPicture {
  readonly frame: number;
  readonly bitmap: ImageBitmap;
}

/** How pictures of the chosen Screen laid flat are asked for. */
function useFlatRequests() {
  const store = useShot();
  const tracks = useTracks();
  const cutOuts = new CutOuts();
  let cache: PictureCache | null = null;
  const area = computed(() => store.chosen && flatAreaFor(store.chosen.recipe.pin as Quad, MOST_PIXELS));

  function request(frame: number, of: FlatShow): (PictureRequest & { window: Rectangle }) | null {
    const { shot, chosen } = store;
    const corners = chosen && tracks.corners(chosen, frame);
    if (!shot || !corners || !area.value) return null;
    const window = windowOf(area.value, corners, [shot.probe.width, shot.probe.height]);
    return (
      window && {
        ...fullPicture(shot, frame, of === 'dressed' ? layersFor('dress', frame) : []),
        show: 'dressed',
        window,
        flat: { area: area.value, corners },
      }
    );
  }
  async function cutOut(frame: number, of: FlatShow): Promise<CutOut> {
    const { mediaHash, probe, frameCount } = store.shot!;
    const size = [probe.width, probe.height] as const;
    const [own] = await cutOuts.of({ hash: mediaHash, size, frames: frameCount }, frame, (n) => {
      const r = request(n, of);
      return [r ? takenOf(r, size) : NOTHING];
    });
    return own!;
  }
  /** The Screen on a frame; null where it is not known. */
  async function on(frame: number, of: FlatShow): Promise<FlatPicture | null> {
    const r = request(frame, of);
    if (!r) return null;
    cache ??= new PictureCache();
    const { patch } = await cache.get(r, () => cutOut(frame, of));
    return patch && { frame, bitmap: patch.bitmap };
  }
  const isBusy = (): boolean => (cache?.busy ?? 0) >= BUSY;
  /** Whether a frame can be shown at once; one on which there is nothing can. */
  function isThere(frame: number, of: FlatShow): boolean {
    const r = request(frame, of);
    return r === null || Boolean(cache?.peek(r));
  }
  onScopeDispose(() => {
    cutOuts.clear();
    cache?.dispose();
  });
  return { area, request, on, isBusy, isThere };
}

/** @param show what is laid flat; null for nothing */
export function useFlatPictures(show: Ref<FlatShow | null>) {
  const playhead = usePlayhead();
  const { area, request, on, isBusy, isThere } = useFlatRequests();
  const problem = shallowRef('');
  const now = shallowRef<FlatPicture | null>(null);
  /** frames that are being made */
  const asked = new Set<number>();

  /** Makes the next frames while it plays, in their order. */
  function askAhead(of: FlatShow): void {
    if (!playhead.playing || show.value !== of) return;
    let frame: number | null = playhead.frame;
    for (let i = 0; i < AHEAD && frame !== null; i++) {
      const own = frame;
      frame = playhead.next(own);
      if (asked.has(own) || isThere(own, of)) continue;
      if (isBusy()) return;
      asked.add(own);
      void made(own, of);
    }
  }
  /** After a failure nothing more is asked for until the frame that is looked at could be made. */
  async function made(frame: number, of: FlatShow): Promise<void> {
    try {
      await on(frame, of);
    } catch (e) {
      problem.value = sentence(e);
    } finally {
      asked.delete(frame);
    }
    if (problem.value === '') askAhead(of);
  }
  onScopeDispose(playhead.waitFor((frame) => !show.value || problem.value !== '' || isThere(frame, show.value)));
  watch([() => playhead.playing, show], ([playing, of]) => playing && of && askAhead(of));

  /** what the picture of the playhead's frame is made from */
  const wanted = computed(() => (show.value ? JSON.stringify(request(playhead.frame, show.value)) : null));
  watch(
    wanted,
    async (own) => {
      const of = show.value;
      if (!of) return void (now.value = null);
      askAhead(of);
      try {
        const picture = await on(playhead.frame, of);
        if (wanted.value === own) now.value = picture;
        problem.value = '';
      } catch (e) {
        problem.value = sentence(e);
      }
    },
    { immediate: true },
  );
  return { area, now, on, problem };
}
