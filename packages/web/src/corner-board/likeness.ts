/** Which remembered look of a corner a frame is compared with, and how that is laid over the frame. */
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { inverse, multiply } from '@yarlop/core/geometry/matrix3';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import type { Recipe } from '../types';

export interface RememberedLook {
  readonly frame: number;
  /** the corner there, px of that frame */
  readonly at: Point;
}

/** The nearest frame on which the corner is known to be right. */
export function lookFor(r: Recipe, corner: number, frame: number): RememberedLook {
  const own = (r.likenesses ?? [])
    .filter((l) => l.corner === corner)
    .map((l): RememberedLook => ({ frame: l.frame, at: l.at }));
  return [{ frame: r.referenceFrame, at: r.pin[corner]! }, ...own].reduce((a, b) =>
    Math.abs(b.frame - frame) < Math.abs(a.frame - frame) ? b : a,
  );
}

/**
 * The plane's movement from one frame to another around a place, as an affine map (a, b, c, d, e, f of a canvas) that
 * takes the place `at` to `to`.
 */
export function affineAround(
  from: Matrix3,
  to: Matrix3,
  at: Point,
  there: Point,
): [number, number, number, number, number, number] {
  const h = multiply(to, inverse(from));
  const d = 0.5;
  const [x0, y0] = mapPoint(h, [at[0] - d, at[1]]);
  const [x1, y1] = mapPoint(h, [at[0] + d, at[1]]);
  const [u0, v0] = mapPoint(h, [at[0], at[1] - d]);
  const [u1, v1] = mapPoint(h, [at[0], at[1] + d]);
  const [a, b, c, e] = [x1 - x0, y1 - y0, u1 - u0, v1 - v0];
  return [a, b, c, e, there[0] - a * at[0] - c * at[1], there[1] - b * at[0] - e * at[1]];
}
