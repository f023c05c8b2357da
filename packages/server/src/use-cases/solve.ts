/** Which solve belongs to a recipe, and the track that it gives. */
import { createHash } from 'node:crypto';
import { ABSENT } from '@yarlop/core/solve/frame-result';
import { isPresent } from '@yarlop/core/follow/follower-state';
import { bestShutter } from '@yarlop/core/follow/shutter';
import { withHandKeys } from '@yarlop/core/solve/hand-bend';
import { refineJointly } from '@yarlop/core/solve/joint-refinement';
import { correctedPin } from '@yarlop/core/solve/touch-up';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { distance } from '@yarlop/core/geometry/point';
import { correctionsOf, hasCornerSpots, solveIdentity } from '@yarlop/pipeline/screen-file';
import { knownOfPin } from '@yarlop/core/pin/area';
import type { Context } from '../context';
import type { TrackView } from '../track-view';
import type { FrameRow, MediaRow, ScreenRow, SolveRow } from '../rows';
import { findMedia } from '../sql/media';
import * as solves from '../sql/solves';

export function identityOf(screen: ScreenRow, mediaHash: string): string {
  return createHash('sha256').update(solveIdentity(screen.recipe, mediaHash)).digest('hex');
}

/** Whether a pin moved by less than a twentieth of its size: it was nudged, not set anew. */
function isNudge(a: Quad, b: Quad): boolean {
  const size = Math.max(distance(a[0], a[2]), distance(a[1], a[3]));
  return a.every((p, i) => distance(p, b[i]!) < 0.05 * size);
}

export async function currentSolve(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  mediaHash: string,
): Promise<{ solve: SolveRow; outdated: boolean } | null> {
  const all = await c.db.all<SolveRow>(solves.listSolves, [screen.id]);
  const identity = identityOf(screen, mediaHash);
  const { pin } = screen.recipe;
  // The pin rides on what was followed, wherever it is set; just spots at its corners are followed with it.
  const bound = hasCornerSpots(screen.recipe);
  const own = all.find((s) => s.identity === identity && (!bound || isNudge(s.pin, pin)));
  if (own) return { solve: own, outdated: false };
  return all[0] ? { solve: all[0], outdated: true } : null;
}

/** What the runs learnt of the camera, from whichever direction saw more of it. */
function learnt({ forwards, backwards }: SolveRow): Pick<TrackView, 'lens' | 'shutter'> {
  const states = [forwards?.state, backwards?.state].flatMap((s) => (s ? [s] : []));
  const lens = states.reduce((b, s) => (s.lens && s.lens.information >= b.information ? s.lens : b), {
    information: 0,
    radial: 0,
  }).radial;
  const shutter = states.reduce((b, s) => (s.shutter.frames > b.frames ? s.shutter : b), {
    agreement: [] as readonly number[],
    frames: 0,
  });
  return {
    lens,
    shutter: shutter.frames > 0 ? { share: bestShutter(shutter.agreement), frames: shutter.frames } : null,
  };
}

/**
 * Corners are derived here, on reading: homography times the pin as it is now, as corrected; homographies are the
 * plane's, as followed. It takes a while for long tracks: only threads of {@link Readers} call it.
 */
export async function readTrack(c: Pick<Context, 'db'>, screen: ScreenRow, mediaHash: string): Promise<TrackView> {
  const current = await currentSolve(c, screen, mediaHash);
  if (!current) return { solveId: null, outdated: false, area: null, frames: [], halted: [], lens: 0, shutter: null };
  const { pin, hand = [] } = screen.recipe;
  const corrections = correctionsOf(screen.recipe);
  const { referenceFrame } = current.solve;
  const rows = withHandKeys(await c.db.all<FrameRow>(solves.listFrames, [current.solve.id]), pin, hand, referenceFrame);
  let first = rows.findIndex((r) => r.homography);
  let last = rows.findLastIndex((r) => r.homography);
  if (first < 0) [first, last] = [0, -1];
  const presence = screen.recipe.presence ?? [];
  const lost = rows.filter((r) => r.reason !== null && r.reason !== ABSENT && !r.homography);
  const media = await c.db.one<MediaRow>(findMedia, [mediaHash]);
  const known = knownOfPin(current.solve.pin, pin, media?.probe.width ?? 0);
  const frames = refineJointly(
    rows.slice(first, last + 1),
    current.solve.pin,
    new Set([referenceFrame, ...hand.map((k) => k.frame)]),
  )
    .filter((r) => r.homography && isPresent({ presence }, r.frame))
    .map(({ frame, homography, sigma, trust, evidence, blur, reason }) => ({
      ...known({ frame, homography: homography!, sigma, trust, evidence, blur, reason }),
      corners: mapQuad(homography!, correctedPin(pin, corrections, frame)),
    }));
  const halted = lost
    .filter((r) => r === rows[first - 1] || r === rows[last + 1])
    .map((r) => ({ frame: r.frame, reason: r.reason! }));
  const { id: solveId, pin: area } = current.solve;
  return { solveId, outdated: current.outdated, area, frames, halted, ...learnt(current.solve) };
}

export interface Seen {
  /** see the core's `cell-map.ts` */
  readonly cells: readonly number[];
  readonly spots: readonly (readonly [number, number, number] | null)[];
}

/** What a frame was followed by; empty lists where it was not. */
export async function readSeen(c: Context, screen: ScreenRow, mediaHash: string, frame: number): Promise<Seen> {
  const current = await currentSolve(c, screen, mediaHash);
  const row = current && (await c.db.one<{ seen: Partial<Seen> }>(solves.findSeen, [current.solve.id, frame]));
  return { cells: row?.seen.cells ?? [], spots: row?.seen.spots ?? [] };
}
