/**
 * What can be drawn over the frames of a track: corner paths, their speed and acceleration, slip, trust, sigma, blur.
 */
import type { Quad } from '@yarlop/core/geometry/quad';
import type { SlipFrame } from '@yarlop/core/proof/ranking';
import type { SolvedFrame } from '../types';

export const CURVES = ['slip', 'path', 'speed', 'acceleration', 'trust', 'sigma', 'blur'] as const;
export type CurveKind = (typeof CURVES)[number];

/** What is drawn upwards. */
export const UNITS: Readonly<Record<CurveKind, string>> = {
  slip: 'slip, px at 1920 wide',
  path: 'place, px',
  speed: 'px a frame, at 1920 wide',
  acceleration: 'change of speed, px a frame squared, at 1920 wide',
  trust: 'trust, 0 to 1',
  sigma: 'sigma, px at 1920 wide',
  blur: 'blur while the shutter is open, px at 1920 wide',
};

export interface Series {
  readonly name: string;
  /** per frame from the first; null where nothing is known */
  readonly values: readonly (number | null)[];
}

export interface CurveInput {
  readonly from: number;
  readonly count: number;
  readonly corners: (frame: number) => Quad | null;
  readonly solved: (frame: number) => SolvedFrame | undefined;
  readonly slips: ReadonlyMap<number, SlipFrame>;
  /** px to px of a picture 1920 wide */
  readonly scale: number;
}

const NAMES = ['TL', 'TR', 'BR', 'BL'];

export function seriesOf(kind: CurveKind, { from, count, corners, solved, slips, scale }: CurveInput): Series[] {
  const frames = Array.from({ length: count }, (_, i) => from + i);
  const each = (name: (i: number) => string, value: (n: number, c: number) => number | null): Series[] =>
    NAMES.map((_, c) => ({ name: name(c), values: frames.map((n) => value(n, c)) }));
  const at = (n: number, c: number): readonly [number, number] | null => corners(n)?.[c] ?? null;
  switch (kind) {
    case 'slip':
      return each(
        (c) => NAMES[c]!,
        (n, c) => {
          const by = slips.get(n)?.by[c];
          return by ? Math.hypot(...by) * scale : null;
        },
      );
    case 'path':
      return ([0, 1] as const).flatMap((axis) =>
        each(
          (c) => `${NAMES[c]} ${axis ? 'y' : 'x'}`,
          (n, c) => at(n, c)?.[axis] ?? null,
        ),
      );
    case 'speed':
      return each(
        (c) => NAMES[c]!,
        (n, c) => {
          const [a, b] = [at(n - 1, c), at(n + 1, c)];
          return a && b ? (Math.hypot(b[0] - a[0], b[1] - a[1]) / 2) * scale : null;
        },
      );
    case 'acceleration':
      return each(
        (c) => NAMES[c]!,
        (n, c) => {
          const [a, m, b] = [at(n - 1, c), at(n, c), at(n + 1, c)];
          return a && m && b ? Math.hypot(a[0] - 2 * m[0] + b[0], a[1] - 2 * m[1] + b[1]) * scale : null;
        },
      );
    case 'trust':
      return [{ name: 'trust', values: frames.map((n) => solved(n)?.trust ?? null) }];
    case 'sigma':
      return each(
        (c) => NAMES[c]!,
        (n, c) => {
          const s = solved(n)?.sigma[c];
          return s === undefined ? null : s * scale;
        },
      );
    case 'blur':
      return [{ name: 'blur', values: frames.map((n) => (solved(n)?.blur ?? NaN) * scale || null) }];
  }
}
