/**
 * What a device shows across each side of its Screen (bezel, rim, body), remembered over the shot: how bright it is at
 * every distance from the side, and how much that changes from frame to frame. Glass and what lies behind the device
 * may show anything and do not count. A side that has taken its neighbour's line shows the wrong brightnesses, even
 * where each line by itself looks right.
 */
import { clamp } from '../../clamp';
import { mapPoint } from '../../geometry/homography';
import { outwardsOf } from '../../geometry/line';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import { median } from '../../statistics';
import { greyOf } from '../../image/light';
import { sampleInside } from './edge-profile';

const LOOKS = {
  /** px of the reference to each side of the pin's side. By trial. */
  reach: 24,
  /** Places along a side at which it is looked at. By trial. */
  sites: 24,
  /** Share of a side at each end that is left out: corners are round. By trial. */
  ends: 0.06,
  /** Of those, how many must be seen for a distance to tell. By trial. */
  leastSites: 6,
  /** px within the device's first and last line that do not count: what lies beyond bleeds into them. By trial. */
  margin: 2,
  /** px of the frame that a sharp edge is soft by: a device seen from the side is seen as much softer. By trial. */
  edge: 2.2,
  /** px of the reference by which a side may be seen softer to teach what lies across it. By trial. */
  plain: 1.5,
  /** px beside what counts of the device that look like it. By trial. */
  alike: 1,
  /** Grey of 255; what bleeds into the device from beyond it may differ from the device by that. By trial. */
  beyond: 60,
  /** Natural logarithm by which a frame's gain usually differs from that of the one before. By trial. */
  gainChange: 0.2,
  /** Grey of 255; what is taken to change at first. By trial. */
  first: 10,
  /** Grey of 255; the least that is taken to change. By trial. */
  least: 4,
  /** Share of its own grey, added to that. By trial. */
  leastShare: 0.04,
  /** Share a frame by which what is remembered follows what is seen. By trial. */
  rate: 0.1,
  /** px of the reference that share their error. By trial. */
  together: 4,
  /** Squared standard deviations beyond which a distance is no worse. By trial. */
  most: 9,
  /** Gain of a frame against what is remembered, at the most; 1 over that at the least. By trial. */
  mostGain: 2.5,
} as const;

const TAPS = 2 * LOOKS.reach + 1;

/** Of four sides, `TAPS` distances each from the inside outwards. */
export interface SideLooks {
  /** grey, 0 to 255; not a number where there is no device, or it was never seen */
  readonly mean: readonly number[];
  /** grey squared */
  readonly variance: readonly number[];
  /** of the last frame against what is remembered */
  readonly gain: number;
  readonly frames: number;
}

/** A place of a side: on the reference frame, and as a share of the side's length from its first corner. */
export interface SidePlace {
  readonly at: Point;
  readonly side: number;
  readonly along: number;
}

/**
 * Grey at every distance from each side where `h` puts it; not a number where too little is seen.
 * @param counts whether a place tells of the device on this frame; all do when left out
 */
export function seenAcross(
  image: PyramidLevel,
  pin: Quad,
  h: Matrix3,
  counts: (place: SidePlace) => boolean = () => true,
): Float64Array {
  const out = new Float64Array(4 * TAPS).fill(NaN);
  const turn = signedArea(pin) > 0 ? 1 : -1;
  for (let side = 0; side < 4; side++) {
    const [a, b] = [pin[side]!, pin[(side + 1) % 4]!];
    const outwards = outwardsOf(a, b, turn);
    const profiles = placesAlong(side, a, b)
      .filter(counts)
      .flatMap((place) => profileAt(image, h, place.at, outwards) ?? []);
    for (let t = 0; t < TAPS; t++) {
      const seen = profiles.map((p) => p[t]!).filter(Number.isFinite);
      if (seen.length >= LOOKS.leastSites) out[side * TAPS + t] = greyOf(median(seen));
    }
  }
  return out;
}

/** Places along a side, its corners left out. */
function placesAlong(side: number, a: Point, b: Point): SidePlace[] {
  return Array.from({ length: LOOKS.sites }, (_, i): SidePlace => {
    const along = LOOKS.ends + ((1 - 2 * LOOKS.ends) * (i + 0.5)) / LOOKS.sites;
    return { at: [a[0] + along * (b[0] - a[0]), a[1] + along * (b[1] - a[1])], side, along };
  });
}

