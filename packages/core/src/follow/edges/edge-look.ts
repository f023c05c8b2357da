/**
 * What lies across an edge, remembered as a profile of light, and where that look is found again: scaled as the view
 * is, smeared as the movement smears it, with gain, offset and the glass's own level free. A bezel's rim is a few px
 * wide; a detector of single steps finds each of its edges pulled by the others, and loses them when they smear into
 * one another.
 */
import { clamp } from '../../clamp';
import { LRUCache } from 'lru-cache';
import { CoreError } from '../../errors';
import type { Kernels } from '../../image/kernels';
import { LOOK_AT, MOST_LOOK, MOST_PLACES, MOST_TAPS, OUT_AT, TAPS_AT, kernels } from '../../image/kernels';

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
  /** whether the glass itself is on its inner side; a bezel keeps its level */
  readonly ofGlass: boolean;
}

/** px between the samples of a look. By trial. */
export const LOOK_STEP = 0.25;

/** A look made ready for one scale and smear. */
export interface Matcher {
  readonly scale: number;
  readonly smear: number;
  readonly step: number;
  /** taps to each side of the middle */
  readonly half: number;
  /**
   * whether light and dark may turn over across it: before glass, or where what lies behind the device makes the
   * contrast
   */
  readonly turns: boolean;
  /** first tap that counts, and how many do */
  readonly from: number;
  readonly taps: number;
  /**
   * `3*taps`: the look, and the two levels beside the mean that are free (zero where one is not); orthonormal, and
   * blind to a constant
   */
  readonly look: Float32Array;
  /** length of the look before it was normalised: gain = product / length */
  readonly length: number;
  /** how much of the glass's level, the first of the two, the look as it is remembered holds; null where it is not free */
  readonly glassLevel: number | null;
  /** length of the look before its levels were let free */
  readonly contrast: number;
}

/** Share of the look that must still be its own for its levels to be left free. By trial. */
const OWN = 0.35;

/** Share of a level that the levels before it must leave of it. By trial. */
const LEVEL_OF_ITS_OWN = 0.05;

/** Share of the way from the glass to the outside on which a bezel's own level is looked for. By trial. */
const BEZEL = 0.7;
/** px of that way below which there is none. By trial. */
const LEAST_BEZEL = 2;

/** Integral of a profile from its first tap, for means over any stretch; constant beyond its ends. */
function integral(profile: Float32Array): (x: number) => number {
  const sum = new Float64Array(profile.length);
  const middle = (profile.length - 1) / 2;
  const last = profile.length - 1;
  for (let i = 1; i <= last; i++) sum[i] = sum[i - 1]! + 0.5 * (profile[i - 1]! + profile[i]!);
  return (x) => {
    const t = x / LOOK_STEP + middle;
    if (t <= 0) return LOOK_STEP * t * profile[0]!;
    if (t >= last) return LOOK_STEP * (sum[last]! + (t - last) * profile[last]!);
    const i = Math.floor(t);
    const f = t - i;
    return LOOK_STEP * (sum[i]! + f * (profile[i]! + 0.5 * f * (profile[i + 1]! - profile[i]!)));
  };
}

function remove(v: Float32Array, unit: Float32Array): void {
  const s = dot(v, unit);
  for (let i = 0; i < v.length; i++) v[i]! -= s * unit[i]!;
}

