/** The track that a Screen's solves give with its recipe. */
import { ABSENT } from '@yarlop/core/solve/frame-result';
import { isPresent } from '@yarlop/core/follow/memory/follower-state';
import type { ShutterMemory } from '@yarlop/core/follow/timing/shutter';
import { bestShutter } from '@yarlop/core/follow/timing/shutter';
import { rangesOf } from '@yarlop/core/frame-ranges';
import { withHandKeys } from '@yarlop/core/solve/hand-bend';
import { solvedTogether } from '@yarlop/pipeline/assemble-track';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { frameInputs } from '@yarlop/pipeline/frame-inputs';
import { knownOfPin } from '@yarlop/core/pin/area';
import type { Context } from '../context';
import type { TrackView } from '../track-view';
import type { MediaRow, ScreenRow } from '../rows';
import { findMedia } from '../sql/media';
import * as solves from '../sql/solves';
import type { FollowedFrame, InputsOf, Solves } from './parts';
import { followedFrames, listOf, solvesOf, typedLens, usedBy } from './parts';
import { passingBefore } from './passing';
import { withShotScene } from './shot-scene';

type Side = 'forwards' | 'backwards';
type LearntRow = Readonly<
  Record<`${Side}Lens`, { readonly information: number; readonly radial: number } | null> &
    Record<`${Side}Shutter`, ShutterMemory | null>
>;

/** What the runs learnt of the camera, from whichever of them saw most of it. */
async function learnt(
  c: Pick<Context, 'db'>,
  screenId: number,
  used: readonly number[],
): Promise<Pick<TrackView, 'lens' | 'shutter'>> {
  const rows = await c.db.all<LearntRow>(solves.learntIn, [screenId, listOf(used)]);
  const lenses = rows.flatMap((r) => [r.forwardsLens ?? [], r.backwardsLens ?? []].flat());
  const shutters = rows.flatMap((r) => [r.forwardsShutter ?? [], r.backwardsShutter ?? []].flat());
  const lens = lenses.reduce((b, s) => (s.information >= b.information ? s : b), { information: 0, radial: 0 }).radial;
  const shutter = shutters.reduce((b, s) => (s.frames > b.frames ? s : b), {
    agreement: [] as readonly number[],
    frames: 0,
  });
  return {
    lens,
    shutter: shutter.frames > 0 ? { share: bestShutter(shutter.agreement), frames: shutter.frames } : null,
  };
}

/** The solve that a frame comes from; one between followed frames goes with the one before it. */
function solveByFrame(rows: readonly FollowedFrame[]): (frame: number) => number | undefined {
  const changes = rows.filter((r, i) => r.solveId !== rows[i - 1]?.solveId);
  return (frame) => (changes.findLast((r) => r.frame <= frame) ?? changes[0])?.solveId;
}

/** What frames know, told of one area: those of a solve that followed another one are carried along. */
function ofOneArea(rows: readonly FollowedFrame[], { all }: Solves, area: Quad, width: number): FollowedFrame[] {
  const pins = new Map(all.map((s) => [s.id, s.pin]));
  return rows.map((r) => {
    const pin = pins.get(r.solveId) ?? area;
    if (!r.homography || JSON.stringify(pin) === JSON.stringify(area)) return r;
    const { frame, homography, sigma, trust, evidence } = r;
    return { ...r, ...knownOfPin(pin, area, width)({ frame, homography, sigma, trust, evidence }), information: [] };
  });
}

/**
 * Corners are derived here, on reading: homography times the pin as it is now, as corrected; homographies are the
 * plane's, as followed. It takes a while for long tracks: only threads of {@link Readers} call it.
 */
export async function readTrack(c: Pick<Context, 'db'>, screen: ScreenRow, mediaHash: string): Promise<TrackView> {
  // Of what passes just its way counts here, and not what that rests on.
  const passing = await passingBefore(c, screen, (s) => trackWith(c, s, mediaHash, null));
  return trackWith(c, screen, mediaHash, frameInputs(screen.recipe, passing));
}

/** @param inputs what the frames are followed with now */
async function trackWith(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  mediaHash: string,
  inputs: InputsOf,
): Promise<TrackView> {
  const own = await solvesOf(c, screen, mediaHash);
  const main = own.main ?? own.all[0];
  const nothing = { outdated: false, stale: [], area: null, frames: [], halted: [], lens: 0, shutter: null };
  if (!main) return withShotScene(c, screen, mediaHash, { solveId: null, scene: null, ...nothing });
  const { pin, hand = [] } = screen.recipe;
  const { referenceFrame, pin: area } = main;
  const media = await c.db.one<MediaRow>(findMedia, [mediaHash]);
  const width = media?.probe.width ?? 0;
  const followed = ofOneArea(await followedFrames(c, screen, own, inputs), own, area, width);
  const partOf = solveByFrame(followed);
  const rows = withHandKeys(followed, pin, hand, referenceFrame);
  let first = rows.findIndex((r) => r.homography);
  let last = rows.findLastIndex((r) => r.homography);
  if (first < 0) [first, last] = [0, -1];
  const presence = screen.recipe.presence ?? [];
  const lost = rows.filter((r) => r.reason !== null && r.reason !== ABSENT && !r.homography);
  const known = knownOfPin(area, pin, width);
  const exact = new Set([referenceFrame, ...hand.map((k) => k.frame)]);
  const order = { pin: area, exact, partOf, referenceFrame, width };
  const frames = solvedTogether(rows.slice(first, last + 1), order)
    .filter((r) => r.homography && isPresent({ presence }, r.frame))
    .map(({ frame, homography, sigma, trust, evidence, blur, reason }) => ({
      ...known({ frame, homography: homography!, sigma, trust, evidence, blur, reason }),
      corners: mapQuad(homography!, pin),
    }));
  const halted = lost
    .filter((r) => r === rows[first - 1] || r === rows[last + 1])
    .map((r) => ({ frame: r.frame, reason: r.reason! }));
  const stale = rangesOf(followed.filter((r) => r.isStale && r.homography).map((r) => r.frame));
  const outdated = stale.length > 0 || !own.main;
  const used = own.main ? usedBy(own).map((w) => w.solve.id) : [main.id];
  const { lens, shutter } = await learnt(c, screen.id, used);
  return withShotScene(c, screen, mediaHash, {
    ...{ solveId: main.id, outdated, stale, area, frames, halted, shutter, scene: null },
    lens: typedLens(screen.recipe) ?? lens,
  });
}

export interface Seen {
  /** see the core's `cell-map.ts` */
  readonly cells: readonly number[];
  readonly spots: readonly (readonly [number, number, number] | null)[];
}

/** What a frame was followed by; empty lists where it was not. */
export async function readSeen(c: Context, screen: ScreenRow, mediaHash: string, frame: number): Promise<Seen> {
  const { parts, main, all } = await solvesOf(c, screen, mediaHash);
  const part = parts.find((p) => frame <= p.to);
  const asked = [part?.own.solve, part?.first?.solve, main, all[0]].flatMap((s) => (s ? [s.id] : []));
  for (const id of new Set(asked)) {
    const row = await c.db.one<{ seen: Partial<Seen> }>(solves.findSeen, [id, frame]);
    if (row) return { cells: row.seen.cells ?? [], spots: row.seen.spots ?? [] };
  }
  return { cells: [], spots: [] };
}
