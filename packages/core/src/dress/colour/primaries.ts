/**
 * RGB primaries and white points, and the matrix that takes scene-linear light from one set to another, with the white
 * point adapted by the Bradford transform. Sources: ITU-R BT.709-6, BT.601-7, BT.2020-2; SMPTE EG 432-1 (P3 with D65)
 * and RP 431-2 (P3 with its own white); SMPTE ST 2065-1 (AP0) and Academy S-2014-004 (AP1); the matrix from
 * chromaticities after SMPTE RP 177; Bradford after ICC.1:2022, annex E.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, inverse, multiply } from '../../geometry/matrix3';

export type Primaries = 'bt709' | 'bt2020' | 'p3' | 'p3-dci' | 'bt601-625' | 'bt601-525' | 'ap0' | 'ap1';

type Xy = readonly [number, number];
interface Chromaticities {
  readonly red: Xy;
  readonly green: Xy;
  readonly blue: Xy;
  readonly white: Xy;
}

/** Chromaticity of D65. Source: ITU-R BT.709-6, table 1. */
const D65: Xy = [0.3127, 0.329];
/** Chromaticity of the white of the Academy's encodings. Source: SMPTE ST 2065-1. */
const ACES_WHITE: Xy = [0.32168, 0.33767];
const P3 = { red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06] } as const;

export const CHROMATICITIES: Readonly<Record<Primaries, Chromaticities>> = {
  bt709: { red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06], white: D65 },
  bt2020: { red: [0.708, 0.292], green: [0.17, 0.797], blue: [0.131, 0.046], white: D65 },
  p3: { ...P3, white: D65 },
  'p3-dci': { ...P3, white: [0.314, 0.351] },
  'bt601-625': { red: [0.64, 0.33], green: [0.29, 0.6], blue: [0.15, 0.06], white: D65 },
  'bt601-525': { red: [0.63, 0.34], green: [0.31, 0.595], blue: [0.155, 0.07], white: D65 },
  ap0: { red: [0.7347, 0.2653], green: [0, 1], blue: [0.0001, -0.077], white: ACES_WHITE },
  ap1: { red: [0.713, 0.293], green: [0.165, 0.83], blue: [0.128, 0.044], white: ACES_WHITE },
};

const xyzOf = ([x, y]: Xy): readonly [number, number, number] => [x / y, 1, (1 - x - y) / y];
const times = (m: Matrix3, v: readonly number[]): number[] =>
  [0, 3, 6].map((r) => m[r]! * v[0]! + m[r + 1]! * v[1]! + m[r + 2]! * v[2]!);

/** Light of these primaries to CIE XYZ relative to their own white. */
export function toXyz(p: Primaries): number[] {
  const { red, green, blue, white } = CHROMATICITIES[p];
  const [r, g, b] = [red, green, blue].map(xyzOf) as unknown as [number[], number[], number[]];
  const columns = [r[0]!, g[0]!, b[0]!, r[1]!, g[1]!, b[1]!, r[2]!, g[2]!, b[2]!];
  const strength = times(inverse(columns), xyzOf(white));
  return columns.map((v, i) => v * strength[i % 3]!);
}

/** The Bradford matrix. Source: ICC.1:2010, annex E. */
const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

function adapted(from: Xy, to: Xy): Matrix3 {
  const a = times(BRADFORD, xyzOf(from));
  const b = times(BRADFORD, xyzOf(to));
  return multiply(
    inverse(BRADFORD),
    multiply([b[0]! / a[0]!, 0, 0, 0, b[1]! / a[1]!, 0, 0, 0, b[2]! / a[2]!], BRADFORD),
  );
}

/**
 * Scene-linear RGB of `from` to that of `to`; the identity itself where they are the same. Colours that `to` cannot
 * show come out negative, and are kept so.
 */
export function primariesMatrix(from: Primaries, to: Primaries): Matrix3 {
  if (from === to) return IDENTITY;
  return multiply(
    inverse(toXyz(to)),
    multiply(adapted(CHROMATICITIES[from].white, CHROMATICITIES[to].white), toXyz(from)),
  );
}

const TAGS: Readonly<Record<string, Primaries>> = {
  bt709: 'bt709',
  bt2020: 'bt2020',
  smpte432: 'p3',
  smpte431: 'p3-dci',
  bt470bg: 'bt601-625',
  smpte170m: 'bt601-525',
  smpte240m: 'bt601-525',
  p3: 'p3',
  ap0: 'ap0',
  ap1: 'ap1',
};
/** Words for primaries: what files are tagged with, and short names for a person to type. */
export const PRIMARIES_TAGS: readonly string[] = Object.keys(TAGS);

/**
 * The primaries that a file's tag names; untagged files are taken for Rec.709, which sRGB shares. @param set by hand,
 * which goes before the tag
 */
export function primariesOf(tag: string | null, set: Primaries | 'auto' = 'auto'): Primaries {
  return set !== 'auto' ? set : (TAGS[tag ?? ''] ?? 'bt709');
}
