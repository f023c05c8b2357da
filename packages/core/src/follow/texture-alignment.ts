/**
 * Direct alignment of a remembered picture to a frame: inverse compositional Gauss-Newton over cells, coarse to fine,
 * with gain and offset of each cell projected out and a robust weight per cell.
 * Sources: S. Baker and I. Matthews, Lucas-Kanade 20 Years On, IJCV 2004 (inverse compositional form); P. Huber, Robust
 * Statistics, 1981 and J. Tukey's biweight (weights); H. White, 1980 (the sandwich form of the covariance, by cell).
 */
import type { Matrix3 } from '../geometry/matrix3';
import { inverse, multiply } from '../geometry/matrix3';
import { cholesky, choleskySolve } from '../geometry/linear-solve';
import { normaliseHomography, scaleAt } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { Pyramid, PyramidLevel } from '../image/pyramid';
import { sampleRowCubic, sampleRowLinear } from '../image/sample';
import type { Motion } from './motion';
import { degreesOfFreedom, extend, restrict, tighter, warpMatrix } from './motion';
import type { Template, TemplateLevel } from './template';
import { noiseAtLevel } from './template';

/** What the last pass over a template level saw; arrays have one entry per cell. */
export interface CellFit {
  readonly level: TemplateLevel;
  /** robust weight times information factor actually used, 0 for cells outside or disagreeing */
  readonly weight: Float64Array;
  /** correlation of template and frame after gain and offset, -1 to 1; NaN where the cell is outside */
  readonly correlation: Float64Array;
  /** contrast of the frame's cell against the template's */
  readonly gain: Float64Array;
  /** per cell 8 entries: the gradient of its residual energy */
  readonly gradient: Float64Array;
}

export interface Alignment {
  /** template px to frame px */
  readonly homography: number[];
  readonly fit: CellFit;
  /** share of the template's information (trace of the cells' Hessians) that lies inside the frame */
  readonly visible: number;
  /** share of the visible information whose cells agree with the template */
  readonly support: number;
  readonly agreeing: number;
  /** per corner, the 2x2 covariance in px^2 of the frame: xx, xy, yy */
  readonly cornerCovariance: readonly (readonly [number, number, number])[];
}

export interface AlignmentOptions {
  readonly motion: Motion;
  readonly frameNoise: number;
  /** trust remembered per place of the trust grid, 0 to 1 */
  readonly trust: Float32Array;
  /** corners of the pin on the template's frame, and where a frame-rate motion model expects them in the frame */
  readonly pin: Quad;
  readonly expected: Quad;
  /** standard deviation in px of `expected` */
  readonly expectedSigma: number;
  /** coarsest level to begin at; all levels when left out */
  readonly coarsest?: number;
}

/** Correlation from which a cell counts as showing the same picture. */
const AGREES = 0.6;
/** Cut-off of the biweight, in units of the residual scale. */
const TUKEY = 2.8;
/** The scale comes from the better cells, not from the median, since more than half of a screen may be covered. */
const SCALE_QUANTILE = 0.3, SCALE_FACTOR = 1.2;
/** Contrast, as a share of the typical cell's, under which a cell is taken for covered. */
const LEAST_GAIN = 0.2;
/** Share of a cell's contrast that a perfect alignment still leaves as residual (resampling, blur, compression). */
const MODEL_ERROR = 0.06;
const MAX_ITERATIONS = 12;
/** Largest corner movement of an update, px of the level, at which a level is done; and from which on samples are cubic. */
const CONVERGED = 0.008, ROUGHLY_CONVERGED = 0.05, GO_CUBIC = 0.15;
/** Slip of a single cell, px of its level, that is always tolerated; and how many times the median. */
const LEAST_SLIP = 0.3, SLIP_FACTOR = 4;

interface Pass {
  a: Float64Array;
  b: Float64Array;
  fit: CellFit;
}

