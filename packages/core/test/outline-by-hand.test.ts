import { describe, expect, it } from 'vitest';
import {
  carriedShape,
  frameOf,
  isCurvedAt,
  ledByHandles,
  movedShape,
  reachOfShape,
  scaledShape,
  turnBetween,
  turnedShape,
  withCurveAt,
  withCurves,
  withHandleAt,
  withPointAt,
  withShapeOn,
} from '../src/dress/shape/outline-by-hand';
import { SCALE_GRIPS } from '../src/dress/shape/place-by-hand';
import type { Outline, Shape } from '../src/follow/outline/outlines';
import { polygonOf } from '../src/follow/outline/outlines';
import { evenHandles } from '../src/geometry/curve';
import { inverse } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import { random } from './builders/scene';

/** Points and handles thrown by dice. */
function thrown(seed: number): Shape & { readonly handles: NonNullable<Shape['handles']> } {
  const dice = random(seed);
  const points = Array.from({ length: 3 + Math.floor(6 * dice()) }, (): Point => [300 * dice(), 200 * dice()]);
  return { points, handles: points.map((_, i) => evenHandles(points, i)) };
}
const near = (a: Point, b: Point): void => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 8));
const at = (s: Shape, [u, v]: Point): Point => {
  const b = frameOf(s);
  return [b.x0 + u * (b.x1 - b.x0), b.y0 + v * (b.y1 - b.y0)];
};

describe.each([1, 2, 3, 4, 5])('a shape thrown by dice (%i)', (seed) => {
  const shape = thrown(seed);

  it('is scaled so that a grip follows the pointer and what is opposite stays', () => {
    for (const grip of SCALE_GRIPS) {
      const opposite: Point = [1 - grip[0], 1 - grip[1]];
      const by: Point = [grip[0] === 0.5 ? 0 : 7, grip[1] === 0.5 ? 0 : -4];
      const made = scaledShape(shape, grip, by, { apart: true });
      near(at(made, grip), [at(shape, grip)[0] + by[0], at(shape, grip)[1] + by[1]]);
      near(at(made, opposite), at(shape, opposite));
    }
    const together = scaledShape(shape, [1, 1], [12, 0]);
    const [a, b] = [frameOf(shape), frameOf(together)];
    expect((b.x1 - b.x0) / (a.x1 - a.x0)).toBeCloseTo((b.y1 - b.y0) / (a.y1 - a.y0), 9);
    near(at(scaledShape(shape, [1, 0.5], [9, 5], { aboutMiddle: true }), [0.5, 0.5]), at(shape, [0.5, 0.5]));
  });

  it('keeps its curve when it is moved, turned and scaled', () => {
    const outline: Outline = shape;
    const before = polygonOf(outline, shape);
    const after = polygonOf(outline, movedShape(shape, [5, -3]));
    after.forEach((p, i) => near(p, [before[i]![0] + 5, before[i]![1] - 3]));
    const back = turnedShape(turnedShape(shape, 40), 0);
    expect(polygonOf(outline, back)).toHaveLength(before.length);
    const middle = at(shape, [0.5, 0.5]);
    const quarter = polygonOf(outline, turnedShape(shape, 90));
    quarter.forEach((p, i) =>
      near(p, [middle[0] - (before[i]![1] - middle[1]), middle[1] + (before[i]![0] - middle[0])]),
    );
  });

  it('turns by the angle that the pointer goes round its middle', () => {
    const [x, y] = at(shape, [0.5, 0.5]);
    expect(turnBetween(shape, [x + 10, y], [x, y + 50])).toBeCloseTo(90, 9);
    expect(turnBetween(shape, [x + 10, y], [x + 10, y + 2.2], { apart: true })).toBe(15);
    expect(reachOfShape(shape)).toBeGreaterThan(0);
  });

  it('has a handle where the pointer is, and the other one in line with it', () => {
    const [x, y] = shape.points[1]!;
    const made = withHandleAt(shape, 1, 'after', [x + 30, y + 40]);
    const [ix, iy, ox, oy] = made.handles![1]!;
    near([ox, oy], [30, 40]);
    expect(ix * oy - iy * ox).toBeCloseTo(0, 6);
    expect(Math.hypot(ix, iy)).toBeCloseTo(Math.hypot(...shape.handles[1]!.slice(0, 2)), 9);
    expect(withHandleAt(shape, 1, 'before', [x, y - 8], true).handles![1]!.slice(2)).toEqual(
      shape.handles[1]!.slice(2),
    );
    expect(isCurvedAt(withHandleAt(shape, 1, 'before', [x, y]), 1)).toBe(false);
  });
});

describe('points', () => {
  const points: Point[] = [
    [0, 0],
    [80, 0],
    [80, 60],
    [0, 60],
  ];

  it('are corners or curves one by one, in every shape', () => {
    const keyed: Outline = { points, keys: [{ frame: 9, points: points.map(([x, y]): Point => [x + 5, y]) }] };
    const mixed = withCurveAt(keyed, 2, true);
    expect([0, 1, 2, 3].map((i) => isCurvedAt(mixed, i))).toEqual([false, false, true, false]);
    expect(isCurvedAt(mixed.keys![0]!, 2)).toBe(true);
    expect(isCurvedAt(withCurveAt(mixed, 2, false), 2)).toBe(false);
  });

  it('of what was a curve through them become curves with handles', () => {
    expect(ledByHandles<Outline>({ points, smooth: true }).handles!.every((h) => h.some((v) => v !== 0))).toBe(true);
    expect(ledByHandles<Outline>({ points, smooth: true }).smooth).toBeUndefined();
    expect(
      ledByHandles<Outline>({ points })
        .handles!.flat()
        .every((v) => v === 0),
    ).toBe(true);
    const own = withCurves<Outline>({ points }, true);
    expect(ledByHandles(own)).toBe(own);
  });

  it('that are moved take their handles along', () => {
    const own = withCurves<Outline>({ points }, true);
    const made = withPointAt(own, 0, [9, 9]);
    expect(made.points[0]).toEqual([9, 9]);
    expect(made.handles).toEqual(own.handles);
    expect(withPointAt({ points }, 0, [9, 9]).handles).toBeUndefined();
  });
});

describe('a shape on a frame', () => {
  const points: Point[] = [
    [0, 0],
    [8, 0],
    [8, 6],
  ];
  const other = points.map(([x, y]): Point => [x + 1, y]);

  it("is the outline's own on the reference frame, else a key in its place", () => {
    const outline: Outline = { points, keys: [{ frame: 20, points, ease: 'hold' }] };
    expect(withShapeOn(outline, 5, 5, { points: other })).toEqual({ points: other });
    expect(withShapeOn(outline, 12, 5, { points: other })).toEqual({
      keys: [{ frame: 12, points: other }, outline.keys![0]],
    });
    expect(withShapeOn(outline, 20, 5, { points: other })).toEqual({
      keys: [{ frame: 20, points: other, ease: 'hold' }],
    });
  });
});

describe('a shape carried by a homography', () => {
  const m = [1.1, 0.2, 5, -0.1, 0.9, 3, 0.0004, -0.0003, 1];

  it('comes back by the inverse, handles and all', () => {
    const shape = thrown(9);
    const back = carriedShape(carriedShape(shape, m), inverse(m));
    back.points.forEach((p, i) => near(p, shape.points[i]!));
    back.handles!.forEach((h, i) => h.forEach((v, k) => expect(v).toBeCloseTo(shape.handles[i]![k]!, 7)));
    expect(carriedShape({ points: shape.points }, m).handles).toBeUndefined();
  });
});
