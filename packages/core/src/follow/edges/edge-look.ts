/**
 * What lies across an edge, remembered as a profile of light, and where that look is found again: scaled as the view
 * is, smeared as the movement smears it, with gain, offset and the glass's own level free. A bezel's rim is a few px
 * wide; a detector of single steps finds each of its edges pulled by the others, and loses them when they smear into
 * one another.
 */
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
