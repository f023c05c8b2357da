/**
 * A spot: one small place, followed by itself. A box of picture around it is looked for in a larger box around where it
 * is expected: normalised correlation over whole pixels, then a sub-pixel affine alignment with gain and offset free.
 * Sources: J. P. Lewis, Fast Normalized Cross-Correlation, 1995; S. Baker and I. Matthews, IJCV 2004 (the alignment).
 */
import { HAND_SIGMA } from '../../solve/frame-result';
import { cholesky, choleskySolve } from '../../geometry/linear-algebra';
import type { Point } from '../../geometry/point';
import type { RawLuma } from '../../image/image';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import { buildPyramid } from '../../image/pyramid';
import { sampleRowCubic, sampleRowLinear } from '../../image/sample';

export type SpotMatch = 'reference' | 'previous' | 'hand';

export interface SpotKey {
  readonly frame: number;
  readonly at: Point;
}

export interface Spot {
  readonly name: string;
  /** on the reference frame, px */
  readonly at: Point;
  /** corner of the pin that it stands for (0 TL to 3 BL); a place in the plane when left out */
  readonly corner?: number | undefined;
  /** px: sides of the box that is remembered, and of the one in which it is looked for */
  readonly box: readonly [number, number];
  readonly search: readonly [number, number];
  readonly match: SpotMatch;
  /** placed by hand on these frames */
  readonly keys: readonly SpotKey[];
  /** where a run of its own found it: frame, x, y, sigma per axis, px; it is not looked for anew there */
  readonly path?: readonly (readonly [frame: number, x: number, y: number, sigma: number])[] | undefined;
  /** nothing outside these frames is used, both inclusive */
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}

export interface SpotResult {
  readonly frame: number;
  readonly at: Point | null;
  /** px per axis */
  readonly sigma: number;
  /** -1 to 1 */
  readonly likeness: number;
  readonly byHand: boolean;
  readonly reason: string | null;
}

/** px; sides of a spot's pattern box when nobody chose any (at 4096 wide about 40; common practice, no source). */
export const SPOT_BOX: readonly [number, number] = [31, 31];
/** px; sides of its search box, three times that (common practice, no source). */
export const SPOT_SEARCH: readonly [number, number] = [91, 91];
const SPOTS = {
  /** Likeness from which a place is believed. By trial. */
  believed: 0.7,
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
} as const;

interface Patch {
  /** zero mean and unit norm over the pixels that count, `w*h` */
  readonly values: Float32Array;
  /** indices of the pixels that count */
  readonly used: Int32Array;
  readonly w: number;
  readonly h: number;
}

interface Look extends Patch {
  readonly frame: number;
  /** the same at half the size, for searching; null for small boxes */
  readonly half: Patch | null;
  /** what the place itself is known to, px */
  readonly sigma: number;
}

function window(luma: RawLuma, at: Point, rx: number, ry: number): Pyramid {
  return buildPyramid(luma, 2, { x0: at[0] - rx - 3, y0: at[1] - ry - 3, x1: at[0] + rx + 3, y1: at[1] + ry + 3 });
}

/** `w*h` samples around `at`, mapped by the 2x2 matrix `m`; false at the picture's edge. */
function sampleBox(
  image: PyramidLevel,
  at: Point,
  m: readonly number[],
  w: number,
  h: number,
  out: Float32Array,
  sample = sampleRowCubic,
): boolean {
  for (let j = 0; j < h; j++) {
    const v = j - (h - 1) / 2;
    const u = -(w - 1) / 2;
    if (!sample(image, at[0] + m[0]! * u + m[1]! * v, m[0]!, at[1] + m[2]! * u + m[3]! * v, m[2]!, 1, 0, w, out, j * w))
      return false;
  }
  return true;
}

const UPRIGHT = [1, 0, 0, 1] as const;

/** Samples of a box made zero mean and unit norm over the pixels that count; null when they hold no contrast. */
function normalised(
  image: PyramidLevel,
  at: Point,
  w: number,
  h: number,
  counts: (dx: number, dy: number) => boolean,
): Patch | null {
  const values = new Float32Array(w * h);
  const used: number[] = [];
  if (!sampleBox(image, at, UPRIGHT, w, h, values)) return null;
  for (let j = 0; j < h; j++)
    for (let i = 0; i < w; i++) if (counts(i - (w - 1) / 2, j - (h - 1) / 2)) used.push(j * w + i);
  let mean = 0;
  let square = 0;
  for (const i of used) mean += values[i]! / used.length;
  for (const i of used) {
    values[i]! -= mean;
    square += values[i]! ** 2;
  }
  const norm = Math.sqrt(square);
  if (used.length < LEAST_PIXELS || norm < 1.5 * Math.sqrt(used.length)) return null;
  for (const i of used) values[i]! /= norm;
  return { values, w, h, used: Int32Array.from(used) };
}