function dot(a: Float32Array, b: Float32Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += a[i]! * b[i]!;
  return s;
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
 * What the glass makes of a look: how its light goes over into what lies beyond its edge, as soft as it is. Another light
 * of the glass is more or less of that. Null where nothing between the glass and the outside has a level of its own.
 */
function innerPart({ profile, glass, outside }: EdgeLook): Float32Array | null {
  const middle = (profile.length - 1) / 2;
  const at = (x: number): number => clamp(Math.round(x / LOOK_STEP + middle), 1, profile.length - 2);
  const [from, to] = [at(glass), at(glass + BEZEL * (outside - glass))];
  if (to - from < LEAST_BEZEL / LOOK_STEP) return null;
  const sign = profile[from + 1]! > profile[from - 1]! ? 1 : -1;
  let top = from;
  for (let i = from; i <= to; i++) if (sign * profile[i]! > sign * profile[top]!) top = i;
  return profile.map((v, i) => (i < top ? v - profile[top]! : 0));
}

/**
 * @param scale px of the frame per px of the reference, across the edge
 * @param smear px of the frame that the edge moves across itself while the shutter is open
 */
export function makeMatcher(l: EdgeLook, scale: number, smear: number): Matcher {
  const step = 0.5;
  const reach = Math.max(-l.lo, l.hi) * scale + smear / 2;
  const half = Math.max(5, Math.ceil(reach / step));
  const n = 2 * half + 1;
  const wide = Math.max(smear, step);
  const soft = Math.max(smear, 1.6);
  const one = new Float32Array(n);
  const window = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const x = (i - half) * step;
    window[i] = x >= l.lo * scale - smear / 2 - 0.5 && x <= l.hi * scale + smear / 2 + 0.5 ? 1 : 0;
    one[i] = window[i]!;
  }
  /** A profile of the reference as this scale and smear show it. */
  const seen = (profile: Float32Array): Float32Array => {
    const of = integral(profile);
    return window.map((w, i) => {
      const x = (i - half) * step;
      return w * (((of((x + wide / 2) / scale) - of((x - wide / 2) / scale)) * scale) / wide);
    });
  };
  const look = seen(l.profile);
  const beyond = (edge: number, side: 1 | -1): Float32Array =>
    window.map((w, i) => w * clamp(0.5 + (side * ((i - half) * step - edge * scale)) / soft, 0, 1));
  normalise(one);
  remove(look, one);
  const whole = length(look);
  const inner = innerPart(l);
  const glass = inner ? seen(inner) : beyond(l.glass, -1);
  const outside = beyond(l.outside, 1);
  for (const levels of [[glass, outside], l.ofGlass ? [glass] : [outside], l.ofGlass ? [outside] : [glass], []]) {
    const free = [one];
    for (const level of levels) {
      const unit = level.slice();
      for (const f of free) remove(unit, f);
      // Both sides of one and the same edge are one level, not two.
      if (normalise(unit) > LEVEL_OF_ITS_OWN * length(level)) free.push(unit);
    }
    const own = look.slice();
    for (const f of free) remove(own, f);
    if (length(own) > OWN * whole || levels.length === 0) {
      const norm = normalise(own);
      const first = window.indexOf(1);
      const taps = window.lastIndexOf(1) + 1 - first;
      const packed = new Float32Array(3 * taps);
      for (const [k, v] of [own, ...free.slice(1)].entries()) packed.set(v.subarray(first, first + taps), k * taps);
      return {
        scale,
        smear,
        step,
        half,
        turns: l.ofGlass || !levels.includes(outside),
        from: first,
        taps,
        look: packed,
        length: norm,
        contrast: whole,
        glassLevel: levels[0] === glass && free.length > 1 ? dot(look, free[1]!) : null,
      };
    }
  }
  throw new CoreError('invalid', 'An edge without a look.');
}

const MATCHERS = {
  /** Logarithm of scales that share a matcher: it is off by a hundredth at the most. By trial. */
  scale: 0.02,
  /** px of smear that share one. By trial. */
  smear: 0.25,
  /** Of a look that are kept. By trial. */
  kept: 64,
} as const;
const made = new WeakMap<EdgeLook, LRUCache<string, Matcher>>();

/** A matcher that is near enough to scale and smear ({@link makeMatcher}), the same one whatever was asked for before. */
export function matcherFor(look: EdgeLook, scale: number, smear: number): Matcher {
  const scaleStep = Math.round(Math.log(scale) / MATCHERS.scale);
  const smearStep = Math.round(smear / MATCHERS.smear);
  const own = made.get(look) ?? new LRUCache<string, Matcher>({ max: MATCHERS.kept });
  made.set(look, own);
  const key = `${scaleStep} ${smearStep}`;
  const before = own.get(key);
  if (before) return before;
  const matcher = makeMatcher(look, Math.exp(scaleStep * MATCHERS.scale), smearStep * MATCHERS.smear);
  own.set(key, matcher);
  return matcher;
}

export interface Match {
  /** px of the frame outwards from the profile's middle */
  readonly shift: number;
  /** correlation beside the free levels, -1 to 1 */
  readonly likeness: number;
  /** contrast against the remembered one */
  readonly gain: number;
}

/** Squared grey that counts as nothing; keeps flat profiles from looking like anything. By trial. */
const NOISE = 0.003;
/** What the kernels hold of a look at present. */
let held: Float32Array | null = null;