/** Light across a place of a side, `TAPS` distances; null where it is seen from its edge. */
function profileAt(image: PyramidLevel, h: Matrix3, site: Point, [nx, ny]: Point): Float32Array | null {
  const from = mapPoint(h, [site[0] - LOOKS.reach * nx, site[1] - LOOKS.reach * ny]);
  const to = mapPoint(h, [site[0] + LOOKS.reach * nx, site[1] + LOOKS.reach * ny]);
  const length = distance(from, to);
  if (!(length > 1) || !Number.isFinite(length)) return null;
  const across: Point = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
  const middle: Point = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
  const profile = new Float32Array(TAPS);
  const tangent: Point = [-across[1], across[0]];
  sampleInside(image, { at: middle, normal: across, tangent, step: length / (TAPS - 1), width: 1 }, profile);
  return profile;
}

/** @param outermost px of the reference outwards at which a side's last line lies, by side */
export function firstLooks(seen: Float64Array, outermost: readonly number[]): SideLooks {
  return {
    mean: Array.from(seen, (v, i) => {
      const d = (i % TAPS) - LOOKS.reach;
      return d >= LOOKS.margin && d <= outermost[Math.floor(i / TAPS)]! - LOOKS.margin ? v : NaN;
    }),
    variance: Array.from(seen, () => LOOKS.first ** 2),
    gain: 1,
    frames: 1,
  };
}

/** What a distance of that grey is taken to change by from frame to frame, grey squared. */
const varianceAt = (looks: SideLooks, i: number, grey: number): number =>
  Math.max(looks.variance[i]!, LOOKS.least ** 2) + (LOOKS.leastShare * grey) ** 2;

/** What a frame should show, and how far that may be off. */
interface Expected {
  /** grey; not a number where there is no device */
  readonly mean: Float64Array;
  /** grey squared */
  readonly variance: Float64Array;
}

/** First and last tap of the device across each side, those beside its outermost lines included. */
function bandsOf({ mean }: SideLooks): { readonly from: number; readonly to: number }[] {
  return [0, 1, 2, 3].map((side) => {
    const own = mean.slice(side * TAPS, (side + 1) * TAPS).map(Number.isFinite);
    return { from: own.indexOf(true) - LOOKS.alike, to: own.lastIndexOf(true) + LOOKS.alike };
  });
}

/** Mean of what is known of a side around a tap. @param half taps to either side; the outermost may count in part */
function meanAround(side: readonly number[], tap: number, half: number): number {
  let sum = 0;
  let count = 0;
  const whole = Math.ceil(half);
  for (let t = Math.max(0, tap - whole); t <= Math.min(TAPS - 1, tap + whole); t++) {
    if (!Number.isFinite(side[t])) continue;
    const weight = Math.min(1, half + 1 - Math.abs(t - tap));
    sum += weight * side[t]!;
    count += weight;
  }
  return sum / count;
}

/**
 * What is remembered, blurred across each side by so many px of the reference: a tap is one px wide by itself. What lies
 * beyond the device is not known, and bleeds into it. @param beyond grey by which that may differ from the device
 */
function blurred(looks: SideLooks, blur: readonly number[], beyond: number): Expected {
  const mean = new Float64Array(looks.mean.length).fill(NaN);
  const variance = new Float64Array(looks.mean.length);
  for (const [side, { from, to }] of bandsOf(looks).entries()) {
    const own = looks.mean.slice(side * TAPS, (side + 1) * TAPS);
    const half = Math.max(0, blur[side]! - 1) / 2;
    for (let t = 0; t < TAPS; t++) {
      if (!Number.isFinite(own[t])) continue;
      const i = side * TAPS + t;
      const unknown = (Math.max(0, from - (t - half)) + Math.max(0, t + half - to)) / (2 * half + 1);
      mean[i] = meanAround(own, t, half);
      variance[i] = varianceAt(looks, i, mean[i]!) + (beyond * unknown) ** 2;
    }
  }
  return { mean, variance };
}

/** By how much brighter all is than it should be; what is known badly tells little of it. */
function gainOf({ mean, variance }: Expected, seen: Float64Array): number {
  let a = 0;
  let b = 0;
  for (const [i, m] of mean.entries()) {
    const v = seen[i]!;
    if (!Number.isFinite(v) || !Number.isFinite(m)) continue;
    a += (m * m) / variance[i]!;
    b += (m * v) / variance[i]!;
  }
  return a > 0 ? clamp(b / a, 1 / LOOKS.mostGain, LOOKS.mostGain) : 1;
}