/** px that a box must have for six unknowns to be told. By trial. */
const LEAST_PIXELS = 16;

/** px; sides of a box from which it is looked for at half the size. By trial. */
const LARGE = 15;

function lookAt(
  luma: RawLuma,
  frame: number,
  at: Point,
  box: readonly [number, number],
  sigma: number,
  counts: (dx: number, dy: number) => boolean,
): Look | null {
  const w = Math.max(5, Math.round(box[0])) | 1;
  const h = Math.max(5, Math.round(box[1])) | 1;
  const picture = window(luma, at, w / 2 + 2, h / 2 + 2);
  const own = normalised(picture[0]!, at, w, h, counts);
  if (!own) return null;
  return {
    ...own,
    frame,
    sigma,
    half:
      Math.min(w, h) >= LARGE
        ? normalised(picture[1]!, [at[0] / 2, at[1] / 2], (w >> 1) | 1, (h >> 1) | 1, (dx, dy) =>
            counts(2 * dx, 2 * dy),
          )
        : null,
  };
}

/** Correlation of a look with samples beside gain and offset. */
function likeness(look: Patch, s: Float32Array): number {
  let sum = 0;
  let square = 0;
  let along = 0;
  const { used, values } = look;
  const n = used.length;
  for (let k = 0; k < n; k++) {
    const i = used[k]!;
    const v = s[i]!;
    sum += v;
    square += v * v;
    along += v * values[i]!;
  }
  return along / Math.sqrt(Math.max(square - (sum * sum) / n, 0) + n);
}

/**
 * The best place in the search box by correlation, about to a pixel: on pictures of half the size where the box allows.
 */
function searchBox(
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
      if (!sampleBox(image, p, m, own.w, own.h, samples, sampleRowLinear)) continue;
      const l = likeness(own, samples);
      if (l > best) [best, where] = [l, [p[0] * k, p[1] * k]];
    }
  return where;
}

interface Fit {
  readonly at: Point;
  readonly m: readonly number[];
  readonly likeness: number;
  readonly sigma: number;
}

/** Forward additive Gauss-Newton over place, 2x2 matrix, gain and offset. */
function alignBox(look: Look, image: PyramidLevel, start: Point, m0: readonly number[]): Fit | null {
  const { w, h, used, values } = look;
  const n = used.length;
  const s = new Float32Array(w * h);
  const x1 = new Float32Array(w * h);
  const y1 = new Float32Array(w * h);
  const a = new Float64Array(36);
  const b = new Float64Array(6);
  const j = new Float64Array(6);
  let at = start;
  let m = [...m0];
  let last: Fit | null = null;
  const k = 2 / Math.max(w, h);
  for (let it = 0; it < SPOTS.iterations; it++) {
    if (
      !sampleBox(image, at, m, w, h, s) ||
      !sampleBox(image, [at[0] + 0.5, at[1]], m, w, h, x1) ||
      !sampleBox(image, [at[0], at[1] + 0.5], m, w, h, y1)
    )
      return last;
    let mean = 0;
    let along = 0;
    for (const i of used) mean += s[i]! / n;
    for (const i of used) along += (s[i]! - mean) * values[i]!;
    if (!(along > 1e-3)) return last;
    a.fill(0);
    b.fill(0);
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
    // Shape changes little from frame to frame; a lone corner hardly tells its own from a shift.
    const ridge = Math.max(1e-4 * (a[0]! + a[7]!), (SPOTS.shared * cost) / n / SPOTS.shapeChange ** 2);
    for (let p = 2; p < 6; p++) {
      a[p * 6 + p]! += ridge;
      b[p]! -= (ridge * (m[p - 2]! - m0[p - 2]!)) / k;
    }
    const factor = a.slice();
    const d = b.slice();
    for (const p of [0, 1]) factor[p * 7]! += 1e-6 * (a[0]! + a[7]!) + 1e-9;
    if (!cholesky(factor, 6)) return last;
    const cx = new Float64Array([1, 0, 0, 0, 0, 0]);
    const cy = new Float64Array([0, 1, 0, 0, 0, 0]);
    choleskySolve(factor, 6, d);
    choleskySolve(factor, 6, cx);
    choleskySolve(factor, 6, cy);
    last = {
      at,
      m,
      likeness: likeness(look, s),
      sigma: Math.hypot(SPOTS.floor, Math.sqrt((SPOTS.shared * (cost / Math.max(1, n - 8)) * (cx[0]! + cy[1]!)) / 2)),
    };
    const step = Math.hypot(d[0]!, d[1]!);
    const most = Math.min(1, 1.5 / Math.max(step, 1e-9));
    at = [at[0] + most * d[0]!, at[1] + most * d[1]!];
    m = [m[0]! + most * d[2]! * k, m[1]! + most * d[3]! * k, m[2]! + most * d[4]! * k, m[3]! + most * d[5]! * k];
    if (Math.hypot(at[0] - start[0], at[1] - start[1]) > SPOTS.walk) return null;
    if (step < SPOTS.converged) break;
  }
  return last;
}

