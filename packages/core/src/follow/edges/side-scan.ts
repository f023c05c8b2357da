/**
 * A side of a pin scanned across: at every offset the derivatives of many short profiles are gathered, and the median of
 * their signed values tells a real edge, which all of them see, from texture and noise, which they see at random.
 */
import { clamp } from '../../clamp';
import { outwardsOf } from '../../geometry/line';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { insidePolygon } from '../../geometry/polygon';
import type { PyramidLevel } from '../../image/pyramid';
import { SIGMA_PER_DEVIATION, median } from '../../statistics';
import { derivativeKernel, lightStep, respond, sampleInside } from './edge-profile';

const SCAN = {
  /** px between the sites along a side. By trial. */
  spacing: 4,
  /** Sites that a short side has. By trial. */
  leastSites: 14,
  /** Sites that a long side has; more cost time and add little, since neighbours share their errors. By trial. */
  mostSites: 90,
  /** Standard errors of the median derivative from which an edge is believed. By trial. */
  believed: 6,
  /** 8-bit steps a px; what rises less is no edge. By trial. */
  least: 0.25,
  /** px between the samples of a scan. By trial. */
  step: 0.5,
  /** px along the side over which a site's profile is the mean, at the most. By trial. */
  mostWide: 5,
  /** px to each side whose mean light tells how much light a code step makes there. By trial. */
  beside: 2,
  /** px that the ends of a side are tried to lie off, against each other, and between the slopes that are tried. By trial. */
  slopes: { most: 6, step: 1.5 },
  /** Share of its length, at each end, in which no site lies: corners are round. By trial. */
  ends: 0.03,
} as const;

/** Sites that a side must have to tell of an edge. */
export const LEAST_SITES = SCAN.leastSites / 2;

/** px rounded to whole samples of a scan. */
export function toSamples(px: number): number {
  return SCAN.step * Math.round(px / SCAN.step);
}

export interface Scan {
  readonly sites: {
    readonly at: Point;
    readonly s: number;
    /** slope of light, by which an edge's place is told, and the same in code steps, by which edges are told apart */
    readonly light: Float32Array;
    readonly response: Float32Array;
  }[];
  readonly median: Float64Array;
  readonly error: Float64Array;
}

export interface Peak {
  readonly t: number;
  readonly offset: number;
  readonly strength: number;
}

/** A side of a pin: its ends, unit vectors along it and out of the pin. */
export interface Side {
  readonly a: Point;
  readonly b: Point;
  readonly tangent: Point;
  readonly outwards: Point;
}

/** @param turn 1 when the pin's corners run clockwise on the picture, else -1 */
export function sideOf(a: Point, b: Point, turn: number): Side {
  const length = distance(a, b);
  return { a, b, tangent: [(b[0] - a[0]) / length, (b[1] - a[1]) / length], outwards: outwardsOf(a, b, turn) };
}

/** How far a side is scanned, px to each side; where an edge counts as its own; outlines in which no site may lie. */
export interface ScanReach {
  readonly reach: number;
  readonly own: number;
  readonly ignore: readonly (readonly Point[])[];
}

/**
 * Slopes of light as slopes of the picture's code values: what compression and the eye tell apart. In light the edge of
 * dark glass in a dark bezel is nothing beside a bright device's outline.
 */
function inSteps(slope: Float32Array, light: Float32Array): Float32Array {
  const beside = SCAN.beside / SCAN.step;
  return slope.map((v, t) => {
    const from = Math.max(0, t - beside);
    const to = Math.min(light.length - 1, t + beside);
    let sum = 0;
    for (let i = from; i <= to; i++) sum += light[i]!;
    return v / lightStep(sum / (to - from + 1));
  });
}

/** Median and its standard error of the slopes at every offset; 0 where too few sites see it. */
function summed(sites: Scan['sites'], taps: number): Pick<Scan, 'median' | 'error'> {
  const middle = new Float64Array(taps);
  const error = new Float64Array(taps);
  for (let t = 0; t < taps; t++) {
    const seen = sites.map((q) => q.response[t]!).filter(Number.isFinite);
    if (seen.length < LEAST_SITES) continue;
    const m = median(seen);
    middle[t] = m;
    error[t] =
      (SIGMA_PER_DEVIATION * 1.2533 * median(seen.map((v) => Math.abs(v - m)))) / Math.sqrt(seen.length) + 1e-6;
  }
  return { median: middle, error };
}

