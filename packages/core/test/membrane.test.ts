import { describe, expect, it } from 'vitest';
import { membrane } from '../src/dress/base/membrane';
import { cubicWeights } from '../src/dress/base/sample-region';

describe('a membrane', () => {
  // Both solve Laplace's equation and its five-point form exactly. Textbook.
  it.each([
    ['a saddle', (x: number, y: number) => x * y],
    ['the other saddle', (x: number, y: number) => x * x - y * y],
    ['a slope', (x: number, y: number) => 3 * x - 2 * y + 1],
  ])('over a hole in %s is that surface', (_, f) => {
    const n = 40;
    const value = (x: number, y: number): number => f((x - 20) / 20, (y - 20) / 20);
    const data = new Float32Array(n * n * 3);
    const known = new Float32Array(n * n).fill(1);
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const isHole = Math.hypot(x - 19, y - 22) < 9;
        known[y * n + x] = isHole ? 0 : 1;
        data.fill(isHole ? 77 : value(x, y), 3 * (y * n + x), 3 * (y * n + x) + 3);
      }
    membrane(data, known, n, n);
    let worst = 0;
    for (let i = 0; i < n * n; i++) worst = Math.max(worst, Math.abs(data[3 * i]! - value(i % n, Math.floor(i / n))));
    expect(worst).toBeLessThan(1 / 255);
  });
});

describe('cubic weights', () => {
  it('sum to one, keep whole places and meet a parabola', () => {
    const w = new Float64Array(4);
    for (const t of [0, 0.1, 0.5, 0.9]) {
      cubicWeights(t, w);
      expect(w.reduce((a, b) => a + b)).toBeCloseTo(1, 12);
      expect(w.reduce((sum, v, i) => sum + v * (i - 1) ** 2, 0)).toBeCloseTo(t * t, 12);
    }
    cubicWeights(0, w);
    expect([...w].map((v) => v + 0)).toEqual([0, 1, 0, 0]);
  });
});
