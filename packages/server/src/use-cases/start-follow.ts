import { followSetup } from '@yarlop/pipeline/screen-file';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { JobRow } from '../rows';
import * as jobs from '../sql/jobs';
import * as solves from '../sql/solves';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';
import { currentSolve, identityOf } from './solve';

export interface FollowInput {
  /** inclusive; where the reference lies outside, only the far end is followed to */
  readonly from: number;
  readonly to: number;
  /** go on through frames that cannot be vouched for, instead of halting at the first */
  readonly keepLooking?: boolean | undefined;
}

/** @throws ApiError or CoreError when the recipe does not fit the plate, or the Screen is being followed already */
export async function startFollow(c: Context, screenId: number, input: FollowInput): Promise<JobRow> {
  const screen = await findScreen(c, screenId), shot = await findShot(c, screen.shotId);
  if (shot.mediaState !== 'ready') throw new ApiError(409, 'not-ready', 'The plate is still being read in; follow when it is done.');
  const r = screen.recipe.referenceFrame;
  if (input.from > r || input.to < r || input.to >= shot.frameCount)
    throw new ApiError(422, 'out-of-range', `The range ${input.from} to ${input.to} must lie within frames 0 to ${shot.frameCount - 1} and contain the reference frame ${r}.`);
  followSetup(screen.recipe, { width: shot.probe.width, height: shot.probe.height, frameCount: shot.frameCount });
  if (await c.db.one(jobs.activeFollow, [screenId])) throw new ApiError(409, 'busy', 'This Screen is being followed already; stop that run first.');
  const current = await currentSolve(c, screen, shot.mediaHash);
  const solveId = current && !current.outdated ? current.solve.id
    : (await c.db.run(solves.insertSolve, [screenId, identityOf(screen, shot.mediaHash), JSON.stringify(screen.recipe.pin), r])).insertId;
  const { insertId } = await c.db.run(jobs.insertJob, [
    'follow', shot.mediaHash, shot.id, screenId, solveId, null, JSON.stringify({ ...input, recipe: screen.recipe }), input.to - input.from + 1,
  ]);
  c.wake();
  return (await c.db.one<JobRow>(jobs.findJob, [insertId]))!;
}
