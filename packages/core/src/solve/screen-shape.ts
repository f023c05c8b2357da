/**
 * The shape of a flat screen as a view of it tells behind a lens: two numbers that are the same on every view of a stiff one.
 * Source: Z. Zhang, A Flexible New Technique for Camera Calibration, PAMI 2000 (the two constraints of a plane's view).
 */
import { unitSquareToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';

/** px; step of the finite differences. By trial. */
const DIFFERENCE = 0.02;

/** The picture as the lens sees it, px: what half its width is, and where its middle lies. */
export interface Picture {
  readonly half: number;
  readonly cx: number;
  readonly cy: number;
}

/** Cosine between the sides and logarithm of their squared ratio, for a squared focal length in (half widths)^2. */
export function shapeOf(corners: readonly Point[], { half, cx, cy }: Picture, phi: number): [number, number] {
  const h = unitSquareToQuad(corners.map(([x, y]): Point => [(x - cx) / half, (y - cy) / half]));
  const n1 = h[0]! ** 2 + h[3]! ** 2 + phi * h[6]! ** 2;
  const n2 = h[1]! ** 2 + h[4]! ** 2 + phi * h[7]! ** 2;
  return [(h[0]! * h[1]! + h[3]! * h[4]! + phi * h[6]! * h[7]!) / Math.sqrt(n1 * n2), Math.log(n1 / n2)];
}

/** Of both by the eight corner coordinates, px. */
export function shapeGradients(corners: Quad, picture: Picture, phi: number): [Float64Array, Float64Array] {
  const angle = new Float64Array(8);
  const ratio = new Float64Array(8);
  for (let k = 0; k < 8; k++) {
    const moved = (by: number): [number, number] =>
      shapeOf(
        corners.map(([x, y], i): Point => {
          if (i === k >> 1) return k & 1 ? [x, y + by] : [x + by, y];
          return [x, y];
        }),
        picture,
        phi,
      );
    const a = moved(DIFFERENCE);
    const b = moved(-DIFFERENCE);
    angle[k] = (a[0] - b[0]) / (2 * DIFFERENCE);
    ratio[k] = (a[1] - b[1]) / (2 * DIFFERENCE);
  }
  return [angle, ratio];
}