export interface SpotState {
  /** newest first */
  readonly last: readonly { readonly frame: number; readonly at: Point; readonly m: readonly number[] }[];
  readonly gone: string | null;
}

/**
 * Where a spot is known to be on a frame without looking: on the reference, as placed by hand, or where its own run
 * found it.
 */
export function knownPlace(
  spot: Pick<Spot, 'at' | 'path'> & { readonly keys?: Spot['keys'] | undefined },
  frame: number,
  referenceFrame: number,
): Point | null {
  const hand = spot.keys?.find((k) => k.frame === frame);
  const own = spot.path?.find((p) => p[0] === frame);
  if (hand) return hand.at;
  if (frame === referenceFrame) return spot.at;
  return own ? [own[1], own[2]] : null;
}

/** Follows one spot in one direction, away from its reference. */
export class SpotFollower {
  private readonly reference: Look | null;
  private previous: Look | null;
  /** the hand keys' looks, by frame */
  private readonly hands: Look[] = [];
  private last: SpotState['last'];
  private gone: string | null = null;
  private readonly path: ReadonlyMap<number, NonNullable<Spot['path']>[number]>;

  /**
   * @param counts whether a px at this offset from the spot belongs to what is followed: a corner of a thick device has
   *   more of the table in its box than of itself
   */
  constructor(
    private readonly spot: Spot,
    referenceFrame: number,
    reference: RawLuma,
    hands: readonly { readonly frame: number; readonly luma: RawLuma }[] = [],
    private readonly counts: (dx: number, dy: number) => boolean = () => true,
  ) {
    this.path = new Map((spot.path ?? []).map((p) => [p[0], p]));
    this.reference = lookAt(reference, referenceFrame, spot.at, spot.box, 0, counts);
    this.previous = this.reference;
    this.last = [{ frame: referenceFrame, at: spot.at, m: UPRIGHT }];
    for (const k of spot.keys) {
      const luma = hands.find((h) => h.frame === k.frame)?.luma;
      const look = luma && lookAt(luma, k.frame, k.at, spot.box, HAND_SIGMA, counts);
      if (look) this.hands.push(look);
    }
    if (!this.reference)
      this.gone = `The box of the spot "${spot.name}" holds no picture to follow; put it on something with contrast in two directions, inside the picture.`;
  }

  get state(): SpotState {
    return { last: this.last, gone: this.gone };
  }

  /** @param luma of the newest frame of the state */
  resume(state: SpotState, luma: RawLuma): void {
    this.last = state.last;
    this.gone = state.gone;
    const [now] = state.last;
    if (this.spot.match === 'previous' && now)
      this.previous = lookAt(luma, now.frame, now.at, this.spot.box, 0, this.counts) ?? this.previous;
  }

  /**
   * Begins anew at a place that is known already. @param luma of that frame, for a spot that is matched to the frame
   * before
   */
  startAt(frame: number, at: Point, luma?: RawLuma): void {
    this.last = [{ frame, at, m: UPRIGHT }];
    this.gone = null;
    if (luma && this.spot.match === 'previous')
      this.previous = lookAt(luma, frame, at, this.spot.box, 0, this.counts) ?? this.previous;
  }

