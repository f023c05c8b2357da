import type { FrameResult } from '@yarlop/core/solve/frame-result';

/** Trust that a frame keeps at the most which a run did not find again that knew more of the camera. By trial. */
const NOT_AGAIN = 0.3;

/**
 * Frames that a run has lost and the one before it had found: they stay where that one had them, in doubt.
 * @param before of the run before, by frame
 * @param now of the last run, by frame
 */
export function keptFound(
  before: ReadonlyMap<number, FrameResult>,
  now: ReadonlyMap<number, FrameResult>,
): FrameResult[] {
  return [...now.values()].flatMap(({ frame, homography }) => {
    const earlier = before.get(frame);
    if (homography || !earlier?.homography) return [];
    return [{ ...earlier, trust: Math.min(earlier.trust, NOT_AGAIN) }];
  });
}
