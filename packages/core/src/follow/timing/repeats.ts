/** Repeated frames: where a camera or a transcoder shows the picture before once more while things move. */
import type { RawLuma } from '../../image/image';
import type { Bounds } from '../../geometry/polygon';

/** px; expected step of the Screen from which a picture that stays tells of a repeat and not of rest. By trial. */
const MOVES = 1.5;
/** Grey of 255; mean difference up to which two pictures are the same: what compression adds to a copy. By trial. */
const SAME = 0.6;
/** px between those that are compared. By trial. */
const EVERY = 3;

/** Mean difference inside bounds, grey of 255. */
function difference(a: RawLuma, b: RawLuma, { x0, y0, x1, y1 }: Bounds): number {
  const white = a.data instanceof Uint16Array ? 257 : 1;
  const right = Math.min(a.width, Math.ceil(x1));
  const bottom = Math.min(a.height, Math.ceil(y1));
  let sum = 0;
  let count = 0;
  for (let y = Math.max(0, Math.floor(y0)); y < bottom; y += EVERY)
    for (let x = Math.max(0, Math.floor(x0)), row = y * a.width; x < right; x += EVERY) {
      sum += Math.abs(a.data[row + x]! - b.data[row + x]!);
      count++;
    }
  return count > 0 ? sum / count / white : Infinity;
}

/**
 * Whether a frame shows the picture before once more, though the Screen in it should have moved on.
 * @param where of the frame the Screen and its surroundings are, px
 * @param step that the Screen should have made, px
 */
export function isRepeat(before: RawLuma | null, now: RawLuma, where: Bounds, step: number): boolean {
  if (!before || before.width !== now.width || before.height !== now.height || step < MOVES) return false;
  return difference(before, now, where) < SAME;
}
