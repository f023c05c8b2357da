/** Solved frames by Screen: loaded once, then kept up to date by the stream while a run is on. */
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import { defineStore } from 'pinia';
import { ref } from 'vue';
import { api } from '../api';
import type { SolvedFrame, TrackView } from '../types';

export interface ScreenTrackState {
  readonly solveId: number | null;
  readonly outdated: boolean;
  readonly frames: ReadonlyMap<number, SolvedFrame>;
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
    tracks.value.set(screenId, { solveId, outdated: false, frames: map, halted: [] });
  }

  /** Corners on a frame: the pin carried by the plane; the pin itself on its reference frame; else nothing. */
  function corners(screenId: number, frame: number, pin: Quad, referenceFrame: number): Quad | null {
    const f = tracks.value.get(screenId)?.frames.get(frame);
    if (frame === referenceFrame) return pin;
    return f ? mapQuad(f.homography, pin) : null;
  }

  return { tracks, load, merge, corners };
});
