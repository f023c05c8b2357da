/** The small parts that everything else is built of: systems of equations, outlines, poses, what is known of corners. */
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { CoreError } from '../src/errors';
import { cornerInformation, cornerSigmas, everywhere, inAll, withFloor } from '../src/geometry/corner-information';
import { smoothOutline } from '../src/geometry/curve';
import { homographyFromPairs, mapPoint, quadToQuad } from '../src/geometry/homography';
import type { Lens } from '../src/geometry/lens';
import { bowAt, distort, idealBounds, undistort } from '../src/geometry/lens';
import { meet, outwardsOf } from '../src/geometry/line';
import {
  cholesky,
  choleskySolve,
  fromTriangle,
  invertSymmetric,
  product,
  solveBanded,
  solveLinear,
  triangle,
} from '../src/geometry/linear-algebra';
import { IDENTITY, scaling, translation } from '../src/geometry/matrix3';
import { MOTIONS, degreesOfFreedom, extend, motionTold, restrict, tighter, warpMatrix } from '../src/geometry/motion';
import {
  addCorners,
  addScalar,
  noEquations,
  pointJacobian,
  solveStep,
  stepped,
} from '../src/geometry/motion-equations';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import { boundsOf, clipToRectangle, fillOutline, insidePolygon } from '../src/geometry/polygon';
import type { Camera, Pose } from '../src/geometry/pose';
import { focalFromViews, poseOf, projectCorners, projectPoint, rotationBy, vectorOf } from '../src/geometry/pose';
import type { Quad } from '../src/geometry/quad';
import { CORNER_NAMES, assertPin, farthest, isConvex, shortestSide, signedArea } from '../src/geometry/quad';
import type { OpenCv } from './builders/opencv';
import { openCv } from './builders/opencv';

const number = fc.double({ min: -10, max: 10, noNaN: true });
const square = (n: number) => fc.array(number, { minLength: n * n, maxLength: n * n });

/** `M'M + I`, which is symmetric and positive definite whatever M is. */
function definite(m: readonly number[], n: number): Float64Array {
  const a = Float64Array.from(m);
  const turned = a.map((_, i) => a[(i % n) * n + Math.floor(i / n)]!);
  const out = product(turned, a, n);
  for (let i = 0; i < n; i++) out[i * n + i]! += 1;
  return out;
}

function times(a: Float64Array, x: Float64Array): number[] {
  const n = x.length;
  return Array.from(x, (_, r) => x.reduce((s, v, c) => s + a[r * n + c]! * v, 0));
}

function nearTo(a: ArrayLike<number>, b: ArrayLike<number>, off = 1e-6): void {
  expect(a.length).toBe(b.length);
  for (let i = 0; i < a.length; i++) expect(Math.abs(a[i]! - b[i]!)).toBeLessThan(off * (1 + Math.abs(b[i]!)));
}