/** @param slope px by which the side's ends lie off it, against each other */
function scanSide(image: PyramidLevel, side: Side, { reach, ignore }: ScanReach, slope: number): Scan | null {
  const { a, b, tangent, outwards: n } = side;
  const length = distance(a, b);
  const count = Math.round(clamp(length / SCAN.spacing, SCAN.leastSites, SCAN.mostSites));
  const taps = 2 * Math.round(reach / SCAN.step) + 1;
  const kernel = derivativeKernel(1, SCAN.step);
  const profile = new Float32Array(taps);
  const width = Math.min(length / count, SCAN.mostWide);
  const sites: Scan['sites'] = [];
  for (let i = 0; i < count; i++) {
    const s = SCAN.ends + ((1 - 2 * SCAN.ends) * (i + 0.5)) / count;
    const shift = slope * (s - 0.5);
    const at: Point = [a[0] + s * (b[0] - a[0]) + shift * n[0], a[1] + s * (b[1] - a[1]) + shift * n[1]];
    if (ignore.some((p) => insidePolygon(at, p))) continue;
    sampleInside(image, { at, normal: n, tangent, step: SCAN.step, width }, profile);
    const light = respond(profile, kernel);
    sites.push({ at, s, light, response: inSteps(light, profile) });
  }
  return sites.length < LEAST_SITES ? null : { sites, ...summed(sites, taps) };
}

/**
 * Scans a side at several slopes and keeps the one along which an edge near the side stands out best.
 * @param steepest px by which its ends may lie off, against each other
 * @returns null where hardly a site of it lies inside the picture, or none tells of an edge
 */
export function scanAcross(
  image: PyramidLevel,
  side: Side,
  o: ScanReach,
  steepest: number = SCAN.slopes.most,
): Scan | null {
  let best: Scan | null = null;
  let bestScore = 0;
  for (let slope = -steepest; slope <= steepest; slope += SCAN.slopes.step) {
    const scan = scanSide(image, side, o, slope);
    if (!scan) continue;
    const middle = scan.median.length >> 1;
    let score = 0;
    for (let t = 0; t < scan.median.length; t++)
      score = Math.max(score, Math.abs(scan.median[t]!) / (1 + (Math.abs(t - middle) * SCAN.step) / (4 * o.own)));
    score *= 1 - 0.02 * Math.abs(slope);
    if (score > bestScore) [best, bestScore] = [scan, score];
  }
  return best;
}

/** The edges that a scan shows beyond doubt, strongest first. */
export function edgesOf({ median, error }: Scan, reach: number): Peak[] {
  const peaks: Peak[] = [];
  for (let t = 2; t < median.length - 2; t++) {
    const m = Math.abs(median[t]!);
    if (m < Math.abs(median[t - 1]!) || m <= Math.abs(median[t + 1]!)) continue;
    if (m > SCAN.believed * error[t]! && m > SCAN.least)
      peaks.push({ t, offset: t * SCAN.step - reach, strength: median[t]! });
  }
  return peaks.sort((p, q) => Math.abs(q.strength) - Math.abs(p.strength));
}

/** Taps within which the steepest rise of light lies from that of code values, which leans towards the dark. By trial. */
const LEANS = 2;

/** Where light rises or falls (`sign`) most near a tap, taps. */
function peakOfLight(light: Float32Array, near: number, sign: number): number {
  const v = (t: number): number => sign * light[t]!;
  let at = near;
  for (let t = Math.max(1, near - LEANS); t <= Math.min(light.length - 2, near + LEANS); t++) if (v(t) > v(at)) at = t;
  const bend = v(at - 1) - 2 * v(at) + v(at + 1);
  const sub = bend < 0 ? (0.5 * (v(at - 1) - v(at + 1))) / bend : 0;
  return at + clamp(sub, -1, 1);
}

/** Where each site of a scan crosses one of its edges, px across the side (outwards), and its share along it. */
export function crossings(
  scan: Scan,
  p: Peak,
  reach: number,
): { readonly at: Point; readonly s: number; readonly d: number }[] {
  const sign = Math.sign(p.strength);
  const out: { at: Point; s: number; d: number }[] = [];
  for (const q of scan.sites) {
    let at = p.t;
    const v = (t: number): number => sign * q.response[t]!;
    for (let t = Math.max(1, p.t - 4); t <= Math.min(q.response.length - 2, p.t + 4); t++) if (v(t) > v(at)) at = t;
    if (
      at < 1 ||
      at > q.response.length - 2 ||
      !(v(at) >= 0.35 * Math.abs(p.strength) && v(at) >= v(at - 1) && v(at) >= v(at + 1))
    )
      continue;
    out.push({ at: q.at, s: q.s, d: peakOfLight(q.light, at, sign) * SCAN.step - reach });
  }
  return out;
}