/** Sums over one cell: value, square, template product, and the eight steepest-descent products, into `out`. */
function accumulate(t: TemplateLevel, base: number, n: number, samples: Float32Array, out: Float64Array): void {
  const J = t.jacobian, T = t.values;
  let s = 0, ss = 0, st = 0, g0 = 0, g1 = 0, g2 = 0, g3 = 0, g4 = 0, g5 = 0, g6 = 0, g7 = 0;
  const first = samples[0]!;
  for (let k = 0; k < n; k++) {
    const d = samples[k]! - first, o = (base + k) * 8;
    s += d;
    ss += d * d;
    st += d * T[base + k]!;
    g0 += d * J[o]!;
    g1 += d * J[o + 1]!;
    g2 += d * J[o + 2]!;
    g3 += d * J[o + 3]!;
    g4 += d * J[o + 4]!;
    g5 += d * J[o + 5]!;
    g6 += d * J[o + 6]!;
    g7 += d * J[o + 7]!;
  }
  out[0] = s; out[1] = ss; out[2] = st;
  out[3] = g0; out[4] = g1; out[5] = g2; out[6] = g3; out[7] = g4; out[8] = g5; out[9] = g6; out[10] = g7;
}

function quantile(values: number[], q: number): number {
  values.sort((x, y) => x - y);
  return values.length === 0 ? NaN : values[Math.floor(q * (values.length - 1))]!;
}

/**
 * How far each cell on its own would still move, in px of the level, and the limit beyond which it is taken to belong to
 * something else: a cell behind the device matches its template perfectly well, only elsewhere. While the whole is not
 * aligned yet all cells slip, so the limit follows the median.
 */
function cellSlip(t: TemplateLevel, gradient: Float64Array, gain: Float64Array, correlation: Float64Array): { px: Float64Array; limit: number } {
  const px = new Float64Array(t.cells), seen: number[] = [];
  for (let c = 0; c < t.cells; c++) {
    if (!(correlation[c]! > AGREES)) continue;
    const o = c * 64, xx = t.hessian[o + 18]!, xy = t.hessian[o + 21]!, yy = t.hessian[o + 45]!;
    const ridge = 0.05 * (xx + yy) + 1e-9, d = (xx + ridge) * (yy + ridge) - xy * xy;
    const gx = gradient[c * 8 + 2]! / gain[c]!, gy = gradient[c * 8 + 5]! / gain[c]!;
    px[c] = Math.hypot((yy + ridge) * gx - xy * gy, (xx + ridge) * gy - xy * gx) / d / t.step;
    seen.push(px[c]!);
  }
  return { px, limit: Math.max(LEAST_SLIP, SLIP_FACTOR * (quantile(seen, 0.5) || 1)) };
}