/** Sum, sum of squares and the products with the look and both levels, at each of `count` places; 5 entries a place. */
function productsOf(m: Matcher, profile: Float32Array, at: number, count: number, out: Float64Array): void {
  const { look, taps, from } = m;
  for (let k = 0; k < count; k++) {
    let sum = 0;
    let squares = 0;
    let along = 0;
    let a = 0;
    let b = 0;
    for (let i = 0, o = at + k + from; i < taps; i++) {
      const v = profile[o + i]!;
      sum += v;
      squares += v * v;
      along += v * look[i]!;
      a += v * look[taps + i]!;
      b += v * look[2 * taps + i]!;
    }
    out[5 * k] = sum;
    out[5 * k + 1] = squares;
    out[5 * k + 2] = along;
    out[5 * k + 3] = a;
    out[5 * k + 4] = b;
  }
}

function productsInKernels(
  k: Kernels,
  m: Matcher,
  profile: Float32Array,
  at: number,
  count: number,
  out: Float64Array,
): void {
  const { memory } = k;
  const taps = TAPS_AT / 4;
  const from = at + m.from;
  if (held !== m.look) memory.set((held = m.look), LOOK_AT / 4);
  for (let i = 0, n = m.taps + count - 1; i < n; i++) memory[taps + i] = profile[from + i]!;
  k.run.products(TAPS_AT, LOOK_AT, m.taps, count, OUT_AT);
  for (let i = 0, o = OUT_AT / 4; i < 5 * count; i++) out[i] = memory[o + i]!;
}

/**
 * Correlation and gain of the look at `count` places of `profile`, the first `at` taps from its own first.
 * @param out two entries a place: likeness beside the free levels, -1 to 1; contrast against the remembered one
 */
export function likenessesAt(m: Matcher, profile: Float32Array, at: number, count: number, out: Float64Array): void {
  const sums = new Float64Array(5 * count);
  const k = m.taps + count < MOST_TAPS && m.look.length < MOST_LOOK && count < MOST_PLACES ? kernels() : null;
  const noise = NOISE * (2 * m.half + 1);
  if (k) productsInKernels(k, m, profile, at, count, sums);
  else productsOf(m, profile, at, count, sums);
  for (let i = 0, s = 0; i < count; i++, s += 5) {
    const sum = sums[s]!;
    const along = sums[s + 2]!;
    const left = sums[s + 1]! - (sum * sum) / m.taps - sums[s + 3]! ** 2 - sums[s + 4]! ** 2;
    out[2 * i] = along / Math.sqrt(Math.max(left, 0) + noise);
    out[2 * i + 1] = along / m.length;
  }
}

/**
 * By how much the glass is brighter or darker in a profile than it is remembered, against the contrast of the look.
 * @param at taps from the profile's first to the matcher's
 * @returns null where the glass's level is not free
 */
export function glassChange(m: Matcher, profile: Float32Array, at: number): number | null {
  if (m.glassLevel === null) return null;
  let along = 0;
  let level = 0;
  for (let i = 0, o = at + m.from; i < m.taps; i++) {
    along += profile[o + i]! * m.look[i]!;
    level += profile[o + i]! * m.look[m.taps + i]!;
  }
  const gain = along / m.length;
  return gain === 0 ? null : (level / gain - m.glassLevel) / m.contrast;
}

/**
 * Where the look lies in `profile` (taps `m.step` apart), searched `reach` taps to each side of `centre` taps from the
 * middle; `margin` is how many taps the profile has to spare on each side of the matcher.
 * @returns null when the best place lies on the end of the search
 */
export function bestShift(
  m: Matcher,
  profile: Float32Array,
  margin: number,
  centre: number,
  reach: number,
  sign: 1 | -1 = 1,
): Match | null {
  const lo = Math.max(0, margin + centre - reach);
  const hi = Math.min(2 * margin, margin + centre + reach);
  const count = Math.max(0, hi - lo + 1);
  const values = new Float64Array(2 * count);
  if (count === 0) return null;
  likenessesAt(m, profile, lo, count, values);
  let best = 0;
  for (let k = 1; k < count; k++) if (sign * values[2 * k]! > sign * values[2 * best]!) best = k;
  if (best === 0 || best === count - 1) return null;
  const at = sign * values[2 * best]!;
  const l = sign * values[2 * best - 2]!;
  const r = sign * values[2 * best + 2]!;
  const bend = l - 2 * at + r;
  return {
    shift: (lo + best - margin + (bend < 0 ? (0.5 * (l - r)) / bend : 0)) * m.step,
    likeness: values[2 * best]!,
    gain: values[2 * best + 1]!,
  };
}
