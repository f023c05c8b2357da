/** Which solve belongs to a recipe, and the track that it gives. */
import { createHash } from 'node:crypto';
import type { TrackFrame } from '@yarlop/core/track';
import { refineJointly } from '@yarlop/core/solve/joint-refinement';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { distance } from '@yarlop/core/geometry/point';
import { solveIdentity } from '@yarlop/pipeline/screen-file';
import type { Context } from '../context';
import type { FrameRow, ScreenRow, SolveRow } from '../rows';
import * as solves from '../sql/solves';

export function identityOf(screen: ScreenRow, mediaHash: string): string {
  return createHash('sha256').update(solveIdentity(screen.recipe, mediaHash)).digest('hex');
}

/** A pin that moved by less than a twentieth of its size was nudged, not set anew: the solve stays its own. */
export function isNudge(a: Quad, b: Quad): boolean {
  const size = Math.max(distance(a[0], a[2]), distance(a[1], a[3]));
  return a.every((p, i) => distance(p, b[i]!) < 0.05 * size);
}

export async function currentSolve(c: Context, screen: ScreenRow, mediaHash: string): Promise<{ solve: SolveRow; outdated: boolean } | null> {
  const all = await c.db.all<SolveRow>(solves.listSolves, [screen.id]), identity = identityOf(screen, mediaHash);
  const own = all.find((s) => s.identity === identity && isNudge(s.pin, screen.recipe.pin));
  if (own) return { solve: own, outdated: false };
  return all[0] ? { solve: all[0], outdated: true } : null;
}

export interface TrackView {
  readonly solveId: number | null;
  readonly outdated: boolean;
  readonly frames: readonly (TrackFrame & { readonly reason: string | null })[];
  /** the frames next to the ends at which following halted, with the reason */
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
}

/** Corners are derived here, on reading: homography times the pin as it is now. */
export async function readTrack(c: Context, screen: ScreenRow, mediaHash: string): Promise<TrackView> {
  const current = await currentSolve(c, screen, mediaHash);
  if (!current) return { solveId: null, outdated: false, frames: [], halted: [] };
  const rows = await c.db.all<FrameRow>(solves.listFrames, [current.solve.id]);
  let first = rows.findIndex((r) => r.homography), last = rows.findLastIndex((r) => r.homography);
  if (first < 0) [first, last] = [0, -1];
  const { pin } = screen.recipe, lost = rows.filter((r) => r.reason !== null && !r.homography);
  const frames = refineJointly(rows.slice(first, last + 1), current.solve.pin, current.solve.referenceFrame).map((r) => ({
    frame: r.frame, corners: mapQuad(r.homography!, pin), homography: r.homography!, sigma: r.sigma, trust: r.trust, evidence: r.evidence, reason: r.reason,
  }));
  const halted = lost.filter((r) => r === rows[first - 1] || r === rows[last + 1]).map((r) => ({ frame: r.frame, reason: r.reason! }));
  return { solveId: current.solve.id, outdated: current.outdated, frames, halted };
}
