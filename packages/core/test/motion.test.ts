/** How a plane may move, and what is then known of its corners. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cornerInformation, cornerSigmas, everywhere, inAll, withFloor } from '../src/geometry/corner-information';
import { mapPoint } from '../src/geometry/homography';
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
import { number, square, definite, times, nearTo } from './builders/numbers';

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
