/** The four corners in full pixels while the picture plays, each cut out of the plate about where it lies. */
import { onScopeDispose, shallowRef, watch } from 'vue';
import type { CutPlate } from '../pictures/cut-outs';
import { CutOuts } from '../pictures/cut-outs';
import { windowAbout } from '../pictures/ride-window';
import type { Still } from '../pictures/use-still';
import type { CutOut, Rectangle } from '../shared/picture-request';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';

/** CSS px of the largest close-up. */
const SEEN = 400;

/** Seconds ahead for which they are fetched. */
const AHEAD = [0.5, 1] as const;

/** A cut-out to be drawn. */
function pictureOf({ width, height, data }: CutOut): OffscreenCanvas {
  const image = new ImageData(width, height);
  for (let i = 0, k = 0; i < data.length; i += 3, k += 4) {
    image.data.set([data[i]!, data[i + 1]!, data[i + 2]!, 255], k);
  }
  const canvas = new OffscreenCanvas(width, height);
  canvas.getContext('2d')!.putImageData(image, 0, 0);
  return canvas;
}

/** By corner; null while nothing plays, and where the corners are not known. */
export function usePlayingCorners() {
  const store = useShot();
  const tracks = useTracks();
  const playhead = usePlayhead();
  const view = useView();
  const cutOuts = new CutOuts();
  const corners = shallowRef<readonly Still[] | null>(null);

  function plate(): CutPlate | null {
    const s = store.shot;
    return s && { hash: s.mediaHash, size: [s.probe.width, s.probe.height], frames: s.frameCount };
  }
  function wantedOn(frame: number, { size }: CutPlate): Rectangle[] {
    const side = SEEN / view.closeUp;
    const q = store.chosen && tracks.corners(store.chosen, frame);
    const at = q ?? store.chosen!.recipe.pin;
    return at.map((p) => windowAbout([p[0]!, p[1]!], [side, side], size));
  }
  async function show(frame: number): Promise<void> {
    const from = plate();
    if (!from || !store.chosen) return;
    const wanted = (f: number): Rectangle[] => wantedOn(f, from);
    for (const seconds of AHEAD) {
      const next = Math.min(from.frames - 1, Math.floor(frame + seconds * playhead.rate));
      void cutOuts.of(from, next, wanted).catch(() => {});
    }
    const cut = await cutOuts.of(from, frame, wanted);
    if (!playhead.playing || playhead.frame !== frame) return;
    corners.value = cut.map((c) => ({ frame, bitmap: pictureOf(c), x: c.x, y: c.y }));
  }
  watch(
    () => [playhead.playing, playhead.frame] as const,
    ([playing, frame]) => {
      if (playing) void show(frame).catch(() => {});
      else corners.value = null;
    },
  );
  watch(
    () => store.shot?.mediaHash,
    () => cutOuts.clear(),
  );
  onScopeDispose(() => cutOuts.clear());
  return corners;
}
