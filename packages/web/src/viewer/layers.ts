import { readingOf } from '@yarlop/core/dress/fill-pyramid';
import { fillPicture } from '@yarlop/core/dress/fill-time';
import type { DressRecipe } from '@yarlop/core/dress/recipe';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Stage } from '../stages';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { LayerRequest } from './render.worker';

const CARD_SIDE = 720;

/** A card about as long and as wide as the pin looks. */
function cardSize(q: Quad): [number, number] {
  const across = distance(q[0], q[1]) + distance(q[3], q[2]), down = distance(q[1], q[2]) + distance(q[0], q[3]);
  const k = CARD_SIDE / Math.max(across, down), even = (v: number): number => Math.max(64, 16 * Math.round((v * k) / 16));
  return [even(across), even(down)];
}

/** A list of one value a frame with that frame's alone: the rest need not cross to a worker, nor tell one request from another. */
function alone<T extends { readonly measured?: { readonly from: number; readonly values: readonly number[] } }>(part: T | undefined, frame: number): T | undefined {
  const m = part?.measured;
  if (!m) return part;
  return { ...part, measured: { from: frame, values: [m.values[Math.min(m.values.length - 1, Math.max(0, frame - m.from))]!] } };
}
function dressOn(d: DressRecipe, frame: number): DressRecipe {
  const levels = alone(d.levels, frame), softness = alone(d.softness, frame);
  return { ...d, ...(levels ? { levels } : {}), ...(softness ? { softness } : {}) };
}

/** What is laid over the plate in a stage: a proof card in Prove, the fills from Dress on. */
export function layersFor(stage: Stage, frame: number): LayerRequest[] {
  if (stage !== 'prove' && stage !== 'dress' && stage !== 'hand-over') return [];
  const store = useShot(), tracks = useTracks(), media = useMedia(), view = useView();
  const shown = stage === 'prove' ? store.screens.filter((s) => s.id === store.chosenId) : store.screens;
  return shown.flatMap((s): LayerRequest[] => {
    const corners = tracks.corners(s, frame);
    if (!corners) return [];
    if (stage === 'prove') return [{ corners, lens: tracks.tracks.get(s.id)?.lens ?? 0, fill: { card: cardSize(s.recipe.pin), kind: view.card, opacity: view.cardOpacity } }];
    const fill = s.recipe.fill && media.byHash.get(s.recipe.fill.media);
    if (!fill || fill.state !== 'ready') return [];
    const plate = store.shot!.probe, rate = plate.frameRate[0] / plate.frameRate[1], dress = (s.recipe.dress ?? {}) as DressRecipe;
    const at = fillPicture(s.recipe.fill!, frame, fill.frameCount, fill.probe.frameRate, plate.frameRate), still = fill.frameCount === 1, quick = usePlayhead().playing && !still;
    return [{
      corners, before: tracks.corners(s, frame - 1), after: tracks.corners(s, frame + 1), plane: tracks.plane(s, frame), pin: s.recipe.pin as Quad, referenceFrame: s.recipe.referenceFrame, frame, frameRate: rate,
      shutter: tracks.tracks.get(s.id)?.shutter?.share ?? null, lens: tracks.tracks.get(s.id)?.lens ?? 0, dress: dressOn(dress, frame),
      fill: { url: quick ? `/api/media/${fill.hash}/proxy/${at}.jpg` : `/api/media/${fill.hash}/frames/${at}.png`, reading: readingOf(dress.levels, frame, { tag: fill.probe.colour.transfer, set: s.recipe.fill!.transfer }, plate.colour.transfer) },
    }];
  });
}
