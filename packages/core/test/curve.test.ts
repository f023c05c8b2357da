import { describe, expect, it } from 'vitest';
import type { Outline } from '../src/follow/outline/outlines';
import { allShapes, polygonAt, polygonOf, shapeOn, withPoint, withoutPoint } from '../src/follow/outline/outlines';
import type { Handles } from '../src/geometry/curve';
import { NO_HANDLES, evenHandles, handledOutline, splitSide } from '../src/geometry/curve';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import { random } from './builders/scene';

const SQUARE: Point[] = [
  [0, 0],
  [100, 0],
  [100, 60],
  [0, 60],
];
/** Shoelace formula, common practice. */
const area = (l: readonly Point[]): number =>
  l.reduce((s, p, i) => s + p[0] * l[(i + 1) % l.length]![1] - l[(i + 1) % l.length]![0] * p[1], 0) / 2;

/** Points about a middle and handles thrown by dice. */
function thrown(seed: number): { points: Point[]; handles: Handles[] } {
  const dice = random(seed);
  const n = 3 + Math.floor(5 * dice());
  const points = Array.from({ length: n }, (_, i): Point => {
    const r = 40 + 40 * dice();
    return [r * Math.cos((2 * Math.PI * i) / n), r * Math.sin((2 * Math.PI * i) / n)];
  });
  return { points, handles: points.map((_, i) => (dice() < 0.3 ? NO_HANDLES : evenHandles(points, i))) };
}

describe('a curve led by handles', () => {
  it('of four quarters is a circle within 0.03 % of its radius', () => {
    // 4/3 (sqrt 2 - 1): the usual length of a quarter's handles. Value from memory.
    const k = (4 / 3) * (Math.SQRT2 - 1) * 50;
    const points: Point[] = [
      [50, 0],
      [0, 50],
      [-50, 0],
      [0, -50],
    ];
    const handles: Handles[] = [
      [0, -k, 0, k],
      [k, 0, -k, 0],
      [0, k, 0, -k],
      [-k, 0, k, 0],
    ];
    for (const p of handledOutline(points, handles)) expect(Math.abs(Math.hypot(...p) / 50 - 1)).toBeLessThan(3e-4);
  });

  it('is straight between corners, and curved beside them', () => {
    const bowed = SQUARE.map((_, i): Handles => (i === 0 ? [0, 20, 20, -30] : NO_HANDLES));
    const made = handledOutline(SQUARE, bowed);
    const each = made.length / 4;
    for (const [, y] of made.slice(2 * each, 3 * each)) expect(y).toBeCloseTo(60, 9);
    expect(Math.min(...made.slice(0, each).map((p) => p[1]))).toBeLessThan(-5);
  });

  it.each([1, 2, 3, 4, 5, 6])('keeps its shape when a point is put in (dice %i)', (seed) => {
    const { points, handles } = thrown(seed);
    const before = handledOutline(points, handles);
    for (let side = 0; side < points.length; side++) {
      const split = splitSide(points, handles, side);
      expect(split.points).toHaveLength(points.length + 1);
      const after = handledOutline(split.points, split.handles);
      // A finer polygon of the same curve holds more of its bow: up to a quarter of what the coarse one cuts off.
      expect(Math.abs(area(after) / area(before) - 1)).toBeLessThan(2e-3);
      for (const p of before) expect(Math.min(...after.map((q) => distance(p, q)))).toBeLessThan(6);
    }
  });

  it('passes a point of a regular outline at right angles to its radius', () => {
    const ring = Array.from({ length: 6 }, (_, i): Point => [Math.cos((i * Math.PI) / 3), Math.sin((i * Math.PI) / 3)]);
    ring.forEach((p, i) => {
      const [ix, iy, ox, oy] = evenHandles(ring, i);
      expect(ix * p[0] + iy * p[1]).toBeCloseTo(0, 12);
      expect(Math.hypot(ox, oy)).toBeCloseTo(1 / 3, 12);
    });
    expect(
      evenHandles(
        [
          [0, 0],
          [5, 5],
          [0, 0],
        ],
        1,
      ),
    ).toEqual(NO_HANDLES);
  });
});

describe('an outline over time', () => {
  const there = SQUARE.map(([x, y]): Point => [x + 10, y]);
  const led = SQUARE.map((): Handles => [-8, 0, 8, 0]);
  const outline: Outline = { points: SQUARE, handles: SQUARE.map(() => NO_HANDLES), soft: [0, 2, 4, 6] };
  const keyed: Outline = { ...outline, keys: [{ frame: 20, points: there, handles: led }] };

  it('changes its handles with its points', () => {
    const half = shapeOn(keyed, 15, 10);
    expect(half.points[0]).toEqual([5, 0]);
    expect(half.handles![0]).toEqual([-4, 0, 4, 0]);
    expect(polygonAt(keyed, 20, 10)).toEqual(handledOutline(there, led));
    expect(allShapes(keyed)).toHaveLength(2);
  });

  it('goes on from a key as that key says, else as the outline does', () => {
    const further = { frame: 30, points: SQUARE };
    const from = (ease: 'hold' | undefined): Outline => ({
      ...keyed,
      change: 'linear',
      keys: [{ ...keyed.keys![0]!, ...(ease ? { ease } : {}) }, further],
    });
    expect(shapeOn(from('hold'), 29, 10).points[0]).toEqual([10, 0]);
    expect(shapeOn(from(undefined), 25, 10).points[0]).toEqual([5, 0]);
  });

  it('keeps one softness and one handle a point when points come and go', () => {
    const more = withPoint(keyed, 3);
    expect(more.points.at(-1)).toEqual([0, 30]);
    expect(more.soft).toEqual([0, 2, 4, 6, 3]);
    expect([more.handles, more.keys![0]!.points, more.keys![0]!.handles].map((l) => l!.length)).toEqual([5, 5, 5]);
    const less = withoutPoint(more, 4);
    expect(less.points).toEqual(SQUARE);
    expect(less.soft).toEqual([0, 2, 4, 6]);
    expect(less.keys![0]!.handles).toHaveLength(4);
    const three = withoutPoint(less, 0);
    expect(withoutPoint(three, 0)).toBe(three);
  });

  it('without handles stays as it was: straight, or a curve through its points', () => {
    expect(polygonOf({ points: SQUARE }, { points: SQUARE })).toBe(SQUARE);
    expect(withPoint({ points: SQUARE }, 0)).toEqual({ points: [[0, 0], [50, 0], ...SQUARE.slice(1)] });
  });
});
