/** Solved frames by Screen: loaded once, then kept up to date by the stream while a run is on. */
import type { EventOf } from '@yarlop/contracts/routes';
import { withoutFrames } from '@yarlop/core/frame-ranges';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { IDENTITY } from '@yarlop/core/geometry/matrix3';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Corrections } from '@yarlop/core/solve/touch-up';
import { correctedPin } from '@yarlop/core/solve/touch-up';
import { defineStore } from 'pinia';
import { shallowReactive } from 'vue';
import { useShot } from './shot';
import { useView } from './view';
import { api } from '../api';
import type { Screen, SolvedFrame, TrackView } from '../types';

export interface ScreenTrackState {
  readonly solveId: number | null;
  readonly outdated: boolean;
  /** frames that were followed otherwise than the recipe says by now, as far as not all were */
  readonly stale: TrackView['stale'];
  /** four corners on the reference frame that were followed, as far as that was told */
  readonly area: Quad | null;
  readonly frames: ReadonlyMap<number, SolvedFrame>;
  readonly lens: number;
  readonly shutter: TrackView['shutter'];
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
  readonly scene: TrackView['scene'];
}

/** Of a Screen that was not followed yet. */
const NOTHING: ScreenTrackState = {
  solveId: null,
  outdated: false,
  stale: [],
  area: null,
  frames: new Map(),
  lens: 0,
  shutter: null,
  halted: [],
  scene: null,
};

export const useTracks = defineStore('tracks', () => {
  const view = useView();
  const shot = useShot();
  const tracks = shallowReactive(new Map<number, ScreenTrackState>());

  async function load(screenId: number): Promise<void> {
    const t = await api('GET /screens/:id/track', { id: screenId });
    tracks.set(screenId, { ...t, frames: new Map(t.frames.map((f) => [f.frame, f])) });
  }

  /** Takes up frames that were solved just now. */
  function merge({ screenId, solveId, frames }: EventOf<'frames'>): void {
    const old = tracks.get(screenId) ?? NOTHING;
    const isSame = old.solveId === solveId;
    const map = new Map(isSame ? old.frames : []);
    for (const { homography, corners, ...f } of frames)
      if (homography && corners) map.set(f.frame, { ...f, homography, corners });
    tracks.set(screenId, {
      ...old,
      solveId,
      outdated: false,
      stale: isSame ? withoutFrames(old.stale, new Set(frames.map((f) => f.frame))) : [],
      area: isSame ? old.area : null,
      frames: map,
      halted: [],
    });
  }

  /**
   * The Screen's plane on a frame, from the reference frame, as followed or placed by hand; null where it is not known.
   */
  function plane({ id, recipe }: Screen, frame: number): Matrix3 | null {
    if (frame === recipe.referenceFrame) return IDENTITY;
    const hand = recipe.hand?.find((k) => k.frame === frame);
    return hand ? quadToQuad(recipe.pin, hand.corners) : (tracks.get(id)?.frames.get(frame)?.homography ?? null);
  }

  /** Corners on a frame: the pin, as corrected there, carried by the plane; null where that is not known. */
  function corners(screen: Screen, frame: number): Quad | null {
    const h = plane(screen, frame);
    const { pin } = screen.recipe;
    let shown: Corrections = screen.recipe;
    if (view.repairs === 'none') shown = {};
    else if (view.repairs !== 'all') shown = shot.beforeLastRepair(screen.id) ?? screen.recipe;
    const own = correctedPin(pin, shown, frame);
    return h && (h === IDENTITY ? own : mapQuad(h, own));
  }

  return { tracks, load, merge, corners, plane };
});
