/**
 * What lies across an edge, remembered as a profile of light, and where that look is found again: scaled as the view is,
 * smeared as the movement smears it, with gain, offset and the glass's own level free. A bezel's rim is a few px wide; a
 * detector of single steps finds each of its edges pulled by the others, and loses them when they smear into one another.
 */
import { CoreError } from '../errors';

export interface EdgeLook {
  /** light, `LOOK_STEP` px of the reference apart, its middle on the rail, outwards */
  readonly profile: Float32Array;
  /** px of the reference from the rail between which the look counts */
  readonly lo: number;
  readonly hi: number;
  /**
   * px from the rail of the innermost and the outermost edge: the levels beyond them are free, since glass mirrors and
   * shows what it likes, and what lies behind the device passes by
   */
  readonly glass: number;
  readonly outside: number;
}

export const LOOK_STEP = 0.25;

/** A look made ready for one scale and smear. */
export interface Matcher {
  readonly scale: number;
  readonly smear: number;
  readonly step: number;
  /** taps to each side of the middle */
  readonly half: number;
  /** orthonormal: the levels that are free, then the look itself without them */
  readonly free: readonly Float32Array[];
  readonly look: Float32Array;
  /** length of the look before it was normalised: gain = product / length */
  readonly length: number;
}

/** Levels are left free only while this share of the look is still its own. */
const OWN = 0.35;

/** Integral of a profile from its first tap, for means over any stretch; constant beyond its ends. */
function integral(profile: Float32Array): (x: number) => number {
  const sum = new Float64Array(profile.length), middle = (profile.length - 1) / 2, last = profile.length - 1;
  for (let i = 1; i <= last; i++) sum[i] = sum[i - 1]! + 0.5 * (profile[i - 1]! + profile[i]!);
  return (x) => {
    const t = x / LOOK_STEP + middle;
    if (t <= 0) return LOOK_STEP * t * profile[0]!;
    if (t >= last) return LOOK_STEP * (sum[last]! + (t - last) * profile[last]!);
    const i = Math.floor(t), f = t - i;
    return LOOK_STEP * (sum[i]! + f * (profile[i]! + 0.5 * f * (profile[i + 1]! - profile[i]!)));
  };
}

function remove(v: Float32Array, unit: Float32Array): void {
  let s = 0;
  for (let i = 0; i < v.length; i++) s += v[i]! * unit[i]!;
  for (let i = 0; i < v.length; i++) v[i]! -= s * unit[i]!;
}

function length(v: Float32Array): number {
  let s = 0;
  for (const x of v) s += x * x;
  return Math.sqrt(s);
}

function normalise(v: Float32Array): number {
  const l = length(v);
  for (let i = 0; i < v.length; i++) v[i]! /= l || 1;
  return l;
}

/**
 * @param scale px of the frame per px of the reference, across the edge
 * @param smear px of the frame that the edge moves across itself while the shutter is open
 */
export function makeMatcher(l: EdgeLook, scale: number, smear: number): Matcher {
  const step = 0.5, reach = Math.max(-l.lo, l.hi) * scale + smear / 2, half = Math.max(5, Math.ceil(reach / step)), n = 2 * half + 1, from = integral(l.profile);
  const wide = Math.max(smear, step), soft = Math.max(smear, 1.6), one = new Float32Array(n), look = new Float32Array(n), window = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const x = (i - half) * step;
    window[i] = x >= l.lo * scale - smear / 2 - 0.5 && x <= l.hi * scale + smear / 2 + 0.5 ? 1 : 0;
    one[i] = window[i]!;
    look[i] = window[i]! * (((from((x + wide / 2) / scale) - from((x - wide / 2) / scale)) * scale) / wide);
  }
  const beyond = (edge: number, side: 1 | -1): Float32Array => window.map((w, i) => w * Math.min(1, Math.max(0, 0.5 + (side * ((i - half) * step - edge * scale)) / soft)));
  normalise(one);
  remove(look, one);
  const whole = length(look), glass = beyond(l.glass, -1), outside = beyond(l.outside, 1);
  for (const levels of [[glass, outside], [glass], [outside], []]) {
    const free = [one];
    for (const level of levels) {
      const unit = level.slice();
      for (const f of free) remove(unit, f);
      normalise(unit);
      free.push(unit);
    }
    const own = look.slice();
    for (const f of free) remove(own, f);
    if (length(own) > OWN * whole || levels.length === 0) return { scale, smear, step, half, free, look: own, length: normalise(own) };
  }
  throw new CoreError('invalid', 'An edge without a look.');
}

export interface Match {
  /** px of the frame outwards from the profile's middle */
  readonly shift: number;
  /** correlation beside the free levels, -1 to 1 */
  readonly likeness: number;
  /** contrast against the remembered one */
  readonly gain: number;
}

/** Correlation and gain of the look at `at` taps from the profile's first. */
export function likenessAt(m: Matcher, profile: Float32Array, at: number): { likeness: number; gain: number } {
  const { look, free } = m, n = look.length, ones = free[0]!, first = free[1] ?? ZERO, second = free[2] ?? ZERO;
  let along = 0, energy = 0, level = 0, a = 0, b = 0;
  for (let i = 0; i < n; i++) {
    const one = ones[i]!;
    if (one === 0) continue;
    const v = profile[at + i]!;
    along += v * look[i]!;
    energy += v * v;
    level += v * one;
    if (first !== ZERO) a += v * first[i]!;
    if (second !== ZERO) b += v * second[i]!;
  }
  const left = energy - level * level - a * a - b * b;
  return { likeness: along / Math.sqrt(Math.max(left, 0) + NOISE * n), gain: along / m.length };
}

const ZERO = new Float32Array(0);
/** Mean square of light that counts as nothing; keeps flat profiles from looking like anything. */
const NOISE = 0.003;

/**
 * Where the look lies in `profile` (taps `m.step` apart), searched `reach` taps to each side of `centre` taps from the
 * middle; `margin` is how many taps the profile has to spare on each side of the matcher.
 * @returns null when the best place lies on the end of the search
 */
export function bestShift(m: Matcher, profile: Float32Array, margin: number, centre: number, reach: number, sign: 1 | -1 = 1): Match | null {
  let best = -2, at = 0;
  const lo = Math.max(0, margin + centre - reach), hi = Math.min(2 * margin, margin + centre + reach), values = new Float64Array(Math.max(0, hi - lo + 1));
  for (let k = lo; k <= hi; k++) {
    const v = sign * likenessAt(m, profile, k).likeness;
    values[k - lo] = v;
    if (v > best) [best, at] = [v, k];
  }
  if (at <= lo || at >= hi) return null;
  const l = values[at - lo - 1]!, r = values[at - lo + 1]!, bend = l - 2 * best + r;
  return { shift: (at - margin + (bend < 0 ? (0.5 * (l - r)) / bend : 0)) * m.step, likeness: sign * best, gain: likenessAt(m, profile, at).gain };
}
