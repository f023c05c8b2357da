/**
 * The second pass over a shot. Every frame's corners with what is known of them, and between frames the expectation
 * that movement changes little, are one least-squares problem; it fills frames that were lost and corners that a frame
 * did not see from both sides at once. What was measured stays as it is: the expectation is kept far weaker than any
 * measurement.
 */
import { quadToQuad, normaliseHomography } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { isConvex, mapQuad, perspectiveCentre } from '../geometry/quad';
import { cornerSigmas } from '../geometry/corner-information';
import type { FrameResult } from './frame-result';
import { fromTriangle, solveBanded } from '../geometry/linear-algebra';
import { median } from '../statistics';

/** Coordinates of the four corners. */
const SIZE = 8;
const BAND = 2 * SIZE + SIZE;
/** px a frame squared; change of movement that is expected at the least. By trial. */
const LEAST_CHANGE = 0.15;
/** The same as a multiple of the measurements' own sigma: measured frames are not to be smoothed. By trial. */
const OVER_SIGMA = 6;
/** px^-2; information of a corner that is exact, standing for infinity. By trial. */
const EXACT = 1e8;
/** Standard deviations of a measurement up to which a change of movement may be its noise. By trial. */
const OF_NOISE = 4;
/** Share of its weight that the expectation has beside a frame that was lost: as good as none, yet told. By trial. */
const BESIDE_LOST = 1e-4;
/** Frames to each side over which the usual change of movement is taken. By trial. */
const AROUND = 12;

/** How much movement changes at each frame, px a frame squared; not a number beside a frame that was lost. */
function ownChanges(corners: readonly (Quad | null)[]): number[] {
  return corners.map((q, i) => {
    const a = corners[i - 1];
    const b = corners[i + 1];
    if (!q || !a || !b) return NaN;
    return Math.sqrt(
      q.reduce((s, p, k) => s + (a[k]![0] - 2 * p[0] + b[k]![0]) ** 2 + (a[k]![1] - 2 * p[1] + b[k]![1]) ** 2, 0) /
        SIZE,
    );
  });
}

/** Per frame, how much movement usually changes around it, px a frame squared. @param own of each frame */
function changes(own: readonly number[], sigma: readonly number[]): number[] {
  const all = median(own.filter((v) => !Number.isNaN(v))) || LEAST_CHANGE;
  return own.map((_, i) => {
    const near = own.slice(Math.max(0, i - AROUND), i + AROUND + 1).filter((v) => !Number.isNaN(v));
    const s = median(sigma.slice(Math.max(0, i - AROUND), i + AROUND + 1).filter((v) => v > 0));
    return Math.max(LEAST_CHANGE, near.length > 3 ? median(near) : all, OVER_SIGMA * (s || 0));
  });
}

/**
 * Per frame, how much the expectation that movement changes little weighs, px^-2. A change that was measured, beyond what
 * the measurements' own sigma explains, is no surprise: a jump must not pull at the frames around it. Beside a frame
 * that was lost it weighs next to nothing: it says where that frame is, and nothing of its neighbours.
 * @param sigma of each frame's corners, px
 */
function expectations(own: readonly number[], change: readonly number[], sigma: readonly number[]): number[] {
  return own.map((d, f) => {
    if (Number.isNaN(d)) return BESIDE_LOST / change[f]! ** 2;
    const noise = OF_NOISE * Math.max(sigma[f - 1] ?? 0, sigma[f]!, sigma[f + 1] ?? 0);
    return 1 / Math.max(change[f]! ** 2, d * d - noise * noise);
  });
}

/** Position of a random change of movement between two known ends, standard deviation in px. */
function bridgeSigma(i: number, from: number, to: number, change: number): number {
  const t = i - from;
  const l = to - from;
  return change * Math.sqrt((t * (l - t)) ** 3 / (3 * l ** 3));
}

/** What a frame knows of its corners, px^-2. @param sigma mean of its corners, px */
function informationOf(r: FrameResult, sigma: number): Float64Array {
  return r.information.length > 0 ? fromTriangle(r.information) : identity(1 / Math.max(0.05, sigma) ** 2);
}

/** px; a prior so wide that what is known is known by information alone. */
const WIDE = 1e3;

/**
 * px per corner; the doubt that a frame was told with beside its information: a side that may be its neighbour's line, say.
 * @param told per corner, px, with that doubt
 */
