/**
 * Where a remembered box lies: normalised correlation over whole pixels, then a sub-pixel affine alignment with gain and
 * offset free. Sources: J. P. Lewis, Fast Normalized Cross-Correlation, 1995; S. Baker and I. Matthews, IJCV 2004.
 */
import { cholesky, choleskySolve } from '../../geometry/linear-algebra';
import type { Point } from '../../geometry/point';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import { sampleRowLinear } from '../../image/sample';
import type { Look } from './spot-look';
import { likeness, sampleBox } from './spot-look';

const FIT = {
  /** px; what no evidence shows of its own error. By trial. */
  floor: 0.04,
  /** Neighbouring residuals are correlated: so many pixels speak as one. By trial. */
  shared: 4,
  /** px at the box's edge by which a spot's shape changes from a frame to the next. By trial. */
  shapeChange: 0.12,
  /** Steps of an alignment; it ends earlier where it converges. By trial. */
  iterations: 20,
  /** px; a step below this ends it. By trial. */
  converged: 0.005,
  /** px; how much farther than its box a spot's alignment may walk from the best whole pixel. By trial. */
  walk: 2.5,
  /** px; the farthest that one step goes. By trial. */
  mostStep: 1.5,
} as const;

/**
 * The best place in the search box by correlation, about to a pixel: on pictures of half the size where the box allows.
 */
export function searchBox(
  look: Look,
  pyramid: Pyramid,
  at: Point,
  reach: readonly [number, number],
  m: readonly number[],
): Point | null {
  const small = look.half && pyramid[1] ? look.half : null;
  const image = small ? pyramid[1]! : pyramid[0]!;
  const k = small ? 2 : 1;
  const own = small ?? look;
  const samples = new Float32Array(own.values.length);
  const rx = Math.ceil(reach[0] / k);
  const ry = Math.ceil(reach[1] / k);
  let best = -1;
  let where: Point | null = null;
  for (let dy = -ry; dy <= ry; dy++)
    for (let dx = -rx; dx <= rx; dx++) {
      const p: Point = [at[0] / k + dx, at[1] / k + dy];
      const box = { at: p, m, w: own.w, h: own.h };
      if (!sampleBox(image, box, samples, sampleRowLinear)) continue;
      const l = likeness(own, samples);
      if (l > best) [best, where] = [l, [p[0] * k, p[1] * k]];
    }
  return where;
}

/** Where a box lies, and how its shape changed there. */
export interface Fit {
  readonly at: Point;
  readonly m: readonly number[];
  /** -1 to 1 */
  readonly likeness: number;
  /** px per axis */
  readonly sigma: number;
}

/** Room for what an alignment samples: the box, and the same a half px to the right and down. */
interface Samples {
  readonly s: Float32Array;
  readonly x1: Float32Array;
  readonly y1: Float32Array;
}

/** Normal equations of place and shape, 6x6, of one step; `cost` is the sum of squared residuals. */
interface StepEquations {
  readonly a: Float64Array;
  readonly b: Float64Array;
  readonly cost: number;
}

/** @param k box coordinates a px, so that they run from -1 to 1. @returns null where the box shows nothing of the look */
function equationsOf({ w, h, used, values }: Look, { s, x1, y1 }: Samples, k: number): StepEquations | null {
  const n = used.length;
  let mean = 0;
  let along = 0;
  for (const i of used) mean += s[i]! / n;
  for (const i of used) along += (s[i]! - mean) * values[i]!;
  if (!(along > 1e-3)) return null;
  const a = new Float64Array(36);
  const b = new Float64Array(6);
  const j = new Float64Array(6);
  let cost = 0;
  for (const i of used) {
    const gx = 2 * (x1[i]! - s[i]!);
    const gy = 2 * (y1[i]! - s[i]!);
    const u = ((i % w) - (w - 1) / 2) * k;
    const v = (Math.floor(i / w) - (h - 1) / 2) * k;
    const e = along * values[i]! - (s[i]! - mean);
    j[0] = gx;
    j[1] = gy;
    j[2] = gx * u;
    j[3] = gx * v;
    j[4] = gy * u;
    j[5] = gy * v;
    cost += e * e;
    for (let p = 0; p < 6; p++) {
      b[p]! += j[p]! * e;
      for (let q = 0; q <= p; q++) a[p * 6 + q]! += j[p]! * j[q]!;
    }
  }
  return { a, b, cost };
}