/** Samples every cell at `h` (normalised template coordinates to level px) and builds the weighted normal equations. */
function pass(t: TemplateLevel, image: PyramidLevel, h: Matrix3, cubic: boolean, noise: number, trust: Float32Array): Pass {
  const { side, cells } = t, n = side * side;
  const samples = new Float32Array(n), sums = new Float64Array(11);
  const weight = new Float64Array(cells), correlation = new Float64Array(cells).fill(NaN), gain = new Float64Array(cells);
  const gradient = new Float64Array(cells * 8), residual = new Float64Array(cells).fill(NaN);
  const sample = cubic ? sampleRowCubic : sampleRowLinear;
  const h0 = h[0]! * t.step, h3 = h[3]! * t.step, h6 = h[6]! * t.step;
  for (let c = 0; c < cells; c++) {
    const u = t.u[c]!;
    let inside = true;
    for (let j = 0; j < side && inside; j++) {
      const v = t.v[c]! + j * t.step;
      inside = sample(
        image, h[0]! * u + h[1]! * v + h[2]!, h0, h[3]! * u + h[4]! * v + h[5]!, h3,
        h[6]! * u + h[7]! * v + h[8]!, h6, side, samples, j * side,
      );
    }
    if (!inside) continue;
    accumulate(t, c * n, n, samples, sums);
    const energy = Math.max(0, sums[1]! - (sums[0]! * sums[0]!) / n);
    const along = sums[2]!;
    correlation[c] = along / Math.sqrt(energy + n * noise * noise + 1e-9);
    gain[c] = along / t.norm[c]!;
    // In units of the template: a flat cover leaves little residual of its own, but much for the contrast it explains.
    residual[c] = Math.sqrt(Math.max(0, energy - along * along) / Math.max(1, n - 2)) / Math.max(gain[c]!, 1e-3);
    for (let p = 0; p < 8; p++) gradient[c * 8 + p] = sums[3 + p]!;
  }
  const typicalGain = quantile([...gain].filter((g, c) => correlation[c]! > AGREES && g > 0), 0.5) || quantile([...gain].filter((g) => g > 0), 0.5) || 1;
  const ratio: number[] = [];
  const expected = new Float64Array(cells);
  for (let c = 0; c < cells; c++) {
    const contrast = (MODEL_ERROR * t.norm[c]!) / Math.sqrt(n);
    expected[c] = Math.sqrt(noise * noise * (1 + 1 / (typicalGain * typicalGain)) + contrast * contrast);
    if (!Number.isNaN(residual[c]!) && trust[t.place[c]!]! > 0.3) ratio.push(residual[c]! / expected[c]!);
  }
  const scale = Math.max(1, SCALE_FACTOR * (quantile(ratio, SCALE_QUANTILE) || 1));
  const slip = cellSlip(t, gradient, gain, correlation);
  const a = new Float64Array(64), b = new Float64Array(8);
  for (let c = 0; c < cells; c++) {
    if (Number.isNaN(residual[c]!) || !(gain[c]! > LEAST_GAIN * typicalGain)) continue;
    const z = residual[c]! / (expected[c]! * scale * TUKEY);
    if (z >= 1) continue;
    const s = Math.min(1, slip.px[c]! / slip.limit);
    const robust = (1 - z * z) ** 2 * (1 - s * s) ** 2 * trust[t.place[c]!]!;
    const g = Math.min(Math.max(gain[c]!, 0.5 * typicalGain), 2 * typicalGain);
    const sigma = expected[c]! * scale;
    const w = robust / (sigma * sigma);
    weight[c] = w;
    for (let k = 0; k < 64; k++) a[k]! += w * t.hessian[c * 64 + k]!;
    for (let p = 0; p < 8; p++) {
      gradient[c * 8 + p]! /= g;
      b[p]! += w * gradient[c * 8 + p]!;
    }
  }
  return { a, b, fit: { level: t, weight, correlation, gain, gradient } };
}

/** d(corner in frame px)/dp of H W(p) at p = 0, 2 rows of 8, for a corner in normalised template coordinates. */
function cornerJacobian(h: Matrix3, u: number, v: number): { rows: Float64Array; at: Point } {
  const w = 1 / (h[6]! * u + h[7]! * v + h[8]!);
  const x = (h[0]! * u + h[1]! * v + h[2]!) * w, y = (h[3]! * u + h[4]! * v + h[5]!) * w;
  const xu = (h[0]! - x * h[6]!) * w, xv = (h[1]! - x * h[7]!) * w;
  const yu = (h[3]! - y * h[6]!) * w, yv = (h[4]! - y * h[7]!) * w;
  const row = (du: number, dv: number): number[] => {
    const f = u * du + v * dv;
    return [u * du, v * du, du, u * dv, v * dv, dv, -u * f, -v * f];
  };
  return { rows: Float64Array.from([...row(xu, xv), ...row(yu, yv)]), at: [x, y] };
}

interface Corners {
  u: number[];
  v: number[];
}

function addExpectation(a: Float64Array, b: Float64Array, h: Matrix3, corners: Corners, expected: Quad, sigma: number): void {
  const w = 1 / (sigma * sigma);
  for (let i = 0; i < 4; i++) {
    const { rows, at } = cornerJacobian(h, corners.u[i]!, corners.v[i]!);
    for (let axis = 0; axis < 2; axis++) {
      const e = at[axis]! - expected[i]![axis]!;
      for (let p = 0; p < 8; p++) {
        const jp = rows[axis * 8 + p]!;
        b[p]! += w * jp * e;
        for (let q = 0; q < 8; q++) a[p * 8 + q]! += w * jp * rows[axis * 8 + q]!;
      }
    }
  }
}

