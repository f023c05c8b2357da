import { describe, expect, it } from 'vitest';
import type { Quad } from '../src/geometry/quad';
import type { SmallFrames } from '../src/image/clip-offset';
import { fadeShare, loopRange } from '../src/image/loop-range';

const W = 32;
const H = 16;
/** A wave that comes round every `period` frames, with a drift of brightness per frame. */
function waving(count: number, period: number, drift: number): SmallFrames {
  const data = new Float32Array(count * W * H);
  for (let n = 0; n < count; n++)
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        data[(n * H + y) * W + x] = 120 + drift * n + 60 * Math.sin((2 * Math.PI * n) / period + x / 5 + y / 9);
  return { size: W * H, count, data };
}
const pinAt = (n: number, period: number): Quad => [
  [100 + 30 * Math.sin((2 * Math.PI * n) / period), 50],
  [300, 60],
  [290, 200],
  [95, 190],
];

describe('a loop', () => {
  it('ends a whole number of waves after it began, by a cut and by a dissolve', () => {
    for (const dissolve of [0, 6]) {
      const found = loopRange(waving(100, 24, 0), W, (n) => pinAt(n, 24), 1920, {
        from: 0,
        to: 99,
        dissolve,
        least: 40,
      })!;
      expect((found.to - found.from + 1) % 24).toBe(0);
      expect(found.levels).toBeLessThan(0.01);
      expect(found.px).toBeLessThan(0.01);
      expect(found.from).toBeGreaterThanOrEqual(dissolve);
      expect(found.to - found.from + 1).toBeGreaterThanOrEqual(40);
    }
  });
  it('goes by the plane where the picture hardly tells', () => {
    const found = loopRange(waving(100, 1e9, 0), W, (n) => pinAt(n, 30), 1920, {
      from: 0,
      to: 99,
      dissolve: 0,
      least: 20,
    })!;
    const apart = (found.to - found.from + 1) % 30;
    expect(Math.min(apart, 30 - apart)).toBeLessThanOrEqual(1);
  });
  it('is not found where the range is too short', () => {
    expect(loopRange(waving(20, 8, 0), W, () => null, 1920, { from: 0, to: 19, dissolve: 12, least: 15 })).toBeNull();
  });
  it('fades evenly, and neither to nothing nor to all', () => {
    expect([0, 1, 2].map((i) => fadeShare(i, 3))).toEqual([0.25, 0.5, 0.75]);
  });
});