describe('a system of equations', () => {
  const N = 4;
  const right = fc.array(number, { minLength: N, maxLength: N });

  it('that is symmetric is solved by its Cholesky factor', () => {
    fc.assert(
      fc.property(square(N), right, (m, b) => {
        const a = definite(m, N);
        const l = a.slice();
        const x = Float64Array.from(b);
        expect(cholesky(l, N)).toBe(true);
        choleskySolve(l, N, x);
        nearTo(times(a, x), b);
      }),
    );
  });
  it('that is not positive definite has no such factor', () => {
    expect(cholesky(Float64Array.from([1, 2, 2, 1]), 2)).toBe(false);
    expect(cholesky(Float64Array.from([0, 0, 0, 1]), 2)).toBe(false);
    expect(invertSymmetric(Float64Array.from([1, 2, 2, 1]), 2)).toBeNull();
  });
  it('of any kind is solved by elimination, also where the first pivot is zero', () => {
    nearTo(solveLinear(Float64Array.from([0, 2, 3, 0]), Float64Array.from([4, 9]))!, [3, 2]);
    fc.assert(
      fc.property(square(N), right, (m, b) => {
        const a = definite(m, N);
        nearTo(times(a, solveLinear(a.slice(), Float64Array.from(b))!), b);
      }),
    );
  });
  it('whose rows depend on each other is refused', () => {
    expect(solveLinear(Float64Array.from([1, 2, 2, 4]), Float64Array.from([1, 2]))).toBeNull();
  });
  it('has an inverse that undoes it', () => {
    fc.assert(
      fc.property(square(N), (m) => {
        const a = definite(m, N);
        const one = product(a, invertSymmetric(a, N)!, N);
        for (let i = 0; i < N * N; i++) expect(one[i]).toBeCloseTo(i % (N + 1) === 0 ? 1 : 0, 6);
      }),
    );
  });
  it('with a band is solved like the whole of it', () => {
    fc.assert(
      fc.property(
        fc.array(number, { minLength: 6, maxLength: 6 }),
        fc.array(number, { minLength: 6, maxLength: 6 }),
        (v, b) => {
          const [n, band] = [6, 2];
          const diagonals = new Float64Array(n * (band + 1));
          const whole = new Float64Array(n * n);
          for (let i = 0; i < n; i++)
            for (let k = 0; k <= band && i + k < n; k++) {
              const value = k === 0 ? 45 + v[i]! : v[i]! / k;
              diagonals[i * (band + 1) + k] = value;
              whole[i * n + i + k] = whole[(i + k) * n + i] = value;
            }
          const x = Float64Array.from(b);
          solveBanded(diagonals, x, n, band);
          nearTo(times(whole, x), b);
        },
      ),
    );
  });
  it('multiplies row by column', () => {
    const [a, b] = [Float64Array.from([1, 2, 3, 4]), Float64Array.from([5, 6, 7, 8])];
    expect([...product(a, b, 2)]).toEqual([19, 22, 43, 50]);
  });
  it('keeps its upper triangle, from which the whole comes back', () => {
    const m = definite(
      Array.from({ length: 64 }, (_, i) => Math.sin(i)),
      8,
    );
    expect(triangle(m)).toHaveLength(36);
    expect(triangle(m).slice(0, 9)).toEqual([...m.subarray(0, 8), m[9]]);
    expect([...fromTriangle(triangle(m))]).toEqual([...m]);
  });
});

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
    fillOutline(mask, width, height, L, -2, -1, scale, 3);
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

describe('a lens', () => {
  const lens = (radial: number): Lens => ({ radial, width: 1920, height: 1080 });
  const terms = fc.double({ min: -0.3, max: 0.3, noNaN: true });
  it('moves a point outwards from the middle by its term times the cube of its distance, in half widths', () => {
    expect(distort(lens(0.1), [1920, 540])).toEqual([1920 + 96, 540]);
    expect(distort(lens(-0.2), [960, 540 + 480])).toEqual([960, 540 + 480 - 0.2 * 0.25 * 480]);
    expect(distort(lens(0.1), [960, 540])).toEqual([960, 540]);
  });
  it('is undone', () => {
    fc.assert(
      fc.property(
        terms,
        fc.double({ min: 0, max: 1920, noNaN: true }),
        fc.double({ min: 0, max: 1080, noNaN: true }),
        (k, x, y) => {
          const there = distort(lens(k), [x, y]);
          // Beyond a barrel's fold two places show as one.
          const r = Math.hypot(x - 960, y - 540) / 960;
          fc.pre(k >= 0 || 3 * -k * r * r < 0.9);
          expect(distance(undistort(lens(k), there), [x, y])).toBeLessThan(1e-6);
        },
      ),
    );
    expect(undistort(lens(0), [3, 4])).toEqual([3, 4]);
    expect(undistort(lens(-0.1), [960, 540])).toEqual([960, 540]);
  });
  it('stops at its fold', () => {
    const far = undistort(lens(-0.3), [6000, 540]);
    expect(far[0]).toBeCloseTo(960 + 960 * Math.sqrt(1 / 0.9), 6);
    expect(far[1]).toBe(540);
  });
  it('tells how a point moves with its term', () => {
    const p: Point = [1500, 200];
    const [a, b] = [distort(lens(0.01), p), distort(lens(-0.01), p)];
    const bow = bowAt(lens(0), p);
    expect(bow[0]).toBeCloseTo((a[0] - b[0]) / 0.02, 6);
    expect(bow[1]).toBeCloseTo((a[1] - b[1]) / 0.02, 6);
  });
  it('shows a part of the ideal plane that reaches to the middles of its sides', () => {
    const b = idealBounds(lens(-0.1));
    const edge = distort(lens(-0.1), [b.x0, 540]);
    expect(edge[0]).toBeCloseTo(0, 6);
    expect(distort(lens(-0.1), [960, b.y0])[1]).toBeCloseTo(0, 6);
    expect(b.x1).toBeCloseTo(1920 - b.x0, 9);
    expect(b.y1).toBeCloseTo(1080 - b.y0, 9);
    expect(idealBounds(lens(0))).toEqual({ x0: 0, y0: 0, x1: 1920, y1: 1080 });
  });
});

