/** Small systems of equations. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
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
import { number, square, definite, times, nearTo } from './builders/numbers';

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
