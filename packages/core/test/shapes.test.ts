/** Outlines, lines, pins and pairs of points. */
import { describe, expect, it } from 'vitest';
import { CoreError } from '../src/errors';
import { smoothOutline } from '../src/geometry/curve';
import { homographyFromPairs, mapPoint, quadToQuad } from '../src/geometry/homography';
import { meet, outwardsOf } from '../src/geometry/line';
import { IDENTITY, scaling, translation } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import { boundsOf, clipToRectangle, fillOutline, insidePolygon } from '../src/geometry/polygon';
import type { Quad } from '../src/geometry/quad';
import { CORNER_NAMES, assertPin, farthest, isConvex, shortestSide, signedArea } from '../src/geometry/quad';

describe('an outline', () => {
  const L: Point[] = [
    [0, 0],
    [10, 0],
    [10, 4],
    [4, 4],
    [4, 10],
    [0, 10],
  ];
  it('holds what lies in it, by the even-odd rule', () => {
    for (const p of [
      [1, 1],
      [9, 3],
      [3.9, 9],
    ] as Point[])
      expect(insidePolygon(p, L)).toBe(true);
    for (const p of [
      [5, 5],
      [-1, 2],
      [11, 2],
      [2, 10.5],
      [9, 4.5],
    ] as Point[])
      expect(insidePolygon(p, L)).toBe(false);
  });
  it('is filled where the middle of a pixel lies in it', () => {
    const [width, height, scale] = [9, 8, 1.7];
    const mask = new Uint8Array(width * height);
    fillOutline(mask, { x0: -2, y0: -1, width, height, scale }, L, 3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        expect(mask[y * width + x]).toBe(insidePolygon([(x - 2 + 0.5) * scale, (y - 1 + 0.5) * scale], L) ? 3 : 0);
    expect(mask.some((v) => v === 3)).toBe(true);
  });
  it('has bounds', () => {
    expect(
      boundsOf([
        [3, -1],
        [-2, 5],
        [0, 7],
      ]),
    ).toEqual({ x0: -2, y0: -1, x1: 3, y1: 7 });
  });
  it('is cut to a rectangle: nothing is left outside, and nothing inside is lost', () => {
    const box = { x0: 1, y0: 2, x1: 7, y1: 8 };
    const cut = clipToRectangle(L, box);
    for (let x = -1; x < 11; x += 0.37)
      for (let y = -1; y < 11; y += 0.37) {
        const isIn = x > box.x0 && x < box.x1 && y > box.y0 && y < box.y1 && insidePolygon([x, y], L);
        expect(insidePolygon([x, y], cut)).toBe(isIn);
      }
    expect(clipToRectangle(L, { x0: 20, y0: 0, x1: 30, y1: 10 })).toEqual([]);
    expect(clipToRectangle(L, { x0: -5, y0: -5, x1: 50, y1: 50 })).toEqual(L);
  });
  it('has an area with a sign: positive where it runs clockwise on the picture', () => {
    expect(signedArea(L)).toBe(64);
    expect(signedArea([...L].reverse())).toBe(-64);
  });
  it('that is curved passes through its points, turns at none of them, and stays near', () => {
    const points: Point[] = [
      [0, 0],
      [100, 10],
      [90, 80],
      [-20, 60],
    ];
    const curve = smoothOutline(points);
    for (const p of points) expect(Math.min(...curve.map((q) => distance(p, q)))).toBeLessThan(1e-6);
    const turn = (i: number): number => {
      const [a, b, c] = [-1, 0, 1].map((k) => curve[(i + k + curve.length) % curve.length]!) as [Point, Point, Point];
      const angle = Math.atan2(c[1] - b[1], c[0] - b[0]) - Math.atan2(b[1] - a[1], b[0] - a[0]);
      return Math.abs(Math.atan2(Math.sin(angle), Math.cos(angle)));
    };
    for (let i = 0; i < curve.length; i++) expect(turn(i)).toBeLessThan(0.6);
    const b = boundsOf(curve);
    expect(b.x1 - b.x0).toBeLessThan(150);
    expect(smoothOutline(points.slice(0, 2))).toEqual(points.slice(0, 2));
  });
  it('that is curved goes evenly round through the corners of a square', () => {
    const curve = smoothOutline([
      [1, 0],
      [0, 1],
      [-1, 0],
      [0, -1],
    ]);
    expect(curve).toHaveLength(40);
    for (const [x, y] of curve) {
      expect(Math.hypot(x, y)).toBeGreaterThan(0.85);
      expect(Math.hypot(x, y)).toBeLessThan(1.001);
      // A square that is turned by a quarter is the same, and so is its curve.
      expect(Math.min(...curve.map((q) => distance(q, [-y, x])))).toBeLessThan(1e-9);
    }
  });
});

describe('lines', () => {
  it('meet where both pass', () => {
    const p = meet({ a: [0, 0], b: [4, 2] }, { a: [0, 5], b: [5, 0] })!;
    expect(p[0]).toBeCloseTo(10 / 3, 12);
    expect(p[1]).toBeCloseTo(5 / 3, 12);
    expect(meet({ a: [1, 1], b: [1, 9] }, { a: [0, 3], b: [2, 3] })).toEqual([1, 3]);
  });
  it('that are parallel meet nowhere', () => {
    expect(meet({ a: [0, 0], b: [4, 2] }, { a: [0, 5], b: [8, 9] })).toBeNull();
    expect(meet({ a: [0, 0], b: [0, 0] }, { a: [0, 5], b: [8, 9] })).toBeNull();
  });
  it('around a quad point out of it, whichever way it runs', () => {
    expect(outwardsOf([0, 0], [10, 0], 1)).toEqual([0, -1]);
    expect(outwardsOf([10, 0], [10, 5], 1)).toEqual([1, -0]);
    expect(outwardsOf([0, 3], [4, 0], -1)).toEqual([0.6, 0.8]);
  });
});

describe('a pin', () => {
  const pin: Quad = [
    [0, 0],
    [30, 0],
    [30, 20],
    [0, 20],
  ];
  it('is told how far another one lies, and how short its sides are', () => {
    expect(
      farthest(pin, [
        [0, 0],
        [33, 4],
        [30, 20],
        [1, 20],
      ]),
    ).toBe(5);
    expect(shortestSide(pin)).toBe(20);
    expect(CORNER_NAMES.join()).toBe('TL,TR,BR,BL');
  });
  it.each([
    ['clockwise', 2, [12, 8], /BR.*inside/],
    ['clockwise', 0, [20, 14], /TL.*inside/],
    ['on a line', 1, [15, 10], /TR.*inside the other three or on a line/],
  ] as const)('with a corner pushed in (%s) is refused by name', (_, corner, at, message) => {
    const bad = pin.map((p, i) => (i === corner ? at : p)) as unknown as Quad;
    expect(isConvex(bad)).toBe(false);
    expect(() => assertPin(bad)).toThrow(message);
    const mirrored = [bad[1], bad[0], bad[3], bad[2]] as const;
    expect(isConvex(mirrored)).toBe(false);
    expect(() => assertPin(mirrored)).toThrow(CoreError);
  });
  it('that is mirrored is as good', () => {
    expect(isConvex([pin[1], pin[0], pin[3], pin[2]])).toBe(true);
    expect(signedArea([pin[1], pin[0], pin[3], pin[2]])).toBe(-600);
  });
});

describe('pairs of points', () => {
  it('are refused where they are too few, not as many, or on one line', () => {
    const line: Point[] = [
      [0, 0],
      [1, 1],
      [2, 2],
      [3, 3],
    ];
    const four: Point[] = [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ];
    expect(() => homographyFromPairs(four.slice(1), four.slice(1))).toThrow(/at least four pairs of points; 3 were/);
    expect(() => homographyFromPairs([...four, [2, 2]], four)).toThrow(CoreError);
    expect(() => homographyFromPairs(line, four)).toThrow(/one line/);
    expect(() => quadToQuad(line, four)).toThrow(/one line/);
  });
  it('are mapped by matrices that scale and shift', () => {
    expect(mapPoint(scaling(2, 3), [5, 7])).toEqual([10, 21]);
    expect(mapPoint(scaling(2), [5, 7])).toEqual([10, 14]);
    expect(mapPoint(translation(2, -3), [5, 7])).toEqual([7, 4]);
    expect(mapPoint(IDENTITY, [5, 7])).toEqual([5, 7]);
  });
});