/** Shape changes little from frame to frame; a lone corner hardly tells its own from a shift. @param away of the shape so far */
function addRidge({ a, b, cost }: StepEquations, pixels: number, away: readonly number[], k: number): void {
  const ridge = Math.max(1e-4 * (a[0]! + a[7]!), (FIT.shared * cost) / pixels / FIT.shapeChange ** 2);
  for (let p = 2; p < 6; p++) {
    a[p * 6 + p]! += ridge;
    b[p]! -= (ridge * away[p - 2]!) / k;
  }
}

/** A step, and the sum of the variances of both axes a unit of the residuals' variance; null where nothing is told. */
function solved({ a, b }: StepEquations): { readonly d: Float64Array; readonly spread: number } | null {
  const factor = a.slice();
  const d = b.slice();
  for (const p of [0, 1]) factor[p * 7]! += 1e-6 * (a[0]! + a[7]!) + 1e-9;
  if (!cholesky(factor, 6)) return null;
  const cx = new Float64Array([1, 0, 0, 0, 0, 0]);
  const cy = new Float64Array([0, 1, 0, 0, 0, 0]);
  choleskySolve(factor, 6, d);
  choleskySolve(factor, 6, cx);
  choleskySolve(factor, 6, cy);
  return { d, spread: cx[0]! + cy[1]! };
}

/** Whether the box and its neighbours lie inside the picture; their samples are in `to` then. */
function sampled(image: PyramidLevel, at: Point, m: readonly number[], { w, h }: Look, to: Samples): boolean {
  return (
    sampleBox(image, { at, m, w, h }, to.s) &&
    sampleBox(image, { at: [at[0] + 0.5, at[1]], m, w, h }, to.x1) &&
    sampleBox(image, { at: [at[0], at[1] + 0.5], m, w, h }, to.y1)
  );
}

/** Forward additive Gauss-Newton over place, 2x2 matrix, gain and offset. @returns null where it walks off */
export function alignBox(look: Look, image: PyramidLevel, start: Point, m0: readonly number[]): Fit | null {
  const { w, h, used } = look;
  const n = used.length;
  const room = { s: new Float32Array(w * h), x1: new Float32Array(w * h), y1: new Float32Array(w * h) };
  const k = 2 / Math.max(w, h);
  let at = start;
  let m: readonly number[] = m0;
  let last: Fit | null = null;
  for (let it = 0; it < FIT.iterations; it++) {
    if (!sampled(image, at, m, look, room)) return last;
    const eq = equationsOf(look, room, k);
    if (!eq) return last;
    addRidge(
      eq,
      n,
      m.map((v, i) => v - m0[i]!),
      k,
    );
    const step = solved(eq);
    if (!step) return last;
    const { d, spread } = step;
    const variance = (FIT.shared * (eq.cost / Math.max(1, n - 8)) * spread) / 2;
    last = { at, m, likeness: likeness(look, room.s), sigma: Math.hypot(FIT.floor, Math.sqrt(variance)) };
    const length = Math.hypot(d[0]!, d[1]!);
    const most = Math.min(1, FIT.mostStep / Math.max(length, 1e-9));
    at = [at[0] + most * d[0]!, at[1] + most * d[1]!];
    m = m.map((v, i) => v + most * d[i + 2]! * k);
    if (Math.hypot(at[0] - start[0], at[1] - start[1]) > FIT.walk) return null;
    if (length < FIT.converged) break;
  }
  return last;
}
