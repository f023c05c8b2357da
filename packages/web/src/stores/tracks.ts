/** Solved frames by Screen: loaded once, then kept up to date by the stream while a run is on. */
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

export const useTracks = defineStore('tracks', () => {
  const view = useView();
  const shot = useShot();
  const tracks = shallowReactive(new Map<number, ScreenTrackState>());

  async function load(screenId: number): Promise<void> {
    const t = await api<TrackView>('GET', `/screens/${screenId}/track`);
    tracks.set(screenId, { ...t, frames: new Map(t.frames.map((f) => [f.frame, f])) });
  }

  function merge(
    screenId: number,
    solveId: number,
    frames: readonly (SolvedFrame & { homography: readonly number[] | null })[],
  ): void {
    const old = tracks.get(screenId);
    const map = new Map(old?.solveId === solveId ? old.frames : []);
    for (const f of frames) if (f.homography) map.set(f.frame, f);
    tracks.set(screenId, {
      solveId,
      outdated: false,
      stale: old?.solveId === solveId ? withoutFrames(old.stale, new Set(frames.map((f) => f.frame))) : [],
      area: old?.solveId === solveId ? old.area : null,
      frames: map,
      halted: [],
      scene: old?.scene ?? null,
      lens: old?.lens ?? 0,
      shutter: old?.shutter ?? null,
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
