/**
 * Whether a quad can be the picture of a rectangle, and of which proportions. Source: Z. Zhang, A flexible new technique for
 * camera calibration, 2000 (the first two columns of a plane's homography, seen through the camera, are orthogonal).
 */
import { unitSquareToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';

/** Focal lengths that are tried, picture widths: from wide to long. By trial. */
const FOCALS = [0.7, 1, 1.4, 2, 3] as const;

export interface RectangleLook {
  /** cosine between its sides in space, of the focal length that fits best; 0 is a rectangle */
  readonly skew: number;
  /** width over height */
  readonly aspect: number;
}

/** @param width @param height of the picture, px; its middle is the lens's */
export function rectangleLook(q: Quad, width: number, height: number): RectangleLook {
  const h = unitSquareToQuad(q);
  let best: RectangleLook = { skew: Infinity, aspect: 1 };
  for (const focal of FOCALS) {
    const f = focal * width;
    const seen = (c: 0 | 1): [number, number, number] => [
      (h[c]! - (width / 2) * h[6 + c]!) / f,
      (h[3 + c]! - (height / 2) * h[6 + c]!) / f,
      h[6 + c]!,
    ];
    const [a, b] = [seen(0), seen(1)];
    const [la, lb] = [Math.hypot(...a), Math.hypot(...b)];
    const skew = Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / (la * lb);
    if (skew < best.skew) best = { skew, aspect: la / lb };
  }
  return best;
}