function solve(motion: Motion, a: Float64Array, b: Float64Array): Float64Array | null {
  const r = restrict(motion, a, b), n = degreesOfFreedom(motion);
  for (let i = 0; i < n; i++) r.a[i * n + i]! *= 1 + 1e-9;
  if (!cholesky(r.a, n)) return null;
  choleskySolve(r.a, n, r.b);
  return r.b.every(Number.isFinite) ? extend(motion, r.b) : null;
}

/** Cluster-robust covariance of the corners: A^-1 (sum of w^2 g g' by cell, plus the expectation) A^-1, mapped by J. */
function cornerCovariance(p: Pass, withPrior: Float64Array, h: Matrix3, corners: Corners, motion: Motion): [number, number, number][] {
  const n = degreesOfFreedom(motion), big = corners.u.map((): [number, number, number] => [0, 0, 0]);
  if (n === 0) return big;
  const meat = new Float64Array(64);
  let effective = 0, total = 0;
  const w = p.fit.weight, g = p.fit.gradient;
  for (let c = 0; c < w.length; c++) {
    if (w[c] === 0) continue;
    total += w[c]!;
    effective += w[c]! ** 2;
    for (let i = 0; i < 8; i++) for (let j = 0; j < 8; j++) meat[i * 8 + j]! += w[c]! ** 2 * g[c * 8 + i]! * g[c * 8 + j]!;
  }
  const clusters = effective > 0 ? (total * total) / effective : 0;
  const small = clusters > n + 2 ? clusters / (clusters - n) : 4;
  for (let k = 0; k < 64; k++) meat[k] = meat[k]! * small + (withPrior[k]! - p.a[k]!);
  const zero = new Float64Array(8);
  const bread = restrict(motion, withPrior, zero).a, middle = restrict(motion, meat, zero).a;
  if (!cholesky(bread, n)) return big.map(() => [1e4, 0, 1e4]);
  return corners.u.map((u, i) => {
    const { rows } = cornerJacobian(h, u, corners.v[i]!);
    const solved = [0, 1].map((axis) => {
      const x = restrict(motion, new Float64Array(64), rows.slice(axis * 8, axis * 8 + 8)).b;
      choleskySolve(bread, n, x);
      return x;
    });
    const product = (x: Float64Array, y: Float64Array): number => {
      let s = 0;
      for (let k = 0; k < n; k++) for (let m = 0; m < n; m++) s += x[k]! * middle[k * n + m]! * y[m]!;
      return s;
    };
    return [product(solved[0]!, solved[0]!), product(solved[0]!, solved[1]!), product(solved[1]!, solved[1]!)];
  });
}

function information(t: TemplateLevel, c: number): number {
  const h = t.hessian, o = c * 64;
  return h[o + 18]! + h[o + 45]!;
}

/** Cells that are known by now not to belong count little, so that a strip of background in the outline does not look like a cover. */
function summarise(p: Pass, trust: Float32Array): { visible: number; support: number; agreeing: number } {
  const { level, correlation, weight } = p.fit;
  let all = 0, seen = 0, agreed = 0, agreeing = 0;
  for (let c = 0; c < level.cells; c++) {
    const i = Math.sqrt(information(level, c)) * trust[level.place[c]!]!;
    all += i;
    if (Number.isNaN(correlation[c]!)) continue;
    seen += i;
    if (correlation[c]! > AGREES && weight[c]! > 0) {
      agreed += i;
      agreeing++;
    }
  }
  return { visible: all > 0 ? seen / all : 0, support: seen > 0 ? agreed / seen : 0, agreeing };
}

/** Normalised template coordinates to px of a pyramid level. */
function toLevel(h: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize, [cx, cy] = template.centre, k = 1 / (1 << level);
  const n = multiply(h, [s, 0, cx, 0, s, cy, 0, 0, 1]);
  return n.map((v, i) => (i < 6 ? v * k : v));
}

