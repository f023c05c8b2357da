/**
 * How well a frame's evidence knows the corners. The bare normal matrix is overconfident, since neighbouring residuals
 * are correlated, so the evidence is gathered in clusters (blocks of cells, stretches of an edge) whose summed
 * gradients show how much the solution really scatters: the sandwich form of H. White, 1980, by clusters, drawn towards
 * a scalar inflation since clusters are few. It stays usable when some directions are not known at all (information 0).
 */
import type { Matrix3 } from './matrix3';
import { invertSymmetric, product, solveLinear } from './linear-algebra';
import type { Point } from './point';
import { pointJacobian } from './motion-equations';
import type { Motion } from './motion';
import { degreesOfFreedom, restrict, extend } from './motion';

/** Share by which the sandwich is drawn towards the scalar form, since clusters are few. By trial. */
const SHRINK = 0.35;

/**
 * @param a evidence's normal matrix, 8x8, in the parameters of the motion
 * @param clusters gradient of each cluster at the solution, 8 entries each
 * @returns information on the parameters, `n*n` of the motion's own
 */
function parameterInformation(motion: Motion, a: Float64Array, clusters: readonly Float64Array[]): Float64Array {
  const n = degreesOfFreedom(motion);
  const zero = new Float64Array(8);
  const own = restrict(motion, a, zero).a;
  const meat = new Float64Array(n * n);
  let trace = 0;
  for (let i = 0; i < n; i++) trace += own[i * n + i]!;
  for (const c of clusters) {
    const g = restrict(motion, new Float64Array(64), c).b;
    for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) meat[i * n + j]! += g[i]! * g[j]!;
  }
  const few = clusters.length > n + 2 ? clusters.length / (clusters.length - n) : 4;
  const ridge = own.slice();
  for (let i = 0; i < n; i++) ridge[i * n + i]! += (1e-9 * trace) / n + 1e-12;
  const inverse = invertSymmetric(ridge, n);
  if (!inverse) return new Float64Array(n * n);
  let inflation = 0;
  const p = product(inverse, meat, n);
  for (let i = 0; i < n; i++) inflation += (few * p[i * n + i]!) / n;
  inflation = Math.max(inflation, 0.3);
  const middle = new Float64Array(n * n);
  for (let k = 0; k < n * n; k++) middle[k] = (1 - SHRINK) * few * meat[k]! + SHRINK * inflation * ridge[k]!;
  for (let i = 0; i < n; i++) middle[i * n + i]! += 1e-12;
  const m = invertSymmetric(middle, n);
  return m ? product(product(own, m, n), own, n) : new Float64Array(n * n);
}

/** px^-2 of the corners on the whole; stiffness of what a tighter motion may not do. By trial. */
const STIFF = 1e4;

/**
 * Information on the eight corner coordinates (x0 y0 x1 y1 ...), 8x8 in px^-2, after an error of `floor` px that no
 * evidence shows of itself.
 * @param h normalised template coordinates to px; `u`, `v` the corners in them
 */
export function cornerInformation(
  motion: Motion,
  a: Float64Array,
  clusters: readonly Float64Array[],
  h: Matrix3,
  u: readonly number[],
  v: readonly number[],
  floor: readonly number[],
): Float64Array {
  const n = degreesOfFreedom(motion);
  const jacobian = new Float64Array(64);
  const rows = new Float64Array(16);
  for (let i = 0; i < 4; i++) {
    pointJacobian(h, u[i]!, v[i]!, rows);
    jacobian.set(rows, i * 16);
  }
  const own = parameterInformation(motion, a, clusters);
  // The motion's parameters are not px: so many squared px a unit of them is worth on the whole.
  const stiff = (STIFF * jacobian.reduce((s, x) => s + x * x, 0)) / 64;
  const full = new Float64Array(64);
  // B L B' plus stiffness across the motion's own space, for which the basis is made orthonormal by its counts.
  const columns = Array.from({ length: n }, (_, i) =>
    extend(
      motion,
      Float64Array.from({ length: n }, (_x, j) => (i === j ? 1 : 0)),
    ),
  );
  const norms = columns.map((c) => c.reduce((s, x) => s + x * x, 0));
  for (let r = 0; r < 8; r++) full[r * 8 + r] = stiff;
  for (let i = 0; i < n; i++)
    for (let r = 0; r < 8; r++)
      for (let c = 0; c < 8; c++) {
        full[r * 8 + c]! -= (stiff * columns[i]![r]! * columns[i]![c]!) / norms[i]!;
        for (let j = 0; j < n; j++)
          full[r * 8 + c]! += (columns[i]![r]! * own[i * n + j]! * columns[j]![c]!) / (norms[i]! * norms[j]!);
      }
  // Corner information = C^-T full C^-1.
  const inverse = new Float64Array(64);
  const column = new Float64Array(8);
  for (let j = 0; j < 8; j++) {
    column.fill(0);
    column[j] = 1;
    const x = solveLinear(jacobian.slice(), column.slice());
    if (!x) return new Float64Array(64);
    for (let i = 0; i < 8; i++) inverse[i * 8 + j] = x[i]!;
  }
  const half = product(full, inverse, 8);
  const out = new Float64Array(64);
  for (let i = 0; i < 8; i++)
    for (let j = 0; j < 8; j++) for (let k = 0; k < 8; k++) out[i * 8 + j]! += inverse[k * 8 + i]! * half[k * 8 + j]!;
  return withFloor(out, floor);
}

