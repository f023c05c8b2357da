/**
 * Where a likeness fits on a frame, to a fraction of a pixel: gain and offset are free, and what disagrees (a glare, a finger)
 * loses its weight. Source: B. Lucas and T. Kanade 1981 (the alignment), with J. Tukey's biweight.
 */
import type { Matrix3 } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { PyramidLevel } from '../image/pyramid';
import { sampleRowLinear } from '../image/sample';
import { SIGMA_PER_DEVIATION, median } from '../statistics';

/** A corner's remembered look. */
export interface Likeness {
  readonly corner: number;
  readonly frame: number;
  /** reference frame to the frame of the likeness */
  readonly view: Matrix3;
  /** places on the reference frame, px */
  readonly sites: readonly Point[];
  /** light, times the lift */
  readonly values: Float32Array;
  readonly lift: number;
}

/** A likeness that is looked for on a frame. */
export interface Fitting {
  readonly look: Likeness;
  readonly image: PyramidLevel;
  /** of its sites, px of the frame, x and y */
  readonly places: Float64Array;
  /** px of the picture a px of the frame */
  readonly k: number;
}

const FIT = {
  /** Share of the samples that must be in the picture. By trial. */
  inside: 0.85,
  /** Cut-off of Tukey's biweight in units of the residual scale. By trial. */
  tukey: 4,
  /** Neighbouring residuals are alike: so many samples speak as one. By trial. */
  shared: 24,
  /** Likeness by which a place must be more alike than the track's own. By trial. */
  moreAlike: 0.02,
  /** Rounds of weighting. By trial. */
  weighings: 3,
  /** Grey; scale of the residuals at the least. By trial. */
  leastScale: 0.7,
  /** Contrast against the likeness's below which nothing is seen of it. By trial. */
  leastGain: 0.05,
} as const;

const one = new Float32Array(1);

/** At px of the level; NaN outside it. */
export function sample(image: PyramidLevel, x: number, y: number): number {
  return sampleRowLinear(image, x, 0, y, 0, 1, 0, 1, one, 0) ? one[0]! : NaN;
}

/** Correlation over what is inside the picture, at px of a level; NaN where that is too little. */
export function correlation({ look, image, places, k }: Fitting, [dx, dy]: Point): number {
  let n = 0;
  let s = 0;
  let ss = 0;
  let t = 0;
  let tt = 0;
  let st = 0;
  for (let i = 0; i < look.sites.length; i++) {
    const v = sample(image, (places[2 * i]! + dx) * k, (places[2 * i + 1]! + dy) * k);
    const u = look.values[i]!;
    if (Number.isNaN(v)) continue;
    n++;
    s += v;
    ss += v * v;
    t += u;
    tt += u * u;
    st += u * v;
  }
  if (n < FIT.inside * look.sites.length) return NaN;
  return (st - (s * t) / n) / Math.sqrt(Math.max(1e-9, (ss - (s * s) / n + n) * (tt - (t * t) / n)));
}

/** The best whole place around, px of the frame. */
export function searched(f: Fitting, reach: number): { at: Point; likeness: number } {
  let at: Point = [0, 0];
  let likeness = correlation(f, at);
  const step = 1 / f.k;
  for (let y = -reach; y <= reach; y += step)
    for (let x = -reach; x <= reach; x += step) {
      const c = correlation(f, [x, y]);
      if (c > likeness + FIT.moreAlike || Number.isNaN(likeness)) [at, likeness] = [[x, y], c];
    }
  return { at, likeness };
}

/** One site of a likeness on a frame: remembered and seen, with the slopes that are seen, and its weight. */
interface SeenSite {
  readonly u: number;
  readonly v: number;
  readonly gx: number;
  readonly gy: number;
  w: number;
}

/** px between which slopes are taken, to each side. */
const SLOPE = 0.5;

/** @returns null where too much of the likeness lies outside the picture */
function sitesOn({ look, image, places, k }: Fitting, [dx, dy]: Point): SeenSite[] | null {
  const rows: SeenSite[] = [];
  for (let i = 0; i < look.sites.length; i++) {
    const x = (places[2 * i]! + dx) * k;
    const y = (places[2 * i + 1]! + dy) * k;
    const v = sample(image, x, y);
    const gx = sample(image, x + SLOPE, y) - sample(image, x - SLOPE, y);
    const gy = sample(image, x, y + SLOPE) - sample(image, x, y - SLOPE);
    if (!Number.isNaN(v + gx + gy)) rows.push({ u: look.values[i]!, v, gx, gy, w: 1 });
  }
  return rows.length < FIT.inside * look.sites.length ? null : rows;
}

/** Gain and offset of what is seen against what is remembered, by weights. */
function gainAndOffset(rows: readonly SeenSite[]): { readonly gain: number; readonly offset: number } {
  let n = 0;
  let su = 0;
  let sv = 0;
  let suu = 0;
  let suv = 0;
  for (const r of rows) {
    n += r.w;
    su += r.w * r.u;
    sv += r.w * r.v;
    suu += r.w * r.u * r.u;
    suv += r.w * r.u * r.v;
  }
  const gain = (suv - (su * sv) / n) / Math.max(1e-9, suu - (su * su) / n);
  return { gain, offset: (sv - gain * su) / n };
}

/** Weighs the sites by how well gain and offset explain them (Tukey's biweight). @param least scale, grey */
function weigh(rows: readonly SeenSite[], least: number): { readonly gain: number; readonly offset: number } {
  let light = { gain: 1, offset: 0 };
  for (let round = 0; round < FIT.weighings; round++) {
    light = gainAndOffset(rows);
    const off = rows.map((r) => Math.abs(r.v - light.gain * r.u - light.offset));
    const scale = Math.max(FIT.leastScale, least, SIGMA_PER_DEVIATION * median(off));
    for (const [i, r] of rows.entries()) {
      const z = off[i]! / (FIT.tukey * scale);
      r.w = z < 1 ? (1 - z * z) ** 2 : 0;
    }
  }
  return light;
}

/** The place by weighted least squares. @param k px of the picture a px of the frame */
function placeStep(
  rows: readonly SeenSite[],
  { gain, offset }: { readonly gain: number; readonly offset: number },
  k: number,
): { step: Point; sigma: number } | null {
  let a = 0;
  let b = 0;
  let c = 0;
  let p = 0;
  let q = 0;
  let used = 0;
  let ee = 0;
  for (const r of rows) {
    const d = gain * r.u + offset - r.v;
    a += r.w * r.gx * r.gx;
    b += r.w * r.gx * r.gy;
    c += r.w * r.gy * r.gy;
    p += r.w * r.gx * d;
    q += r.w * r.gy * d;
    used += r.w;
    ee += r.w * d * d;
  }
  const det = a * c - b * b;
  if (!(det > 1e-6 * (a + c) ** 2)) return null;
  const variance = (FIT.shared * Math.max(ee / Math.max(used, 1), 0.1)) / (k * k);
  return {
    step: [(c * p - b * q) / det / k, (a * q - b * p) / det / k],
    sigma: Math.sqrt((variance * (a + c)) / (2 * det)),
  };
}

/**
 * One step of the robust fit: gain and offset by the weights before, then the place.
 * @param least scale of the residuals at the least, grey: where a flat corner's only edges still lie beside their
 * places, they are no strays
 */
export function fitStep(f: Fitting, at: Point, least: number): { step: Point; sigma: number } | null {
  const rows = sitesOn(f, at);
  const light = rows && weigh(rows, least);
  return light && light.gain > FIT.leastGain ? placeStep(rows, light, f.k) : null;
}