  private looks(frame: number): readonly { look: Look; share: number }[] {
    const { reference, previous } = this;
    if (this.spot.match === 'previous') return previous ? [{ look: previous, share: 1 }] : [];
    if (this.spot.match === 'reference' || this.hands.length === 0 || !reference)
      return reference ? [{ look: reference, share: 1 }] : [];
    // The nearest placed frames on both sides, the reference among them, blended by distance.
    const all = [reference, ...this.hands].sort((a, b) => a.frame - b.frame);
    const after = all.findIndex((l) => l.frame > frame);
    if (after <= 0) return [{ look: after === 0 ? all[0]! : all.at(-1)!, share: 1 }];
    const a = all[after - 1]!;
    const b = all[after]!;
    const t = (frame - a.frame) / (b.frame - a.frame);
    return [
      { look: a, share: 1 - t },
      { look: b, share: t },
    ];
  }

  step(frame: number, luma: RawLuma): SpotResult {
    const { spot } = this;
    const hand = spot.keys.find((k) => k.frame === frame);
    if ((spot.from !== undefined && frame < spot.from) || (spot.to !== undefined && frame > spot.to))
      return { frame, at: null, sigma: 0, likeness: 0, byHand: false, reason: 'Cut back by hand.' };
    if (hand) {
      this.gone = null;
      this.previous = lookAt(luma, frame, hand.at, spot.box, HAND_SIGMA, this.counts) ?? this.previous;
      this.last = [{ frame, at: hand.at, m: UPRIGHT }];
      return { frame, at: hand.at, sigma: HAND_SIGMA, likeness: 1, byHand: true, reason: null };
    }
    const known = this.path.get(frame);
    if (known) {
      const [, x, y, sigma] = known;
      const [now] = this.last;
      this.gone = null;
      this.last = [{ frame, at: [x, y], m: now!.m }, now!];
      if (spot.match === 'previous')
        this.previous = lookAt(luma, frame, [x, y], spot.box, sigma, this.counts) ?? this.previous;
      return { frame, at: [x, y], sigma, likeness: 1, byHand: false, reason: null };
    }
    if (this.gone) return { frame, at: null, sigma: 0, likeness: 0, byHand: false, reason: this.gone };
    const [now, before] = this.last;
    const ahead = Math.abs(frame - now!.frame);
    const f = before ? ahead / Math.abs(now!.frame - before.frame) : 0;
    const at: Point = before
      ? [now!.at[0] + f * (now!.at[0] - before.at[0]), now!.at[1] + f * (now!.at[1] - before.at[1])]
      : now!.at;
    const reach = [
      Math.max(2, Math.ceil((spot.search[0] - spot.box[0]) / 2)),
      Math.max(2, Math.ceil((spot.search[1] - spot.box[1]) / 2)),
    ] as const;
    const pyramid = window(luma, at, reach[0] + spot.box[0], reach[1] + spot.box[1]);
    const fits: { fit: Fit; share: number; look: Look }[] = [];
    for (const { look, share } of this.looks(frame)) {
      const m = look === this.previous && spot.match === 'previous' ? UPRIGHT : now!.m;
      const start = searchBox(look, pyramid, at, reach, m);
      const fit = start && alignBox(look, pyramid[0]!, start, m);
      if (fit && fit.likeness > SPOTS.believed) fits.push({ fit, share: Math.max(share, 0.02), look });
    }
    if (fits.length === 0) {
      this.gone = `The spot "${spot.name}" no longer looks like what it was; place it by hand on frame ${frame}, or cut it back.`;
      return { frame, at: null, sigma: 0, likeness: 0, byHand: false, reason: this.gone };
    }
    const sum = fits.reduce((s, q) => s + q.share, 0);
    const where: Point = [0, 1].map((k) =>
      fits.reduce((s, q) => s + (q.share / sum) * q.fit.at[k]!, 0),
    ) as unknown as Point;
    const sigma = Math.max(...fits.map((q) => Math.hypot(q.fit.sigma, q.look.sigma)));
    this.last = [{ frame, at: where, m: fits[0]!.fit.m }, now!];
    if (spot.match === 'previous')
      this.previous = lookAt(luma, frame, where, spot.box, sigma, this.counts) ?? this.previous;
    return {
      frame,
      at: where,
      sigma,
      likeness: Math.min(...fits.map((q) => q.fit.likeness)),
      byHand: false,
      reason: null,
    };
  }
}