function doubtsOf(information: Float64Array, told: readonly number[]): number[] {
  const own = cornerSigmas(information, WIDE);
  return told.map((t, k) => Math.sqrt(Math.max(0, t * t - own[k]! ** 2)));
}

/** px by which a frame's corners are known from both sides at once; no frame beside it tells more of its doubt. */
function jointSigma({ information, sigma }: FrameResult, prior: number): number[] {
  if (information.length === 0) return [...sigma];
  const own = fromTriangle(information);
  const doubts = doubtsOf(own, sigma);
  return cornerSigmas(own, Math.max(prior, 1)).map((s, k) => Math.min(Math.hypot(s, doubts[k]!), sigma[k]!));
}

/** Adds a measured frame to the banded normal equations `a x = b`. */
function addMeasured(a: Float64Array, b: Float64Array, f: number, q: Quad, information: Float64Array): void {
  for (let i = 0; i < SIZE; i++)
    for (let j = 0; j < SIZE; j++) {
      const v = information[i * SIZE + j]!;
      if (j >= i) a[(f * SIZE + i) * (BAND + 1) + j - i]! += v;
      b[f * SIZE + i]! += v * q[j >> 1]![j & 1]!;
    }
}

/**
 * @param results of consecutive frames, the first and the last of them found
 * @param exact frames that stay as they are: the reference, and those that somebody placed by hand
 * @returns the same frames, all with corners
 */
export function refineJointly(results: readonly FrameResult[], pin: Quad, exact: ReadonlySet<number>): FrameResult[] {
  const n = results.length;
  const centre = perspectiveCentre(pin);
  const corners = results.map((r) => r.homography && mapQuad(r.homography, pin));
  if (n < 3) return [...results];
  const known = results.map((r, i) => (corners[i] ? r.sigma.reduce((s, v) => s + v / 4, 0) : 0));
  const own = ownChanges(corners);
  const change = changes(
    own,
    known.map((s) => Math.min(s, 0.5)),
  );
  const expected = expectations(
    own,
    change,
    results.map((r) => Math.max(...r.sigma)),
  );
  const a = new Float64Array(n * SIZE * (BAND + 1));
  const b = new Float64Array(n * SIZE);
  for (let f = 0; f < n; f++) {
    const q = corners[f];
    const r = results[f]!;
    if (q) addMeasured(a, b, f, q, exact.has(r.frame) ? identity(EXACT) : informationOf(r, known[f]!));
  }
  for (let f = 1; f < n - 1; f++) {
    const w = expected[f]!;
    const c = [1, -2, 1];
    for (let k = 0; k < SIZE; k++)
      for (let i = 0; i < 3; i++)
        for (let j = i; j < 3; j++) a[((f - 1 + i) * SIZE + k) * (BAND + 1) + (j - i) * SIZE]! += w * c[i]! * c[j]!;
  }
  solveBanded(a, b, n * SIZE, BAND);
  return results.map((r, f) => {
    if (exact.has(r.frame)) return r;
    const quad = [0, 1, 2, 3].map((k): Point => [b[f * SIZE + 2 * k]!, b[f * SIZE + 2 * k + 1]!]) as unknown as Quad;
    if (!isConvex(quad) || !quad.flat().every(Number.isFinite))
      return r.homography ? r : { ...r, homography: results.findLast((x, i) => i < f && x.homography)!.homography };
    const homography = normaliseHomography(quadToQuad(pin, quad), centre);
    if (r.homography) {
      const prior = Math.max(change[f]! * 2, ...(r.information.length > 0 ? [] : r.sigma));
      return { ...r, homography, sigma: jointSigma(r, prior) };
    }
    let from = f;
    let to = f;
    while (!corners[from]) from--;
    while (!corners[to]) to++;
    const sigma = Math.hypot(known[from]!, known[to]!, bridgeSigma(f, from, to, change[f]!));
    const blur = Math.hypot(...[0, 1].map((k) => (corners[to]![0]![k]! - corners[from]![0]![k]!) / (to - from))) / 2;
    return { ...r, homography, sigma: [sigma, sigma, sigma, sigma], blur, trust: 0, evidence: {} };
  });
}

function identity(v: number): Float64Array {
  const m = new Float64Array(SIZE * SIZE);
  for (let i = 0; i < SIZE; i++) m[i * (SIZE + 1)] = v;
  return m;
}
