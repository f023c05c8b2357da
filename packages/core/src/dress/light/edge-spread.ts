/**
 * How soft the plate is where the glass ends: the spread of light across the glass edges. The profile across an edge is
 * the edge spread function; its slope is the line spread function, whose width is told here by where the middle half of
 * its area lies, which neither tails nor the bezel's far edge disturb. A Gaussian's middle half is 1.349 sigma wide.
 * Source: the edge method of ISO 12233 (idea: edge spread, its derivative the line spread).
 */
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { sampleProfile } from '../../follow/edges/edge-profile';
import type { Luma } from '../../image/image';
import { median } from '../../statistics';

const SPREAD = {
  /** px to each side of an edge that are looked at. By trial. */
  half: 10,
  /** px between the samples. By trial. */
  step: 0.25,
  /** Sites a side. By trial. */
  sites: 16,
  /** Sigmas of a normal distribution that its middle half spans: 2 x 0.6745. */
  middleHalf: 1.349,
  /** Grey, 0 to 255, that an edge must rise by over its noise. By trial. */
  leastRise: 12,
  /** px of smear across a side, and shares of the spread, beyond which what is left tells of the shutter. By trial. */
  mostSmear: 2,
  mostOfSpread: 0.75,
  /** Share of the sites that must tell. By trial. */
  leastTold: 0.25,
  /**
   * Squared px that bilinear sampling and the pixels themselves add: a pixel's own square has 1/12, sampling about as
   * much.
   */
  ownVariance: 1 / 12 + 1 / 12,
} as const;

/** Sigma of one profile of light, NaN where no single edge stands out. `step` px a tap. */
export function spreadOf(profile: Float32Array, step: number): number {
  const n = profile.length;
  const slope = new Float64Array(n);
  let at = 0;
  for (let i = 1; i < n - 1; i++) slope[i] = (profile[i + 1]! - profile[i - 1]!) / 2;
  // The strongest edge next to the middle.
  for (let i = 1; i < n - 1; i++)
    if (Math.abs(slope[i]!) * (1 - Math.abs(i - n / 2) / n) > Math.abs(slope[at]!) * (1 - Math.abs(at - n / 2) / n))
      at = i;
  const sign = Math.sign(slope[at]!);
  const least = 0.12 * Math.abs(slope[at]!);
  if (sign === 0) return NaN;
  let a = at;
  let b = at;
  while (a > 1 && sign * slope[a - 1]! > least) a--;
  while (b < n - 2 && sign * slope[b + 1]! > least) b++;
  if (a <= 1 || b >= n - 2) return NaN;
  const rise = Math.abs(profile[b]! - profile[a]!);
  if (rise < SPREAD.leastRise) return NaN;
  let sum = 0;
  for (let i = a; i <= b; i++) sum += Math.abs(slope[i]!);
  const place = (share: number): number => {
    let s = 0;
    for (let i = a; i <= b; i++) {
      const v = Math.abs(slope[i]!);
      if (s + v >= share * sum) return i - 0.5 + (share * sum - s) / v;
      s += v;
    }
    return b;
  };
  // The ends that were left out below `least` make the middle half seem narrower: by 5.4 % for a Gaussian cut at 12 %
  // of its height.
  return ((place(0.75) - place(0.25)) * step) / (SPREAD.middleHalf * 0.946);
}

/**
 * Median sigma over the pin's sides, px; NaN where too little tells it.
 * @param moves the path of a point while the shutter is open, px: what it smears across a side is taken out, and a side
 * that is mostly smeared tells nothing
 */
export function edgeSpread(luma: Luma, corners: Quad, moves: (at: Point) => Point = () => [0, 0]): number {
  const image = { ...luma, x0: 0, y0: 0 };
  const profile = new Float32Array((2 * SPREAD.half) / SPREAD.step + 1);
  const told: number[] = [];
  let sites = 0;
  for (let i = 0; i < 4; i++) {
    const a = corners[i]!;
    const b = corners[(i + 1) % 4]!;
    const l = distance(a, b);
    const along: Point = [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
    const across: Point = [-along[1], along[0]];
    if (l < 20) continue;
    for (let k = 0; k < SPREAD.sites; k++) {
      const t = 0.12 + (0.76 * (k + 0.5)) / SPREAD.sites;
      const at: Point = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
      const m = moves(at);
      const smeared = m[0] * across[0] + m[1] * across[1];
      sites++;
      if (!sampleProfile(image, at, across, along, SPREAD.step, 3, profile)) continue;
      const s = spreadOf(profile, SPREAD.step);
      if (!(Math.abs(smeared) <= Math.max(SPREAD.mostSmear, SPREAD.mostOfSpread * s))) continue;
      const own = s * s - SPREAD.ownVariance - (smeared * smeared) / 12;
      if (Number.isFinite(s)) told.push(Math.sqrt(Math.max(0, own)));
    }
  }
  return told.length >= SPREAD.leastTold * sites ? median(told) : NaN;
}
