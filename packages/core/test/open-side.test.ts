/** Where a side that three others leave open may be: claims about built fits, px of a picture 1920 wide. */
import { describe, expect, it } from 'vitest';
import type { EdgeFit } from '../src/follow/edges/edge-solver';
import type { Rail } from '../src/follow/edges/rails';
import { onLines, placesOfOpenSide } from '../src/follow/frame/open-side';
import type { Quad } from '../src/geometry/quad';

const PICTURE = { width: 1920, height: 1080 };
const CORNERS: Quad = [
  [400, 200],
  [1400, 200],
  [1400, 800],
  [400, 800],
];
const SITES = 30;
const rails = [0, 1, 2, 3].map(
  (side) => ({ side, sites: Array.from({ length: SITES }, () => [0, 0]) }) as unknown as Rail,
);

/** A fit on whose sides so many sites lie on their lines. */
function fit(on: readonly number[]): EdgeFit {
  const hits = on.flatMap((n, rail) => Array.from({ length: SITES }, (_, i) => ({ rail, weight: i < n ? 1 : 0 })));
  return { hits, terms: { weight: Float64Array.from(hits, (h) => h.weight) } } as unknown as EdgeFit;
}
const places = (on: readonly number[], sigma = 20, corners = CORNERS): Quad[] =>
  placesOfOpenSide(fit(on), rails, { corners, sigma }, PICTURE);

describe('a side that three others leave open', () => {
  it('is looked for along them, on both sides of where it is thought to be, the nearest first', () => {
    const found = places([30, 2, 30, 25]);
    expect(found.length).toBeGreaterThan(10);
    for (const [tl, tr, br, bl] of found) {
      expect([tl, bl]).toEqual([CORNERS[0], CORNERS[3]]);
      expect(tr[1]).toBeCloseTo(200, 9);
      expect(br[1]).toBeCloseTo(800, 9);
      expect(tr[0]).toBeCloseTo(br[0], 9);
    }
    const off = found.map((q) => Math.abs(q[1][0] - 1400));
    expect(off).toEqual([...off].sort((a, b) => a - b));
    expect(off[0]).toBeCloseTo(16, 6);
    expect(new Set(found.map((q) => Math.sign(q[1][0] - 1400)))).toEqual(new Set([-1, 1]));
  });
  it('is not looked for where it would be outside the picture', () => {
    const atBorder = places([30, 0, 30, 30], 20, [
      [1000, 200],
      [1950, 200],
      [1950, 800],
      [1000, 800],
    ]);
    expect(atBorder.length).toBeGreaterThan(0);
    for (const q of atBorder) expect(q[1][0]).toBeLessThan(1920);
  });
  it.each([
    ['four sides hold', [30, 30, 30, 30], 20],
    ['two are open', [30, 0, 30, 0], 20],
    ['the open one is held a little', [30, 8, 30, 30], 20],
    ['the corners are known', [30, 0, 30, 30], 2],
  ])('is none where %s', (_, on, sigma) => {
    expect(places(on, sigma)).toEqual([]);
  });
  it('counts the edges that lie on lines', () => {
    expect(onLines(fit([30, 2, 5, 0]))).toBe(37);
  });
});
