/** Smooth closed outlines. */
import type { Point } from './point';
import { distance } from './point';

/**
 * Straight pieces that stand for one piece of curve: within a tenth of a px for outlines as large as a screen. By
 * trial.
 */
const PIECES = 10;

/**
 * The closed centripetal Catmull-Rom curve through the points, as a polygon. It passes through every point, and unlike
 * the uniform form never loops or overshoots between them. Source: C. Yuksel, S. Schaefer, J. Keyser, On the
 * Parameterization of Catmull-Rom Curves, 2009.
 */
export function smoothOutline(points: readonly Point[]): Point[] {
  const n = points.length;
  if (n < 3) return [...points];
  const out: Point[] = [];
  for (let i = 0; i < n; i++) {
    const [p0, p1, p2, p3] = [points[(i + n - 1) % n]!, points[i]!, points[(i + 1) % n]!, points[(i + 2) % n]!];
    const knot = (a: Point, b: Point): number => Math.max(1e-6, Math.sqrt(distance(a, b)));
    const t1 = knot(p0, p1);
    const t2 = t1 + knot(p1, p2);
    const t3 = t2 + knot(p2, p3);
    const mix = (a: Point, b: Point, ta: number, tb: number, t: number): Point => [
      a[0] + ((b[0] - a[0]) * (t - ta)) / (tb - ta),
      a[1] + ((b[1] - a[1]) * (t - ta)) / (tb - ta),
    ];
    for (let k = 0; k < PIECES; k++) {
      const t = t1 + ((t2 - t1) * k) / PIECES;
      const a1 = mix(p0, p1, 0, t1, t);
      const a2 = mix(p1, p2, t1, t2, t);
      const a3 = mix(p2, p3, t2, t3, t);
      out.push(mix(mix(a1, a2, 0, t2, t), mix(a2, a3, t1, t3, t), t1, t2, t));
    }
  }
  return out;
}
