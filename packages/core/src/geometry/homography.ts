/**
 * Planar homographies: 3x3 matrices that map column vectors (x, y, 1) of one picture of a plane to another picture of
 * it. Everywhere in Yarlop they map the reference frame to a frame, have unit Frobenius norm and a positive third
 * component at the pin's centre. Fixing h33 = 1 instead would break on oblique views, where h33 may pass through zero.
 *
 * Source: R. Hartley and A. Zisserman, Multiple View Geometry, 2nd ed., sections 2.3 and 4.1 (DLT), 4.4
 * (normalisation); P. Heckbert, Fundamentals of Texture Mapping, 1989, section 2.2.3 (unit square to quadrilateral).
 */
import { CoreError } from '../errors';
import type { Matrix3 } from './matrix3';
import { inverse, multiply } from './matrix3';
import { solveLinear } from './linear-algebra';
import type { Point } from './point';

/** The image of `p`; not finite when `p` lies on the line that maps to infinity. */
export function mapPoint(h: Matrix3, p: Point): Point {
  const w = 1 / (h[6]! * p[0] + h[7]! * p[1] + h[8]!);
  return [(h[0]! * p[0] + h[1]! * p[1] + h[2]!) * w, (h[3]! * p[0] + h[4]! * p[1] + h[5]!) * w];
}

/** Unit Frobenius norm, with the sign that gives `at` a positive third component. */
export function normaliseHomography(h: Matrix3, at: Point): number[] {
  let s = 0;
  for (const v of h) s += v * v;
  const w = h[6]! * at[0] + h[7]! * at[1] + h[8]!;
  const f = (w < 0 ? -1 : 1) / Math.sqrt(s);
  return h.map((v) => v * f);
}

/**
 * The homography that maps the unit square (0,0) (1,0) (1,1) (0,1) to four corners given in that order.
 * @throws CoreError `degenerate` when three corners lie on a line
 */
export function unitSquareToQuad(q: readonly Point[]): number[] {
  const [[x0, y0], [x1, y1], [x2, y2], [x3, y3]] = q as [Point, Point, Point, Point];
  const dx1 = x1 - x2;
  const dx2 = x3 - x2;
  const sx = x0 - x1 + x2 - x3;
  const dy1 = y1 - y2;
  const dy2 = y3 - y2;
  const sy = y0 - y1 + y2 - y3;
  const d = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / d;
  const h = (dx1 * sy - sx * dy1) / d;
  const out = [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1];
  if (!out.every(Number.isFinite)) throw new CoreError('degenerate', 'Three of the four corners lie on one line.');
  return out;
}

/** The exact homography between two quadrilaterals, corner by corner. @throws CoreError `degenerate` */
export function quadToQuad(from: readonly Point[], to: readonly Point[]): number[] {
  const h = multiply(unitSquareToQuad(to), inverse(unitSquareToQuad(from)));
  if (!h.every(Number.isFinite)) throw new CoreError('degenerate', 'Three of the four corners lie on one line.');
  return h;
}

/** Isotropic scaling to centroid 0 and mean distance sqrt 2 (Hartley's normalisation). */
function conditioner(points: readonly Point[]): { m: number[]; at: Point; scale: number } {
  let cx = 0;
  let cy = 0;
  for (const [x, y] of points) {
    cx += x / points.length;
    cy += y / points.length;
  }
  let d = 0;
  for (const [x, y] of points) d += Math.hypot(x - cx, y - cy) / points.length;
  const s = Math.SQRT2 / (d || 1);
  return { m: [s, 0, -s * cx, 0, s, -s * cy, 0, 0, 1], at: [cx, cy], scale: s };
}

/**
 * Least-squares homography from four or more pairs, by the normalised direct linear transform with h33 = 1 in
 * conditioned coordinates (the centroid's third component, never near zero for a plane in front of the camera).
 * @throws CoreError `degenerate` for fewer than four pairs or pairs on a line
 */
export function homographyFromPairs(from: readonly Point[], to: readonly Point[]): number[] {
  if (from.length < 4 || from.length !== to.length)
    throw new CoreError('degenerate', `A homography needs at least four pairs of points; ${from.length} were given.`);
  const a = conditioner(from);
  const b = conditioner(to);
  const ata = new Float64Array(64);
  const atb = new Float64Array(8);
  const row = new Float64Array(8);
  const add = (value: number): void => {
    for (let i = 0; i < 8; i++) {
      atb[i]! += row[i]! * value;
      for (let j = 0; j < 8; j++) ata[i * 8 + j]! += row[i]! * row[j]!;
    }
  };
  for (let k = 0; k < from.length; k++) {
    const x = (from[k]![0] - a.at[0]) * a.scale;
    const y = (from[k]![1] - a.at[1]) * a.scale;
    const u = (to[k]![0] - b.at[0]) * b.scale;
    const v = (to[k]![1] - b.at[1]) * b.scale;
    row.set([x, y, 1, 0, 0, 0, -u * x, -u * y]);
    add(u);
    row.set([0, 0, 0, x, y, 1, -v * x, -v * y]);
    add(v);
  }
  const p = solveLinear(ata, atb);
  if (!p) throw new CoreError('degenerate', 'The points lie on one line; a homography needs four that do not.');
  return multiply(inverse(b.m), multiply([...p, 1], a.m));
}

/** A 2x2 matrix, row by row. */
export type Matrix2 = readonly [number, number, number, number];

/** How the image of `p` moves with it: d(x, y) by d(x, y), px a px. */
export function derivativeAt(h: Matrix3, p: Point): Matrix2 {
  const w = h[6]! * p[0] + h[7]! * p[1] + h[8]!;
  const [x, y] = mapPoint(h, p);
  return [(h[0]! - x * h[6]!) / w, (h[1]! - x * h[7]!) / w, (h[3]! - y * h[6]!) / w, (h[4]! - y * h[7]!) / w];
}

/** Local linear scale of `h` at `p`: square root of the area that one source pixel covers in the target. */
export function scaleAt(h: Matrix3, p: Point): number {
  const [a, b, c, d] = derivativeAt(h, p);
  return Math.sqrt(Math.abs(a * d - b * c));
}
