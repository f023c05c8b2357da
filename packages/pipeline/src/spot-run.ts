/** One spot followed by itself from a frame on which its place is known. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { withinPin } from '@yarlop/core/follow/spots/spot-evidence';
import type { SpotResult } from '@yarlop/core/follow/spots/spots';
import { SpotFollower, knownPlace } from '@yarlop/core/follow/spots/spots';
import type { FramePort } from './frame-port';
import { InputError } from './pipeline-error';
import { spotsOf } from './screen-file';

/**
 * Yields a result per frame after `start` until `end` (before `start` for a run backwards) or until the spot is lost,
 * whose frame comes last with the reason. What an earlier run found is looked for anew; places set by hand stay.
 * @throws InputError when there is no such spot, or its place on `start` is not known
 */
export async function* followSpot(
  screen: ScreenFile,
  index: number,
  start: number,
  end: number,
  frames: FramePort,
): AsyncGenerator<SpotResult> {
  const spot = spotsOf(screen)[index];
  const r = screen.referenceFrame;
  const step = end < start ? -1 : 1;
  if (!spot) throw new InputError(`The Screen has no spot ${index + 1}.`);
  const at = knownPlace(spot, start, r);
  if (!at)
    throw new InputError(
      `Where "${spot.name}" is on frame ${start} is not known; place it there by hand, or begin on a frame on which it is.`,
    );
  const read = async (frame: number): Promise<{ frame: number; luma: Awaited<ReturnType<FramePort['read']>> }> => ({
    frame,
    luma: await frames.read(frame),
  });
  const placed =
    spot.match === 'hand'
      ? await Promise.all(spot.keys.filter((k) => k.frame < frames.frameCount).map((k) => read(k.frame)))
      : [];
  const follower = new SpotFollower(
    { ...spot, path: undefined, from: undefined, to: undefined },
    r,
    await frames.read(r),
    placed,
    spot.corner === undefined ? undefined : withinPin(screen.pin, spot.at),
  );
  if (start !== r) follower.startAt(start, at, await frames.read(start));
  for (let n = start; n !== end;) {
    n += step;
    const result = follower.step(n, await frames.read(n));
    yield result;
    if (!result.at) return;
  }
}
