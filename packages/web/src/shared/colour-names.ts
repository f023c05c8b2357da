/** Curves and primaries as menus call them. */
const CURVES = {
  auto: 'as tagged',
  srgb: 'sRGB',
  bt709: 'Rec.709',
  gamma22: 'gamma 2.2',
  gamma24: 'gamma 2.4',
  linear: 'linear',
  pq: 'PQ',
  hlg: 'HLG',
  acescct: 'ACEScct',
  acescc: 'ACEScc',
} as const;

const PRIMARIES = {
  auto: 'as tagged',
  bt709: 'Rec.709, sRGB',
  bt2020: 'Rec.2020',
  p3: 'P3, D65',
  'p3-dci': 'P3, own white',
  'bt601-625': 'Rec.601, 625 lines',
  'bt601-525': 'Rec.601, 525 lines',
  ap0: 'AP0',
  ap1: 'AP1',
} as const;

interface Choice {
  readonly value: string;
  readonly text: string;
}

/** Choices of a menu, in the order of the values. */
export function curveChoices(...values: readonly (keyof typeof CURVES)[]): Choice[] {
  return values.map((value) => ({ value, text: CURVES[value] }));
}

/** The same of primaries. */
export function primariesChoices(...values: readonly (keyof typeof PRIMARIES)[]): Choice[] {
  return values.map((value) => ({ value, text: PRIMARIES[value] }));
}