function fromLevel(n: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize, [cx, cy] = template.centre, k = 1 << level;
  const h = n.map((v, i) => (i < 6 ? v * k : v));
  return multiply(h, [1 / s, 0, -cx / s, 0, 1 / s, -cy / s, 0, 0, 1]);
}

/** How many px of a level a template must span before the freer motions are told apart there. */
const AFFINE_SPAN = 24, PERSPECTIVE_SPAN = 56;

/**
 * Aligns from `start`. Levels are worked coarse to fine; when a finer level loses the agreement that a coarser one had
 * (motion blur wipes out fine detail first) the coarser result stands.
 * @param start template px to frame px
 * @returns null when no cell of any level lies inside the frame or the equations fall apart
 */
export function alignTexture(template: Template, pyramid: Pyramid, start: Matrix3, options: AlignmentOptions): Alignment | null {
  let h: number[] = [...start];
  let best: Alignment | null = null;
  const s = template.halfSize, [cx, cy] = template.centre;
  const corners: Corners = { u: options.pin.map((p) => (p[0] - cx) / s), v: options.pin.map((p) => (p[1] - cy) / s) };
  for (const t of [...template.levels].reverse()) {
    const size = scaleAt(h, template.centre);
    const imageLevel = Math.round(t.level + Math.log2(size));
    if (!Number.isFinite(imageLevel)) return best;
    if (imageLevel < 0 && best) break;
    if (t.level > (options.coarsest ?? Infinity) && t !== template.levels[0]) continue;
    const level = Math.min(Math.max(imageLevel, 0), pyramid.length - 1);
    const image = pyramid[level]!;
    const span = (2 * s) / (1 << t.level);
    const motion = tighter(options.motion, span < AFFINE_SPAN ? 'translation' : span < PERSPECTIVE_SPAN ? 'affine' : 'perspective');
    const finest = t.level === 0 || level === 0;
    const noise = Math.max(0.3, noiseAtLevel(options.frameNoise, level));
    const expected = options.expected.map(([x, y]) => [x / (1 << level), y / (1 << level)]) as unknown as Quad;
    const expectedSigma = options.expectedSigma / (1 << level);
    let n = toLevel(h, template, level), last: Pass | null = null, full = new Float64Array(64);
    let cubic = false;
    for (let iteration = 0; iteration < MAX_ITERATIONS; iteration++) {
      const p = pass(t, image, n, cubic, noise, options.trust);
      const b = p.b.slice();
      full = p.a.slice();
      addExpectation(full, b, n, corners, expected, expectedSigma);
      last = p;
      if (options.motion === 'still') break;
      const dp = solve(motion, full, b);
      if (!dp) break;
      const before = corners.u.map((u, i) => cornerJacobian(n, u, corners.v[i]!).at);
      n = multiply(n, inverse(warpMatrix(dp)));
      const after = corners.u.map((u, i) => cornerJacobian(n, u, corners.v[i]!).at);
      const moved = Math.max(...before.map((q, i) => Math.hypot(q[0] - after[i]![0], q[1] - after[i]![1])));
      if (!Number.isFinite(moved)) return best;
      if (moved < (finest ? CONVERGED : ROUGHLY_CONVERGED) && (cubic || !finest)) break;
      if (finest && (moved < GO_CUBIC || iteration >= MAX_ITERATIONS - 4)) cubic = true;
    }
    if (!last) continue;
    const summary = summarise(last, options.trust);
    if (best && summary.support * summary.agreeing < 0.35 * best.support * best.agreeing && summary.support < 0.5) break;
    h = fromLevel(n, template, level);
    const k = 1 << level;
    best = {
      homography: h, fit: last.fit, ...summary,
      cornerCovariance: cornerCovariance(last, full, n, corners, options.motion).map(
        ([xx, xy, yy]) => [xx * k * k, xy * k * k, yy * k * k] as const),
    };
  }
  if (!best || !best.homography.every(Number.isFinite)) return null;
  return { ...best, homography: normaliseHomography(best.homography, template.centre) };
}
