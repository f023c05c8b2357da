/** Where following has its frames from, one reading of the plate or several. */
import type { FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import type { RawLuma } from '@yarlop/core/image/image';

export interface FramePort {
  readonly width: number;
  readonly frameCount: number;
  read(frame: number): Promise<RawLuma>;
  /** the same frames as a section of another reading sees them; missing where there is none */
  as?(reading: string): FramePort;
}

/** The frames as a setup has them read. */
export function portFor({ reading }: FollowSetup, frames: FramePort): FramePort {
  return reading !== undefined && frames.as ? frames.as(reading) : frames;
}

/** Frames after one of them up to another, each read while the one before it is worked on. */
export async function* readOn(
  from: number,
  end: number,
  portOn: (frame: number) => FramePort,
): AsyncGenerator<{ readonly frame: number; readonly luma: RawLuma }> {
  if (from === end) return;
  const step = end < from ? -1 : 1;
  let next = portOn(from + step).read(from + step);
  next.catch(() => {});
  for (let frame = from + step; ; frame += step) {
    const luma = await next;
    if (frame !== end) {
      next = portOn(frame + step).read(frame + step);
      next.catch(() => {});
    }
    yield { frame, luma };
    if (frame === end) return;
  }
}
