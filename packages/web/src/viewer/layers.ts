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

/** What is laid over the plate in a stage: a proof card in Prove, the fills from Dress on. */
export function layersFor(stage: Stage, frame: number): LayerRequest[] {
  if (stage !== 'prove' && stage !== 'dress' && stage !== 'hand-over') return [];
  const store = useShot(), tracks = useTracks(), media = useMedia(), view = useView();
  const shown = stage === 'prove' ? store.screens.filter((s) => s.id === store.chosenId) : store.screens;
  return shown.flatMap((s): LayerRequest[] => {
    const corners = tracks.corners(s, frame);
    if (!corners) return [];
    if (stage === 'prove') return [{ corners, fill: { card: cardSize(s.recipe.pin), kind: view.card, opacity: view.cardOpacity } }];
    const fill = s.recipe.fill && media.byHash.get(s.recipe.fill.media);
    if (!fill || fill.state !== 'ready') return [];
    const at = Math.min(frame, fill.frameCount - 1), still = fill.frameCount === 1, quick = usePlayhead().playing && !still;
    return [{ corners, fill: { url: quick ? `/api/media/${fill.hash}/proxy/${at}.jpg` : `/api/media/${fill.hash}/frames/${at}.png` } }];
  });
}