describe('a motion', () => {
  const H = [120, 10, 400, -5, 90, 300, 0.1, -0.2, 1];
  it('is as free as its name says', () => {
    expect(MOTIONS.map(degreesOfFreedom)).toEqual([0, 2, 4, 6, 8]);
    expect(tighter('affine', 'translation')).toBe('translation');
    expect(tighter('perspective', 'similarity')).toBe('similarity');
    expect([1, 2, 3, 4, 9].map(motionTold)).toEqual([
      'translation',
      'similarity',
      'affine',
      'perspective',
      'perspective',
    ]);
  });
  it('that is a similarity keeps right angles and ratios', () => {
    const m = warpMatrix(extend('similarity', Float64Array.from([3, 4, 0.2, 0.3])));
    const [o, x, y] = (
      [
        [0, 0],
        [1, 0],
        [0, 1],
      ] as Point[]
    ).map((p) => mapPoint(m, p)) as [Point, Point, Point];
    const a = [x[0] - o[0], x[1] - o[1]];
    const b = [y[0] - o[0], y[1] - o[1]];
    expect(a[0]! * b[0]! + a[1]! * b[1]!).toBeCloseTo(0, 12);
    expect(Math.hypot(...a)).toBeCloseTo(Math.hypot(...b), 12);
    expect(o).toEqual([3, 4]);
  });
  it('that is affine keeps parallels, and one in perspective does not', () => {
    const affine = warpMatrix(extend('affine', Float64Array.from([0.1, 0.2, 3, -0.1, 0.3, 4])));
    expect(affine).toEqual([1.1, 0.2, 3, -0.1, 1.3, 4, 0, 0, 1]);
    const free = warpMatrix(extend('perspective', Float64Array.from([0, 0, 0, 0, 0, 0, 0.1, 0.2])));
    expect(free).toEqual([1, 0, 0, 0, 1, 0, 0.1, 0.2, 1]);
  });
  it('sees the same squares from inside: B A B and B b', () => {
    fc.assert(
      fc.property(
        square(8),
        fc.constantFrom(...MOTIONS),
        fc.array(number, { minLength: 8, maxLength: 8 }),
        (m, motion, v) => {
          const a = definite(m, 8);
          const b = Float64Array.from(v);
          const n = degreesOfFreedom(motion);
          const x = Float64Array.from({ length: n }, (_, i) => v[7 - i]!);
          const whole = extend(motion, x);
          const r = restrict(motion, a, b);
          const form = (q: Float64Array, w: Float64Array): number => times(q, w).reduce((s, u, i) => s + u * w[i]!, 0);
          nearTo([form(r.a, x)], [form(a, whole)]);
          nearTo([r.b.reduce((s, u, i) => s + u * x[i]!, 0)], [b.reduce((s, u, i) => s + u * whole[i]!, 0)]);
        },
      ),
    );
  });
  it('moves a point as its derivatives tell', () => {
    const rows = new Float64Array(16);
    const [u, v] = [0.7, -0.4];
    const at = pointJacobian(H, u, v, rows);
    expect(distance(at, mapPoint(H, [u, v]))).toBeLessThan(1e-9);
    for (let p = 0; p < 8; p++) {
      const moved = (d: number): Point => {
        const own = new Float64Array(8);
        own[p] = d;
        return mapPoint(H, mapPoint(warpMatrix(own), [u, v]));
      };
      const [a, b] = [moved(1e-5), moved(-1e-5)];
      expect(rows[p]).toBeCloseTo((a[0] - b[0]) / 2e-5, 2);
      expect(rows[8 + p]).toBeCloseTo((a[1] - b[1]) / 2e-5, 2);
    }
  });
  it('is found from where its corners should be, in a few steps', () => {
    const u = [-1, 1, 1, -1];
    const v = [-0.6, -0.6, 0.6, 0.6];
    const corners = u.map((x, i) => mapPoint(H, [x, v[i]!]));
    const where = corners.map(([x, y], i): Point => [x + 5 * Math.sin(i), y + 4 * Math.cos(2 * i)]);
    let h = [...H];
    for (let i = 0; i < 6; i++) {
      const eq = noEquations();
      addCorners(eq, h, u, v, where, 0.5);
      h = stepped(h, solveStep('perspective', eq)!);
    }
    for (const [i, p] of where.entries()) expect(distance(mapPoint(h, [u[i]!, v[i]!]), p)).toBeLessThan(1e-6);
  });
  it('is weighed by one over the variance of what was measured', () => {
    const eq = noEquations();
    const j = Float64Array.from([1, 2, 0, 0, 0, 0, 0, 3]);
    addScalar(eq, j, 0.5, 4);
    expect(eq.b[1]).toBe(4);
    expect(eq.a[1]).toBe(8);
    expect(eq.a[7 * 8 + 1]).toBe(24);
    addScalar(eq, j, 0.5, 4);
    expect(eq.b[7]).toBe(12);
  });
  it('that nothing tells of is not solved', () => {
    expect(solveStep('perspective', noEquations())).toBeNull();
    expect(solveStep('still', noEquations())).toEqual(new Float64Array(8));
  });
});

