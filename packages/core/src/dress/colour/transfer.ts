/**
 * Transfer functions between code values (0 black, 1 the top of the range) and scene-linear light (0 black, 1 diffuse
 * white). Values beyond both ends are carried on: display curves are mirrored at black, so that negatives survive.
 * Sources: IEC 61966-2-1:1999, equations 5 to 8 (sRGB); ITU-R BT.2020-2, table 4 (the curve of BT.709 with exact
 * constants); SMPTE ST 2084:2014 (PQ), with diffuse white at 203 cd/m2, and ITU-R BT.2100-2, table 5 (HLG), with
 * diffuse white at 75 % of the signal: both from ITU-R BT.2408-4, table 1; Academy S-2016-001 (ACEScct) and S-2014-003
 * (ACEScc).
 */
import { clamp } from '../../clamp';
export type Transfer = 'srgb' | 'bt709' | 'gamma22' | 'gamma24' | 'linear' | 'pq' | 'hlg' | 'acescct' | 'acescc';

interface Curve {
  /** light of a code value */
  readonly decode: (v: number) => number;
  /** code value of light */
  readonly encode: (l: number) => number;
}

/** A value of sRGB, 0 to 1, as light, 0 to 1. Source: IEC 61966-2-1. */
export function srgbToLinear(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

/** Light, 0 to 1, as a value of sRGB, 0 to 1. Source: IEC 61966-2-1. */
export function linearToSrgb(v: number): number {
  return v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055;
}

const mirrored =
  (f: (v: number) => number) =>
  (v: number): number =>
    v < 0 ? -f(-v) : f(v);
const power = (g: number): Curve => ({ decode: mirrored((v) => v ** g), encode: mirrored((l) => l ** (1 / g)) });

/** Of BT.2020's curve to the precision of 12 bits and beyond. Source: ITU-R BT.2020-2, table 4. */
const ALPHA = 1.09929682680944;
/** Of the same. */
const BETA = 0.018053968510807;
/** Of the perceptual quantiser. Source: SMPTE ST 2084, section 5. */
const M1 = 2610 / 16384;
/** Of the same. */
const M2 = (2523 / 4096) * 128;
/** Of the same. */
const C1 = 3424 / 4096;
/** Of the same. */
const C2 = (2413 / 4096) * 32;
/** Of the same. */
const C3 = (2392 / 4096) * 32;
/** cd/m2 of graphics white. Source: ITU-R BT.2408. */
const WHITE_NITS = 203;
/** cd/m2 at code value 1. Source: SMPTE ST 2084. */
const PEAK_NITS = 10000;
/** Of hybrid log-gamma. Source: ITU-R BT.2100-2, table 5. */
const HLG_A = 0.17883277;
const HLG_B = 1 - 4 * HLG_A;
const HLG_C = 0.5 - HLG_A * Math.log(4 * HLG_A);
const hlgScene = (v: number): number => (v <= 0.5 ? (v * v) / 3 : (Math.exp((v - HLG_C) / HLG_A) + HLG_B) / 12);
const HLG_WHITE = hlgScene(0.75);
/** Of ACEScct's linear part. Source: Academy S-2016-001. */
const CCT_SLOPE = 10.5402377416545;
/** Of the same. */
const CCT_OFFSET = 0.0729055341958355;
/** Code value at which its linear part ends. Source: the same. */
const CCT_CUT = 0.155251141552511;
const logOf = (l: number): number => (Math.log2(l) + 9.72) / 17.52;
const ofLog = (v: number): number => 2 ** (v * 17.52 - 9.72);

export const CURVES: Readonly<Record<Transfer, Curve>> = {
  srgb: { decode: mirrored(srgbToLinear), encode: mirrored(linearToSrgb) },
  bt709: {
    decode: mirrored((v) => (v < 4.5 * BETA ? v / 4.5 : ((v + ALPHA - 1) / ALPHA) ** (1 / 0.45))),
    encode: mirrored((l) => (l < BETA ? 4.5 * l : ALPHA * l ** 0.45 - (ALPHA - 1))),
  },
  gamma22: power(2.2),
  gamma24: power(2.4),
  linear: { decode: (v) => v, encode: (l) => l },
  pq: {
    decode: mirrored((v) => {
      const p = v ** (1 / M2);
      return ((Math.max(0, p - C1) / (C2 - C3 * p)) ** (1 / M1) * PEAK_NITS) / WHITE_NITS;
    }),
    encode: mirrored((l) => {
      const y = ((l * WHITE_NITS) / PEAK_NITS) ** M1;
      return ((C1 + C2 * y) / (1 + C3 * y)) ** M2;
    }),
  },
  hlg: {
    decode: mirrored((v) => hlgScene(v) / HLG_WHITE),
    encode: mirrored((l) =>
      l * HLG_WHITE <= 1 / 12 ? Math.sqrt(3 * l * HLG_WHITE) : HLG_A * Math.log(12 * l * HLG_WHITE - HLG_B) + HLG_C,
    ),
  },
  acescct: {
    decode: (v) => (v > CCT_CUT ? ofLog(v) : (v - CCT_OFFSET) / CCT_SLOPE),
    encode: (l) => (l > 0.0078125 ? logOf(l) : CCT_SLOPE * l + CCT_OFFSET),
  },
  acescc: {
    decode: (v) => (v < (9.72 - 15) / 17.52 ? (ofLog(v) - 2 ** -16) * 2 : ofLog(v)),
    encode: (l) => {
      if (l <= 0) return (-16 + 9.72) / 17.52;
      if (l < 2 ** -15) return (Math.log2(2 ** -16 + l / 2) + 9.72) / 17.52;
      return logOf(l);
    },
  },
};

/**
 * Curves made for pictures as a display shows them: a fill that is one shows in a plate that is one with the same code
 * values.
 */
const DISPLAY: readonly Transfer[] = ['srgb', 'bt709', 'gamma22', 'gamma24'];
/** Whether a curve is made for a display, so that white is the most that it shows. */
export function isDisplay(t: Transfer): boolean {
  return DISPLAY.includes(t);
}

/**
 * The curve by which a fill's code values become light beside a plate's. A display-referred fill in a display-referred
 * plate is read through the plate's own curve: what was drawn to look right on a display then keeps its code values.
 */
export function fillCurve(fill: Transfer, plate: Transfer): Transfer {
  return isDisplay(fill) && isDisplay(plate) ? plate : fill;
}

/**
 * The curve by which light is shown and judged where the plate's own is linear: keys, grain and display blends work on
 * values as they are seen.
 */
export function shownCurve(plate: Transfer): Transfer {
  return plate === 'linear' ? 'srgb' : plate;
}

/**
 * Decoding table for integer code values: `max + 1` entries, scene-linear. @param gamma of the fill's own levels, by
 * which its light is bent first
 */
export function decodingTable(max: number, transfer: Transfer = 'srgb', gamma = 1): Float32Array {
  const { decode } = CURVES[transfer];
  return Float32Array.from({ length: max + 1 }, (_, i) => {
    const l = decode(i / max);
    return gamma === 1 ? l : Math.max(0, l) ** (1 / gamma);
  });
}

/** Steps of an encoding table: one a level of 16 bits. */
export const ENCODING_STEPS = 65536;

/** The curve's inverse as a table over the square root of light, for {@link encode}; values in code units of `max`. */
export interface EncodingTable {
  readonly codes: Float32Array;
  /** light at the table's end */
  readonly top: number;
  readonly max: number;
}

/** A table from light to code values 0 to `max`, denser in the dark, where the eye and the curve are finer. */
export function encodingTable(max: number, transfer: Transfer = 'srgb'): EncodingTable {
  const curve = CURVES[transfer];
  const top = curve.decode(1);
  return {
    codes: Float32Array.from(
      { length: ENCODING_STEPS + 2 },
      (_, i) => clamp(curve.encode(top * (i / ENCODING_STEPS) ** 2), 0, 1) * max,
    ),
    top,
    max,
  };
}

/** Code value of light, clipped to the range, not rounded (error under 0.01 of an 8-bit step). */
export function encode({ codes, top, max }: EncodingTable, light: number): number {
  if (!(light > 0)) return codes[0]!;
  if (light >= top) return max;
  const x = Math.sqrt(light / top) * ENCODING_STEPS;
  const i = x | 0;
  return codes[i]! + (x - i) * (codes[i + 1]! - codes[i]!);
}

const TAGS: Readonly<Record<string, Transfer>> = {
  bt709: 'bt709',
  smpte170m: 'bt709',
  bt470bg: 'bt709',
  'bt2020-10': 'bt709',
  'bt2020-12': 'bt709',
  'iec61966-2-1': 'srgb',
  linear: 'linear',
  smpte2084: 'pq',
  'arib-std-b67': 'hlg',
  bt470m: 'gamma22',
  gamma22: 'gamma22',
  gamma24: 'gamma24',
  srgb: 'srgb',
  pq: 'pq',
  hlg: 'hlg',
  acescct: 'acescct',
  acescc: 'acescc',
};
/** Words for a curve: what files are tagged with, and short names for a person to type. */
export const TRANSFER_TAGS: readonly string[] = Object.keys(TAGS);

/**
 * The curve that a file's tag names; untagged files are taken for display pictures. @param set by hand, which goes
 * before the tag
 */
export function transferOf(tag: string | null, set: Transfer | 'auto' = 'auto'): Transfer {
  return set !== 'auto' ? set : (TAGS[tag ?? ''] ?? 'srgb');
}
