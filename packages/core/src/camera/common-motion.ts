/**
 * The movement that most points of a picture share from one frame to the next, as an affine map: robust least squares,
 * the weight drawn in from coarse to fine. Source: P. Huber, Robust Statistics, 1981 (iterated weights).
 */
import { cholesky, choleskySolve } from '../geometry/linear-algebra';
import { weightOf } from './bundle';

interface Place {
  readonly x: number;
  readonly y: number;
}

/** A point on one frame and on the next, px. */
export interface MovedPoint {
  readonly from: Place;
  readonly to: Place;
}

/** Where a point of the one frame goes by the movement that is shared, px. */
export type CommonMotion = (at: Place) => Place;

/** Px at 1920 wide at which the weight bends, from coarse to fine: parallax must pass, a wrong key of a keyboard not. By trial. */
const SCALES = [80, 40, 20, 10, 6] as const;

/** Points that it takes at the least. By trial. */
const LEAST_POINTS = 8;

/** Damping, so that points on a line leave the other direction as it is; share of the diagonal. */
const DAMPING = 1e-6;

/**
 * @param width px of the picture
 * @returns null where too few points are given
 */
export function commonMotion(points: readonly MovedPoint[], width: number): CommonMotion | null {
  if (points.length < LEAST_POINTS) return null;
  // Of the shift: constant, by x and by y, for x and for y; coordinates in picture widths from the middle.
  let x = new Float64Array(3);
  let y = new Float64Array(3);
  const basis = (at: Place): readonly [number, number, number] => [1, at.x / width - 0.5, at.y / width - 0.5];
  const shift = (b: readonly number[], by: Float64Array): number => b.reduce((sum, v, k) => sum + v * by[k]!, 0);
  for (const scale of SCALES) {
    const a = new Float64Array(9);
    const [bx, by] = [new Float64Array(3), new Float64Array(3)];
    for (const { from, to } of points) {
      const b = basis(from);
      const [sx, sy] = [to.x - from.x, to.y - from.y];
      const weight = weightOf((sx - shift(b, x)) ** 2 + (sy - shift(b, y)) ** 2, (scale * width) / 1920);
      for (let r = 0; r < 3; r++) {
        bx[r]! += weight * b[r]! * sx;
        by[r]! += weight * b[r]! * sy;
        for (let c = 0; c <= r; c++) a[3 * r + c]! += weight * b[r]! * b[c]!;
      }
    }
    for (let r = 0; r < 3; r++) a[4 * r]! *= 1 + DAMPING;
    if (!cholesky(a, 3)) return null;
    choleskySolve(a, 3, bx);
    choleskySolve(a, 3, by);
    [x, y] = [bx, by];
  }
  return (at) => {
    const b = basis(at);
    return { x: at.x + shift(b, x), y: at.y + shift(b, y) };
  };
}
