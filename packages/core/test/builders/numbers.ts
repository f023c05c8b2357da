/** Numbers at random, systems of equations made of them, and how near lists of numbers are. */
import fc from 'fast-check';
import { expect } from 'vitest';
import { product } from '../../src/geometry/linear-algebra';

export const number = fc.double({ min: -10, max: 10, noNaN: true });
export const square = (n: number) => fc.array(number, { minLength: n * n, maxLength: n * n });

/** `M'M + I`, which is symmetric and positive definite whatever M is. */
export function definite(m: readonly number[], n: number): Float64Array {
  const a = Float64Array.from(m);
  const turned = a.map((_, i) => a[(i % n) * n + Math.floor(i / n)]!);
  const out = product(turned, a, n);
  for (let i = 0; i < n; i++) out[i * n + i]! += 1;
  return out;
}

export function times(a: Float64Array, x: Float64Array): number[] {
  const n = x.length;
  return Array.from(x, (_, r) => x.reduce((s, v, c) => s + a[r * n + c]! * v, 0));
}

export function nearTo(a: ArrayLike<number>, b: ArrayLike<number>, off = 1e-6): void {
  expect(a.length).toBe(b.length);
  for (let i = 0; i < a.length; i++) expect(Math.abs(a[i]! - b[i]!)).toBeLessThan(off * (1 + Math.abs(b[i]!)));
}
