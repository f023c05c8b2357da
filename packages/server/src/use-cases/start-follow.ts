import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { areaOf, followSetup, hasCornerSpots } from '@yarlop/pipeline/screen-file';
import { startAfter, steadiedStretches } from '@yarlop/pipeline/steadied';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { JobRow, ScreenRow } from '../rows';
import type { Direction, Start } from '../worker-protocol';
import * as jobs from '../sql/jobs';
import * as solves from '../sql/solves';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';
import { solveAt } from './follow-task';
import type { Solves } from './parts';
import { placesFor, solvesOf } from './parts';
import { addJob } from './add-job';

export interface FollowInput {
  /** inclusive; where the reference lies outside, only the far end is followed to */
  readonly from: number;
  readonly to: number;
  /** go on through frames that cannot be vouched for, instead of halting at the first */
  readonly keepLooking?: boolean | undefined;
  readonly direction?: 'both' | Direction | undefined;
  /** begin after this solved frame, over what was followed there before */
  readonly start?: number | undefined;
}

/** @throws ApiError or CoreError when the recipe does not fit the plate, or the Screen is being followed already */
export function startFollow(c: Context, screenId: number, input: FollowInput): Promise<JobRow> {
  return c.alone.acquire(`follow ${screenId}`, () => startAlone(c, screenId, input));
}

async function startAlone(c: Context, screenId: number, input: FollowInput): Promise<JobRow> {
  const screen = await findScreen(c, screenId);
  const shot = await findShot(c, screen.shotId);
  if (shot.mediaState !== 'ready')
    throw new ApiError(409, 'not-ready', 'The plate is still being read in; follow when it is done.');
  const r = screen.recipe.referenceFrame;
  if (input.from > r || input.to < r || input.to >= shot.frameCount)
    throw new ApiError(
      422,
      'out-of-range',
      `The range ${input.from} to ${input.to} must lie within frames 0 to ${shot.frameCount - 1} and contain the reference frame ${r}.`,
    );
  if (input.start !== undefined && (input.start < input.from || input.start > input.to))
    throw new ApiError(
      422,
      'out-of-range',
      `Frame ${input.start} lies outside the range ${input.from} to ${input.to}.`,
    );
  followSetup(screen.recipe, { width: shot.probe.width, height: shot.probe.height, frameCount: shot.frameCount });
  if (await c.db.one(jobs.activeFollow, [screenId]))
    throw new ApiError(409, 'busy', 'This Screen is being followed already; stop that run first.');
  const own = await solvesOf(c, screen, shot.mediaHash);
  const recipe = own.main ? followedWith(screen.recipe, own.main.pin) : screen.recipe;
  const places = await placesFor(c, screen, own, [input.from, input.to]);
  const directions: Direction[] =
    input.direction === undefined || input.direction === 'both' ? ['forwards', 'backwards'] : [input.direction];
  const starts = await startsOf(c, screen, shot.mediaHash, { own, directions, start: input.start });
  const id = await addJob(c.db, {
    kind: 'follow',
    mediaHash: shot.mediaHash,
    shotId: shot.id,
    screenId,
    solveId: solveAt(places, r, false),
    input: { ...input, directions, starts, recipe, places },
    framesTotal: framesOf(recipe, [input.from, input.to]),
  });
  c.wake();
  return (await c.db.one<JobRow>(jobs.findJob, [id]))!;
}

/** Frames that a run looks at: those on the steadied plate are looked at twice. */
function framesOf(recipe: ScreenFile, [from, to]: readonly [number, number]): number {
  const again = steadiedStretches(recipe, recipe.referenceFrame, [from, to]);
  return again.reduce((sum, { first, last }) => sum + Math.abs(last - first) + 1, to - from + 1);
}

/** A recipe whose run goes on with what it followed, wherever the pin was set since. */
function followedWith(recipe: ScreenFile, followed: Quad): ScreenFile {
  if (recipe.area || hasCornerSpots(recipe)) return recipe;
  return { ...recipe, area: followed.map(([x, y]) => [x, y]) as unknown as NonNullable<ScreenFile['area']> };
}

/** Where directions begin that were asked to begin after a solved frame. @throws ApiError where it is not solved */
async function startsOf(
  c: Context,
  screen: ScreenRow,
  mediaHash: string,
  { own, directions, start }: { own: Solves; directions: readonly Direction[]; start: number | undefined },
): Promise<Partial<Record<Direction, Start>>> {
  const r = screen.recipe.referenceFrame;
  if (start === undefined || start === r) return {};
  const { frames } = await c.readers.track(screen, mediaHash);
  const followed = own.main?.pin ?? areaOf(screen.recipe).quad;
  const by = new Map(frames.map((f) => [f.frame, mapQuad(f.homography, followed)]));
  if (!by.has(start))
    throw new ApiError(422, 'not-followed', `Frame ${start} was not followed yet; begin on a frame that was.`);
  const out: Partial<Record<Direction, Start>> = {};
  for (const d of directions) {
    const step = d === 'forwards' ? 1 : -1;
    if ((start - r) * step < 0) continue;
    out[d] = startAfter(start, step, (n) => by.get(n));
  }
  return out;
}

/** Drops the results beyond a frame on one side of it, and the follower's memory of them. */
export async function cutBack(c: Context, screenId: number, frame: number, side: 'after' | 'before'): Promise<void> {
  const screen = await findScreen(c, screenId);
  const shot = await findShot(c, screen.shotId);
  const r = screen.recipe.referenceFrame;
  if (await c.db.one(jobs.activeFollow, [screenId]))
    throw new ApiError(409, 'busy', 'This Screen is being followed; stop that run first.');
  if (side === 'after' ? frame < r : frame > r)
    throw new ApiError(422, 'out-of-range', `The reference frame ${r} would be cut off; cut on its other side.`);
  const { parts } = await solvesOf(c, screen, shot.mediaHash);
  const direction = side === 'after' ? 'forwards' : 'backwards';
  await c.db.transaction(async (t) => {
    for (const { from, to, own, first } of parts) {
      const [lo, hi] = side === 'after' ? [Math.max(from, frame + 1), to] : [from, Math.min(to, frame - 1)];
      if (lo > hi) continue;
      for (const { solve } of [own, first ?? own]) {
        if (!solve) continue;
        await t.run(solves.dropFrames, [solve.id, lo, hi]);
        await t.run(solves.checkpoint[direction], [null, solve.id]);
      }
    }
  });
}
