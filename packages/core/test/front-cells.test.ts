/** Masks of cells, and even surfaces under what covers them. */
import { describe, expect, it } from 'vitest';
import { hash01 } from '../src/dress/base/hash';
import { CellField } from '../src/dress/front/cell-field';
import { maskOf, maskText } from '../src/dress/front/cell-mask';
import { evenSurface } from '../src/dress/front/even-surface';

describe('cells', () => {
  it('writes masks as runs and reads them back', () => {
    for (let seed = 0; seed < 40; seed++) {
      const mask = Uint8Array.from({ length: 97 }, (_, i) => (hash01(i >> 2, seed) > 0.6 ? 1 : 0));
      expect(maskOf(maskText(mask), 97)).toEqual(mask);
    }
    expect(maskText(new Uint8Array(5))).toBe('');
    expect(maskText(Uint8Array.of(1, 0, 1))).toBe('0 1 1 1');
    expect(maskOf('0 99', 3)).toEqual(Uint8Array.of(1, 1, 1));
  });

  const field = new CellField({ columns: 6, rows: 4, ring: 1 });
  const at = (x: number, y: number): number => y * field.width + x;
  const square = new Uint8Array(field.count);
  for (let y = 1; y < 5; y++) for (let x = 1; x < 6; x++) square[at(x, y)] = 1;

  it('tells pieces, depth and shares', () => {
    const two = new Uint8Array(field.count);
    for (const k of [at(0, 0), at(1, 1), at(5, 4)]) two[k] = 1;
    expect(field.pieces(two).map((p) => p.length)).toEqual([2, 1]);
    const depth = field.depth(square, 4);
    expect([depth[at(1, 1)], depth[at(2, 2)], depth[at(0, 0)], depth[at(3, 2)]]).toEqual([1, 2, 0, 2]);
    expect(field.share(square)).toBeCloseTo(20 / 24, 9);
  });

  it('closes small holes alone', () => {
    const open = square.slice();
    open[at(3, 2)] = 0;
    expect(field.closed(open, 1)).toEqual(square);
    expect(field.closed(open, 0)).toEqual(open);
    expect(field.closed(new Uint8Array(field.count), 99)).toEqual(new Uint8Array(field.count));
  });

  it('lays a smooth surface through most values, and through no crumpled ones', () => {
    const places = Array.from({ length: 200 }, (_, i) => [(i % 20) / 20, Math.floor(i / 20) / 10] as const);
    const smooth = places.map(([s, t]) => 20 + 6 * s - 4 * t + 3 * s * t);
    const covered = smooth.map((v, i) => (i % 20 < 5 ? 120 : v));
    const surface = evenSurface(places, covered)!;
    for (const [i, v] of smooth.entries()) expect(surface.values[i]).toBeCloseTo(v, 1);
    expect(
      evenSurface(
        places,
        places.map((_, i) => 60 * hash01(i, 1)),
      ),
    ).toBeNull();
    expect(
      evenSurface(
        places.map(() => [0, 0] as const),
        smooth,
      ),
    ).toBeNull();
  });
});