describe('what is known of corners', () => {
  const U = [-1, 1, 1, -1];
  const V = [-1, -1, 1, 1];
  const H = [100, 0, 500, 0, 100, 400, 0, 0, 1];
  const none = [0, 0, 0, 0];

  /** Normal equations of corners that were measured with a sigma. */
  function measured(sigma: number): Float64Array {
    const eq = noEquations();
    addCorners(
      eq,
      H,
      U,
      V,
      U.map((x, i): Point => mapPoint(H, [x, V[i]!])),
      sigma,
    );
    return eq.a;
  }
  /** Gradients that scatter as measurements with that sigma would: one per corner and axis, many times over. */
  function gradients(sigma: number, times = 40): Float64Array[] {
    const rows = new Float64Array(16);
    return Array.from({ length: times }).flatMap(() =>
      U.flatMap((u, i) => {
        pointJacobian(H, u, V[i]!, rows);
        const of = (from: number): Float64Array =>
          rows.slice(from, from + 8).map((d) => d / (sigma * Math.sqrt(times)));
        return [of(0), of(8)];
      }),
    );
  }
  it('that are each measured alone is just that', () => {
    const known = cornerInformation('perspective', measured(0.5), gradients(0.5), H, U, V, none);
    for (const s of cornerSigmas(known, 1000)) expect(s).toBeCloseTo(0.5, 1);
  });
  it('is worse where the clusters scatter more than they claim', () => {
    const honest = cornerSigmas(cornerInformation('perspective', measured(0.5), gradients(0.5), H, U, V, none), 1000);
    const boasting = cornerSigmas(
      cornerInformation(
        'perspective',
        measured(0.5),
        gradients(0.5).map((g) => g.map((x) => 3 * x)),
        H,
        U,
        V,
        none,
      ),
      1000,
    );
    for (const [i, s] of boasting.entries()) expect(s / honest[i]!).toBeCloseTo(3, 0);
  });
  it('of a plane that may only shift is better by the root of four, and the same for each', () => {
    const free = cornerSigmas(cornerInformation('perspective', measured(0.5), gradients(0.5), H, U, V, none), 1000);
    const shifts = cornerSigmas(cornerInformation('translation', measured(0.5), gradients(0.5), H, U, V, none), 1000);
    for (const [i, s] of shifts.entries()) expect(free[i]! / s).toBeCloseTo(2, 0);
    expect(Math.max(...shifts) - Math.min(...shifts)).toBeLessThan(0.02);
  });
  it('is nothing where there is no evidence', () => {
    const known = cornerInformation('perspective', new Float64Array(64), [], H, U, V, none);
    for (const s of cornerSigmas(known, 50)) expect(s).toBeCloseTo(50, 1);
  });
  it('keeps a floor that no evidence shows: variances add', () => {
    const sigmas = cornerSigmas(withFloor(everywhere(0.3), [0.4, 0, 1.2, 0.4]), 1e6);
    nearTo(sigmas, [0.5, 0.3, Math.hypot(0.3, 1.2), 0.5]);
  });
  it('stays unknown under a floor where it was unknown', () => {
    const half = everywhere(0.3);
    half[0] = half[9] = 0;
    const sigmas = cornerSigmas(withFloor(half, [0.4, 0.4, 0.4, 0.4]), 70);
    expect(sigmas[0]).toBeCloseTo(70, 6);
    expect(sigmas[1]).toBeCloseTo(0.5, 3);
  });
  it('is less where the corners move', () => {
    const sigmas = cornerSigmas(
      inAll(everywhere(1), [
        [30, 40],
        [0, 0],
        [0, 100],
        [300, 0],
      ]),
      1e6,
    );
    nearTo(
      sigmas,
      [0.5, 0, 1, 3].map((moving) => Math.hypot(1.15, moving)),
      1e-4,
    );
    nearTo(cornerSigmas(inAll(everywhere(1), []), 1e6), [1.15, 1.15, 1.15, 1.15], 1e-4);
  });
});

