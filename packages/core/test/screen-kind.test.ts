import { describe, expect, it } from 'vitest';
import type { Rgb } from '../src/dress/colour/levels';
import type { ScreenKind } from '../src/dress/holdout/screen-kind';
import { screenKind } from '../src/dress/holdout/screen-kind';
import { glassLight } from '../src/dress/light/glare';
import { CURVES } from '../src/dress/colour/transfer';
import { median } from '../src/statistics';

const COLUMNS = 24;
const ROWS = 14;
const MOMENTS = 16;

/** What a screen comes to whose cells show code values, 0 to 1, at each moment. */
function kindOf(code: (x: number, y: number, moment: number, channel: number) => number): ScreenKind {
  const moments = Array.from({ length: MOMENTS }, (_, n) =>
    Float32Array.from({ length: COLUMNS * ROWS * 3 }, (__, k) => {
      const cell = Math.floor(k / 3);
      return CURVES.srgb.decode(code((cell % COLUMNS) / COLUMNS, Math.floor(cell / COLUMNS) / ROWS, n, k % 3));
    }),
  );
  const channel = (c: number): number[] => moments.flatMap((m) => [...m].filter((_, k) => k % 3 === c));
  const colour = [0, 1, 2].map((c) => CURVES.srgb.encode(median(channel(c)))) as unknown as Rgb;
  return screenKind({ own: glassLight(moments, COLUMNS, ROWS), moments, colour, shown: CURVES.srgb.encode });
}

describe('an old screen', () => {
  it('of one strong colour is for keying, fingers or not', () => {
    expect(kindOf((x, _y, _n, c) => (x > 0.9 ? 0.5 : [0.2, 0.7, 0.3][c]!))).toBe('keyed');
  });
  it('that is off is dark glass, with a window that glides over half of it too', () => {
    expect(kindOf(() => 0.08)).toBe('dark');
    expect(kindOf((x, _y, n) => (Math.abs(x - n / MOMENTS) < 0.25 ? 0.33 : 0.06))).toBe('dark');
  });
  it('that shows dim colours is a picture, however dark it is', () => {
    const ribbon = [0.35, 0.1, 0.08];
    const hill = [0.18, 0.3, 0.15];
    const sky = [0.08, 0.22, 0.28];
    const film = (x: number, y: number): readonly number[] => {
      if (y > 0.85) return ribbon;
      return x < 0.3 ? hill : sky;
    };
    expect(kindOf((x, y, _n, c) => film(x, y)[c]!)).toBe('picture');
  });
  it('that lights up, or shows letters on paper, is a picture; an even grey light is plain', () => {
    expect(kindOf((_x, _y, n) => (n < 5 ? 0.08 : 0.8))).toBe('picture');
    expect(kindOf((x, y) => (Math.floor(x * 12) % 2 && Math.floor(y * 7) % 2 ? 0.6 : 0.9))).toBe('picture');
    expect(kindOf(() => 0.55)).toBe('plain');
  });
});