export interface Likeness {
  /** natural logarithm of probability, up to what all candidates share */
  readonly log: number;
  /** mean squared deviation of the worst side in units of the variance: about 1 or less when it is as remembered */
  readonly misfit: number;
  /** the same of each side */
  readonly bySide: readonly number[];
}

/**
 * @param blur of the frame across each side, px of the reference
 * @param beyond grey by which what lies beyond the device may differ from it
 */
export function likenessOf(
  looks: SideLooks,
  seen: Float64Array,
  blur: readonly number[],
  beyond: number = LOOKS.beyond,
): Likeness {
  const expected = blurred(looks, blur, beyond);
  const gain = gainOf(expected, seen);
  const cost = [0, 0, 0, 0];
  const count = [0, 0, 0, 0];
  for (const [i, grey] of expected.mean.entries()) {
    if (!Number.isFinite(grey)) continue;
    const side = Math.floor(i / TAPS);
    const d = seen[i]! / gain - grey;
    // What is not seen is no better than what fits.
    cost[side]! += Number.isFinite(d) ? Math.min(LOOKS.most, (d * d) / expected.variance[i]!) : 1;
    count[side]!++;
  }
  // All sides on their neighbours' lines show one grey for another: a gain like no other frame's.
  const change = Math.min(LOOKS.most, (Math.log(gain / looks.gain) / LOOKS.gainChange) ** 2);
  const bySide = cost.map((c, side) => c / Math.max(LOOKS.together, count[side]!));
  return {
    log: (-0.5 * cost.reduce((s, c) => s + c, 0)) / LOOKS.together - 0.5 * change,
    misfit: Math.max(...bySide),
    bySide,
  };
}

/**
 * What is remembered after a frame that is sure.
 * @param foreshortened see {@link foreshortening}: a side that is seen much softer teaches nothing
 */
export function learnLooks(looks: SideLooks, seen: Float64Array, foreshortened: readonly number[]): SideLooks {
  const gain = gainOf(blurred(looks, foreshortened, LOOKS.beyond), seen);
  const rate = Math.max(LOOKS.rate, 1 / (looks.frames + 1));
  const mean = [...looks.mean];
  const variance = [...looks.variance];
  for (let i = 0; i < seen.length; i++) {
    // A stored state holds null where there is no device, which counts as nought in a sum.
    if (!Number.isFinite(mean[i]) || foreshortened[Math.floor(i / TAPS)]! > LOOKS.plain) continue;
    const d = seen[i]! / gain - mean[i]!;
    if (!Number.isFinite(d)) continue;
    mean[i]! += rate * d;
    variance[i]! += rate * (d * d - variance[i]!);
  }
  return { mean, variance, gain, frames: looks.frames + 1 };
}

/** How far a px of the reference, outwards from the middle of a side, comes to lie: px of the frame, and from where. */
function outwardsAt(pin: Quad, h: Matrix3, side: number): { readonly at: Point; readonly step: Point } {
  const turn = signedArea(pin) > 0 ? 1 : -1;
  const [a, b] = [pin[side]!, pin[(side + 1) % 4]!];
  const n = outwardsOf(a, b, turn);
  const middle: Point = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  const at = mapPoint(h, middle);
  const out = mapPoint(h, [middle[0] + n[0], middle[1] + n[1]]);
  return { at, step: [out[0] - at[0], out[1] - at[1]] };
}

/** How far the shutter smears each side across itself, px of the reference. @param smear of a place of the frame, px */
export function smearAcross(pin: Quad, h: Matrix3, smear: (at: Point) => Point): number[] {
  return [0, 1, 2, 3].map((side) => {
    const { at, step } = outwardsAt(pin, h, side);
    const [sx, sy] = smear(at);
    return Math.abs(sx * step[0] + sy * step[1]) / Math.max(1e-6, step[0] ** 2 + step[1] ** 2);
  });
}

/** How much softer each side is seen for lying askew or far away, px of the reference. */
export function foreshortening(pin: Quad, h: Matrix3): number[] {
  return [0, 1, 2, 3].map((side) => {
    const scale = Math.max(1e-3, Math.hypot(...outwardsAt(pin, h, side).step));
    return LOOKS.edge * Math.sqrt(Math.max(0, 1 / scale ** 2 - 1));
  });
}
