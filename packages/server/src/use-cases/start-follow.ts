import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { areaOf, followSetup, hasCornerSpots } from '@yarlop/pipeline/screen-file';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { JobRow, ScreenRow, SolveRow } from '../rows';
import type { Direction, Start } from '../worker-protocol';
import * as jobs from '../sql/jobs';
import * as solves from '../sql/solves';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';
import { currentSolve, identityOf } from './solve';
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
  const current = await currentSolve(c, screen, shot.mediaHash);
  const { solveId, recipe } =
    current && !current.outdated
      ? { solveId: current.solve.id, recipe: followedWith(screen.recipe, current.solve.pin) }
      : { solveId: await beginSolve(c, screen, shot.mediaHash), recipe: screen.recipe };
  const directions: Direction[] =
    input.direction === undefined || input.direction === 'both' ? ['forwards', 'backwards'] : [input.direction];
  const starts = await startsOf(c, screen, shot.mediaHash, solveId, directions, input.start);
  const id = await addJob(c.db, {
    kind: 'follow',
    mediaHash: shot.mediaHash,
    shotId: shot.id,
    screenId,
    solveId,
    input: { ...input, directions, starts, recipe },
    framesTotal: input.to - input.from + 1,
  });
  c.wake();
  return (await c.db.one<JobRow>(jobs.findJob, [id]))!;
}

async function beginSolve(c: Context, screen: ScreenRow, mediaHash: string): Promise<number> {
  const { recipe } = screen;
  const row = [screen.id, identityOf(screen, mediaHash), JSON.stringify(areaOf(recipe).quad), recipe.referenceFrame];
  return (await c.db.run(solves.insertSolve, row)).insertId;
}

/** A recipe whose run goes on with what it followed, wherever the pin was set since. */
function followedWith(recipe: ScreenFile, followed: Quad): ScreenFile {
  if (recipe.area || hasCornerSpots(recipe)) return recipe;
  return { ...recipe, area: followed.map(([x, y]) => [x, y]) as unknown as NonNullable<ScreenFile['area']> };
}

/**
 * Where each direction begins: after the frame asked for; where its memory was cut off, after the last frame that is
 * left; else the run goes on from its memory or the reference.
 */
async function startsOf(
  c: Context,
  screen: ScreenRow,
  mediaHash: string,
  solveId: number,
  directions: readonly Direction[],
  start: number | undefined,
): Promise<Partial<Record<Direction, Start>>> {
  const solve = await c.db.one<SolveRow>(solves.findSolve, [solveId]);
  const { frames } = await c.readers.track(screen, mediaHash);
  const followed = solve?.pin ?? screen.recipe.pin;
  const by = new Map(frames.map((f) => [f.frame, mapQuad(f.homography, followed)]));
  const r = screen.recipe.referenceFrame;
  const out: Partial<Record<Direction, Start>> = {};
  for (const d of directions) {
    const step = d === 'forwards' ? 1 : -1;
    const left = frames.filter((f) => (f.frame - r) * step > 0);
    if (start !== undefined && (start - r) * step < 0) continue;
    const at =
      start ?? (solve?.[d] === null && left.length > 0 ? (step > 0 ? left.at(-1)! : left[0]!).frame : undefined);
    if (at === undefined || at === r) continue;
    if (!by.has(at))
      throw new ApiError(422, 'not-followed', `Frame ${at} was not followed yet; begin on a frame that was.`);
    out[d] = [at, at - step, at - 2 * step].flatMap((frame) =>
      by.has(frame) ? [{ frame, corners: by.get(frame)! }] : [],
    );
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
  const current = await currentSolve(c, screen, shot.mediaHash);
  if (!current) return;
  await c.db.transaction(async (t) => {
    await t.run(side === 'after' ? solves.dropAfter : solves.dropBefore, [current.solve.id, frame]);
    await t.run(solves.checkpoint[side === 'after' ? 'forwards' : 'backwards'], [null, current.solve.id]);
  });
}
