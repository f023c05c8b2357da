/**
 * Normal equations of a planar motion: the warp H W(p), W(p) = I + [[a b c] [d e f] [g h 0]] in normalised template
 * coordinates, linearised at p = 0. Every kind of evidence adds its own terms in px of the picture, weighted by its
 * information, and one solve serves them all.
 */
import type { Matrix3 } from './matrix3';
import { inverse, multiply } from './matrix3';
import { cholesky, choleskySolve } from './linear-algebra';
import type { Point } from './point';
import type { Motion } from './motion';
import { degreesOfFreedom, extend, restrict, warpMatrix } from './motion';

export interface Equations {
  /** 8x8 row-major, symmetric */
  readonly a: Float64Array;
  readonly b: Float64Array;
}

/** Equations that nothing was added to yet. */
export const noEquations = (): Equations => ({ a: new Float64Array(64), b: new Float64Array(8) });

/** Where (u, v) is mapped by `h`, and d(x, y)/dp: x in 0..7 and y in 8..15 of `rows`, which is filled. */
export function pointJacobian(h: Matrix3, u: number, v: number, rows: Float64Array): Point {
  const w = 1 / (h[6]! * u + h[7]! * v + h[8]!);
  const x = (h[0]! * u + h[1]! * v + h[2]!) * w;
  const y = (h[3]! * u + h[4]! * v + h[5]!) * w;
  const xu = (h[0]! - x * h[6]!) * w;
  const xv = (h[1]! - x * h[7]!) * w;
  const yu = (h[3]! - y * h[6]!) * w;
  const yv = (h[4]! - y * h[7]!) * w;
  const fx = u * xu + v * xv;
  const fy = u * yu + v * yv;
  rows[0] = u * xu;
  rows[1] = v * xu;
  rows[2] = xu;
  rows[3] = u * xv;
  rows[4] = v * xv;
  rows[5] = xv;
  rows[6] = -u * fx;
  rows[7] = -v * fx;
  rows[8] = u * yu;
  rows[9] = v * yu;
  rows[10] = yu;
  rows[11] = u * yv;
  rows[12] = v * yv;
  rows[13] = yv;
  rows[14] = -u * fy;
  rows[15] = -v * fy;
  return [x, y];
}

/** One scalar measurement: `j` is d(value)/dp, `e` the value that should be zero, `w` one over its variance. */
export function addScalar(eq: Equations, j: Float64Array, e: number, w: number): void {
  const { a, b } = eq;
  for (let p = 0; p < 8; p++) {
    const k = w * j[p]!;
    b[p]! += k * e;
    for (let q = 0; q < 8; q++) a[p * 8 + q]! += k * j[q]!;
  }
}

/** Where corners should be, each with the same standard deviation on both axes, px. */
export function addCorners(
  eq: Equations,
  h: Matrix3,
  u: readonly number[],
  v: readonly number[],
  where: readonly Point[],
  sigma: number,
): void {
  const rows = new Float64Array(16);
  const w = 1 / (sigma * sigma);
  for (let i = 0; i < 4; i++) {
    const at = pointJacobian(h, u[i]!, v[i]!, rows);
    addScalar(eq, rows.subarray(0, 8), at[0] - where[i]![0], w);
    addScalar(eq, rows.subarray(8, 16), at[1] - where[i]![1], w);
  }
}

/** The step inside a motion model, or null when the equations fall apart. */
export function solveStep(motion: Motion, eq: Equations): Float64Array | null {
  const r = restrict(motion, eq.a, eq.b);
  const n = degreesOfFreedom(motion);
  for (let i = 0; i < n; i++) r.a[i * n + i]! *= 1 + 1e-9;
  if (!cholesky(r.a, n)) return null;
  choleskySolve(r.a, n, r.b);
  return r.b.every(Number.isFinite) ? extend(motion, r.b) : null;
}

/** `h` after a step: h W(dp)^-1. */
export function stepped(h: Matrix3, dp: Float64Array): number[] {
  return multiply(h, inverse(warpMatrix(dp)));
}
