/** Solved frames by Screen: loaded once, then kept up to date by the stream while a run is on. */
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import { defineStore } from 'pinia';
import { ref } from 'vue';
import { api } from '../api';
import type { Screen, SolvedFrame, TrackView } from '../types';

export interface ScreenTrackState {
  readonly solveId: number | null;
  readonly outdated: boolean;
  readonly frames: ReadonlyMap<number, SolvedFrame>;
  readonly lens: number;
  readonly shutter: TrackView['shutter'];
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
}

export const useTracks = defineStore('tracks', () => {
  const tracks = ref(new Map<number, ScreenTrackState>());

  async function load(screenId: number): Promise<void> {
    const t = await api<TrackView>('GET', `/screens/${screenId}/track`);
    tracks.value.set(screenId, { ...t, frames: new Map(t.frames.map((f) => [f.frame, f])) });
  }

  function merge(screenId: number, solveId: number, frames: readonly (SolvedFrame & { homography: readonly number[] | null })[]): void {
    const old = tracks.value.get(screenId), map = new Map(old?.solveId === solveId ? old.frames : []);
    for (const f of frames) if (f.homography) map.set(f.frame, f);
    tracks.value.set(screenId, { solveId, outdated: false, frames: map, halted: [], lens: old?.lens ?? 0, shutter: old?.shutter ?? null });
  }

  /** Corners on a frame: the pin on its reference frame, as placed by hand, or carried by the plane; else nothing. */
  function corners({ id, recipe }: Screen, frame: number): Quad | null {
    if (frame === recipe.referenceFrame) return recipe.pin;
    const hand = recipe.hand?.find((k) => k.frame === frame), f = tracks.value.get(id)?.frames.get(frame);
    return hand ? hand.corners : f ? mapQuad(f.homography, recipe.pin) : null;
  }

  /** The Screen's plane on a frame, from the reference frame; null where it is not known. */
  function plane(screen: Screen, frame: number): Matrix3 | null {
    const q = corners(screen, frame);
    return q && quadToQuad(screen.recipe.pin, q);
  }

  return { tracks, load, merge, corners, plane };
});