/** Information after adding an independent error per corner, px. */
export function withFloor(information: Float64Array, floor: readonly number[]): Float64Array {
  const covariance = new Float64Array(64);
  for (let i = 0; i < 8; i++) covariance[i * 9] = floor[i >> 1]! ** 2;
  return withError(information, covariance);
}

/**
 * Information after adding an error of its own: (L^-1 + F)^-1 = (I + L F)^-1 L, also for a singular L.
 * @param information L, 8x8, px^-2
 * @param covariance F, 8x8, px squared
 */
export function withError(information: Float64Array, covariance: Float64Array): Float64Array {
  const m = product(information, covariance, 8);
  for (let i = 0; i < 8; i++) m[i * 9]! += 1;
  const out = new Float64Array(64);
  const column = new Float64Array(8);
  for (let j = 0; j < 8; j++) {
    for (let i = 0; i < 8; i++) column[i] = information[i * 8 + j]!;
    const x = solveLinear(m.slice(), column.slice());
    if (!x) return new Float64Array(64);
    for (let i = 0; i < 8; i++) out[i * 8 + j] = x[i]!;
  }
  for (let i = 0; i < 8; i++)
    for (let j = 0; j < i; j++) out[i * 8 + j] = out[j * 8 + i] = (out[i * 8 + j]! + out[j * 8 + i]!) / 2;
  return out;
}

/**
 * Factor by which errors are larger than a frame's own residuals tell: measured on generated shots with exact truth.
 */
const OPTIMISM = 1.15;
/**
 * Share of a corner's movement from frame to frame by which errors grow (readout row by row, change of speed while
 * the shutter is open): measured on the same.
 */
const MOVING = 0.01;

/**
 * Information with what the model leaves out. @param velocity of the corners, px a frame; empty when it is not known
 */
export function inAll(information: Float64Array, velocity: readonly Point[]): Float64Array {
  return withFloor(
    information.map((v) => v / OPTIMISM ** 2),
    [0, 1, 2, 3].map((i) => MOVING * Math.hypot(...(velocity[i] ?? [0, 0]))),
  );
}

/**
 * Covariance of the corners, 8x8 in px squared; null where it can't be told. @param prior what is known without the evidence, px
 * per axis
 */
export function cornerCovariance(information: Float64Array, prior: number): Float64Array | null {
  const a = information.slice();
  for (let i = 0; i < 8; i++) a[i * 9]! += 1 / (prior * prior);
  return invertSymmetric(a, 8);
}

/** Root mean of each corner's two axis variances, px; `prior` is what is known without the evidence, px per axis. */
export function cornerSigmas(information: Float64Array, prior: number): number[] {
  const covariance = cornerCovariance(information, prior);
  return covariance ? sigmasOf(covariance) : [prior, prior, prior, prior];
}

/** Root mean of each corner's two axis variances, px. @param covariance 8x8, px squared */
export function sigmasOf(covariance: Float64Array): number[] {
  return [0, 1, 2, 3].map((i) => Math.sqrt((covariance[i * 18]! + covariance[i * 18 + 9]!) / 2));
}

/** Information of corners that are each known to the same sigma, px. */
export function everywhere(sigma: number): Float64Array {
  const out = new Float64Array(64);
  for (let i = 0; i < 8; i++) out[i * 9] = 1 / (sigma * sigma);
  return out;
}