describe('a rectangle before a camera', () => {
  const camera: Camera = { width: 1920, height: 1080, focal: 1.2 };
  const turn = fc.double({ min: -0.8, max: 0.8, noNaN: true });
  let cv: OpenCv;
  beforeAll(async () => {
    cv = await openCv();
  });

  it('turns about an axis by an angle, and tells both again', () => {
    nearTo(rotationBy([0, 0, Math.PI / 2]), [0, -1, 0, 1, 0, 0, 0, 0, 1], 1e-12);
    nearTo(rotationBy([Math.PI / 2, 0, 0]), [1, 0, 0, 0, 0, -1, 0, 1, 0], 1e-12);
    nearTo(rotationBy([0, Math.PI / 2, 0]), [0, 0, 1, 0, 1, 0, -1, 0, 0], 1e-12);
    expect(vectorOf(IDENTITY)).toEqual([0, 0, 0]);
    fc.assert(fc.property(turn, turn, turn, (x, y, z) => nearTo(vectorOf(rotationBy([x, y, z])), [x, y, z], 1e-6)));
  });
  it('is seen where the OpenCV build projects it (projectPoints)', () => {
    const points: [number, number, number][] = [
      [-0.8, -0.5, 0],
      [0.8, -0.5, 0],
      [0.8, 0.5, -0.1],
      [-0.8, 0.5, 0.2],
    ];
    fc.assert(
      fc.property(turn, turn, turn, turn, turn, (x, y, z, a, b) => {
        const pose: Pose = { rotation: rotationBy([x, y, z]), centre: [a, b, 4] };
        const f = camera.focal * camera.width;
        const out = new cv.Mat();
        cv.projectPoints(
          cv.matFromArray(4, 1, cv.CV_64FC3, points.flat()),
          cv.matFromArray(3, 1, cv.CV_64FC1, [x, y, z]),
          cv.matFromArray(3, 1, cv.CV_64FC1, [a, b, 4]),
          cv.matFromArray(3, 3, cv.CV_64FC1, [f, 0, camera.width / 2, 0, f, camera.height / 2, 0, 0, 1]),
          cv.matFromArray(1, 4, cv.CV_64FC1, [0, 0, 0, 0]),
          out,
        );
        for (const [i, p] of points.entries()) {
          const q = projectPoint(camera, pose, p);
          expect(distance(q, [out.data64F[2 * i]!, out.data64F[2 * i + 1]!])).toBeLessThan(1e-6);
        }
        out.delete();
      }),
      { numRuns: 30 },
    );
  });
  it('is found again from its corners', () => {
    fc.assert(
      fc.property(turn, turn, turn, turn, (x, y, z, a) => {
        const pose: Pose = { rotation: rotationBy([x, y, z]), centre: [a, -0.3 * a, 5] };
        const found = poseOf(camera, projectCorners(camera, pose, 1.6), 1.6);
        expect(found.misfit).toBeLessThan(1e-3);
        nearTo(found.pose.centre, pose.centre, 1e-3);
        nearTo(found.pose.rotation, pose.rotation, 2e-3);
      }),
      { numRuns: 40 },
    );
  });
  it('misses where no rectangle of that shape looks like the corners, by the farthest of them', () => {
    const pose: Pose = { rotation: rotationBy([0.4, -0.5, 0.2]), centre: [0.2, 0.1, 4] };
    const corners = projectCorners(camera, pose, 1.6);
    expect(poseOf(camera, corners, 1.2).misfit).toBeGreaterThan(5);
    const pulled = corners.map((p, i): Point => (i === 2 ? [p[0] + 12, p[1]] : p)) as unknown as Quad;
    const { misfit } = poseOf(camera, pulled, 1.6);
    expect(misfit).toBeGreaterThan(1);
    expect(misfit).toBeLessThan(12);
  });
  it('lifted before its plane looks larger from the front', () => {
    const pose: Pose = { rotation: [...IDENTITY], centre: [0, 0, 4] };
    const [flat, lifted] = [projectCorners(camera, pose, 1), projectCorners(camera, pose, 1, 0.5)];
    expect(flat[2]![0] - flat[0]![0]).toBeCloseTo((1.2 * 1920) / 4, 9);
    expect(lifted[2]![0] - lifted[0]![0]).toBeCloseTo((1.2 * 1920) / 3.5, 9);
  });
  it('tells the focal length by leaning views, and nothing by views from the front', () => {
    const views = [
      [0.6, 0.3, 0],
      [-0.5, 0.6, 0.1],
      [0.2, -0.7, -0.1],
    ].map((r) => projectCorners(camera, { rotation: rotationBy(r), centre: [0.1, 0, 4] }, 1.6));
    expect(focalFromViews(views, 1920, 1080, 1.6)).toBeCloseTo(1.2, 1);
    const front = [0, 0.01].map((r) =>
      projectCorners(camera, { rotation: rotationBy([0, 0, r]), centre: [0, 0, 4] }, 1.6),
    );
    expect(focalFromViews(front, 1920, 1080, 1.6)).toBeNull();
  });
});
