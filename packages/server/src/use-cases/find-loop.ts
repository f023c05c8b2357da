/** Where a shot can be made to meet its own beginning. */
import type { Requests } from '@yarlop/contracts/validate';
import type { LoopRange } from '@yarlop/core/image/loop-range';
import { loopRange } from '@yarlop/core/image/loop-range';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';
import { SMALL_WIDTH, smallFramesOf } from './small-frames-of';

/** Frames beyond which a range is not searched through: every pair of them is compared. */
const MOST = 3000;

export async function findLoop(
  c: Context,
  shotId: number,
  { dissolve, screen, least }: NonNullable<Requests['findLoop']>,
): Promise<LoopRange> {
  const shot = await findShot(c, shotId);
  const { rangeFrom: from, rangeTo: to } = shot;
  const count = to - from + 1;
  if (count > MOST)
    throw new ApiError(
      422,
      'out-of-range',
      `The working range has ${count} frames; at most ${MOST} are searched for a loop. Shorten it in Plate first.`,
    );
  const track = screen === undefined ? null : await c.readers.track(await findScreen(c, screen), shot.mediaHash);
  const corners = new Map(track?.frames.map((f) => [f.frame, f.corners]));
  const found = loopRange(
    await smallFramesOf(c, shot.mediaHash),
    SMALL_WIDTH,
    (n) => corners.get(n) ?? null,
    shot.probe.width,
    { from, to, dissolve, least: least ?? Math.max(2, Math.ceil(count / 2)) },
  );
  if (!found)
    throw new ApiError(
      422,
      'out-of-range',
      `The working range of ${count} frames is too short for a loop with a dissolve of ${dissolve}; dissolve for less, or widen the range.`,
    );
  return found;
}
