/**
 * What lies across an edge, as a few blurred steps: positions, heights and one common blur. Fitted to the mean profile of
 * a rail, it tells where edges that stand a few px apart really are, which a detector of finite width can't: it finds
 * each of them pulled by its neighbours, and by another amount when the picture is larger, smaller or smeared.
 */
import { solveLinear } from '../geometry/linear-solve';
import { derivativeKernel, respond } from './edge-profile';

export interface EdgeSteps {
  /** px from the rail, outwards */
  readonly at: readonly number[];
  /** grey values, signed outwards */
  readonly height: readonly number[];
  /** Gaussian blur of the remembered picture, px */
  readonly blur: number;
}

const MOST_STEPS = 5, ITERATIONS = 25;

/** Abramowitz and Stegun 7.1.26, error below 1.5e-7. */
function erf(x: number): number {
  const t = 1 / (1 + 0.3275911 * Math.abs(x));
  const y = 1 - (((((1.061405429 * t - 1.453152027) * t) + 1.421413741) * t - 0.284496736) * t + 0.254829592) * t * Math.exp(-x * x);
  return x < 0 ? -y : y;
}

const smoothStep = (x: number, blur: number): number => 0.5 * (1 + erf(x / (blur * Math.SQRT2)));

/** Heights and the ground level by linear least squares for given positions; returns the sum of squares too. */
function heightsFor(profile: Float32Array, step: number, at: readonly number[], blur: number): { height: number[]; error: number } | null {
  const k = at.length + 1, ata = new Float64Array(k * k), atb = new Float64Array(k), row = new Float64Array(k), middle = (profile.length - 1) / 2;
  for (let t = 0; t < profile.length; t++) {
    for (let i = 0; i < at.length; i++) row[i] = smoothStep((t - middle) * step - at[i]!, blur);
    row[k - 1] = 1;
    for (let i = 0; i < k; i++) {
      atb[i]! += row[i]! * profile[t]!;
      for (let j = 0; j < k; j++) ata[i * k + j]! += row[i]! * row[j]!;
    }
  }
  for (let i = 0; i < k; i++) ata[i * k + i]! += 1e-6;
  const x = solveLinear(ata, atb);
  if (!x) return null;
  let error = 0;
  for (let t = 0; t < profile.length; t++) {
    let v = x[k - 1]!;
    for (let i = 0; i < at.length; i++) v += x[i]! * smoothStep((t - middle) * step - at[i]!, blur);
    error += (v - profile[t]!) ** 2;
  }
  return { height: [...x.subarray(0, k - 1)], error };
}

/**
 * @param profile mean grey values, odd number of taps, `step` px apart, its middle on the rail
 * @returns null when the profile is no row of steps
 */
export function fitSteps(profile: Float32Array, step: number): EdgeSteps | null {
  const kernel = derivativeKernel(0.8, step), slope = respond(profile, kernel), middle = (profile.length - 1) / 2, peaks: { x: number; v: number }[] = [];
  for (let t = 1; t < slope.length - 1; t++) {
    const v = Math.abs(slope[t]!);
    if (v > 0.02 && v >= Math.abs(slope[t - 1]!) && v > Math.abs(slope[t + 1]!)) peaks.push({ x: (t - middle) * step, v });
  }
  // The rail's own edge is always in; others by what they can do to it, which falls with their distance.
  const own = peaks.reduce<{ x: number; v: number } | null>((b, p) => (Math.abs(p.x) <= 1.5 && (!b || p.v > b.v) ? p : b), null);
  if (!own) return null;
  const others = peaks.filter((p) => p !== own && p.v > 0.05 * own.v).sort((p, q) => q.v / (1 + q.x * q.x / 16) - p.v / (1 + p.x * p.x / 16)).slice(0, MOST_STEPS - 1);
  const at = [own.x, ...others.map((p) => p.x)];
  let blur = 0.8, best = heightsFor(profile, step, at, blur);
  if (!best) return null;
  // Positions and blur by damped coordinate steps: few unknowns, a smooth valley, no derivatives needed.
  const size = [...at.map(() => 0.3), 0.15];
  for (let i = 0; i < ITERATIONS; i++)
    for (let k = 0; k <= at.length; k++) {
      const before: number = k < at.length ? at[k]! : blur;
      let improved = false;
      for (const d of [size[k]!, -size[k]!]) {
        const next = k < at.length ? Math.min(before + 2, Math.max(before - 2, before + d)) : Math.min(3, Math.max(0.3, before + d));
        if (k < at.length) at[k] = next;
        else blur = next;
        const tried = heightsFor(profile, step, at, blur);
        if (tried && tried.error < best.error) {
          best = tried;
          improved = true;
          break;
        }
        if (k < at.length) at[k] = before;
        else blur = before;
      }
      size[k]! *= improved ? 1.3 : 0.5;
    }
  return Math.abs(at[0]!) < 1.5 ? { at, height: best.height, blur } : null;
}

/**
 * Where the detector finds the first of the steps, px from where it is, when they are seen `scale` times as large and
 * smeared over `motion` px.
 */
export function detectorPull(steps: EdgeSteps, scale: number, motion: number, kernel: Float32Array, step: number): number {
  const taps = 2 * (Math.round(2.5 / step) + (kernel.length >> 1)) + 1, seen = new Float32Array(taps), parts = Math.max(1, Math.ceil(motion / 0.7));
  for (let t = 0; t < taps; t++)
    for (const [i, at] of steps.at.entries())
      for (let k = 0; k < parts; k++)
        seen[t]! += (steps.height[i]! / parts) * smoothStep((t - (taps - 1) / 2) * step + motion * ((k + 0.5) / parts - 0.5) - scale * (at - steps.at[0]!), steps.blur);
  const sign = Math.sign(steps.height[0]!), r = respond(seen, kernel), middle = taps >> 1;
  let at = middle;
  for (let t = middle - 4; t <= middle + 4; t++) if (sign * r[t]! > sign * r[at]!) at = t;
  const l = sign * r[at - 1]!, m = sign * r[at]!, n = sign * r[at + 1]!, bend = l - 2 * m + n;
  if (!(bend < 0) || m < l || m < n) return 0;
  return (at - middle + (0.5 * (l - n)) / bend) * step;
}
