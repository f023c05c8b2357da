/**
 * Fills the frames between two found ones on which nothing could be measured. Corners move along cubic Hermite curves
 * whose ends keep the speed of the found frames, so that a cover of a few frames is crossed without a step.
 */
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { isConvex, mapQuad, perspectiveCentre } from '../geometry/quad';
import type { FrameResult } from './results';

function hermite(a: number, va: number, b: number, vb: number, t: number, length: number): number {
  const t2 = t * t, t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * a + (t3 - 2 * t2 + t) * length * va + (3 * t2 - 2 * t3) * b + (t3 - t2) * length * vb;
}

/** @param results in frame order; every gap must have a found frame on both sides */
export function bridge(results: readonly FrameResult[], pin: Quad): FrameResult[] {
  const centre = perspectiveCentre(pin);
  const corners = results.map((r) => r.homography && mapQuad(r.homography, pin));
  const velocity = (i: number, side: -1 | 1): Point[] => {
    const here = corners[i]!, there = corners[i + side];
    return here.map((p, k): Point => (there ? [side * (there[k]![0] - p[0]), side * (there[k]![1] - p[1])] : [0, 0]));
  };
  return results.map((r, i) => {
    if (r.homography) return r;
    let a = i, b = i;
    while (!corners[a]) a--;
    while (!corners[b]) b++;
    const va = velocity(a, -1), vb = velocity(b, 1), length = b - a, t = (i - a) / length;
    const along = (k: number, axis: 0 | 1, smooth: number): number =>
      hermite(corners[a]![k]![axis], smooth * va[k]![axis], corners[b]![k]![axis], smooth * vb[k]![axis], t, length);
    const at = (smooth: number): Quad => [0, 1, 2, 3].map((k): Point => [along(k, 0, smooth), along(k, 1, smooth)]) as unknown as Quad;
    const curved = at(1), quad = isConvex(curved) ? curved : at(0);
    const speed = Math.max(...va.map((v, k) => Math.hypot(v[0] - vb[k]![0], v[1] - vb[k]![1])));
    const sigma = 0.5 + 0.25 * Math.min(i - a, b - i) * (1 + 0.5 * speed);
    return {
      frame: r.frame, homography: normaliseHomography(quadToQuad(pin, quad), centre),
      sigma: [sigma, sigma, sigma, sigma], information: [], blur: speed, trust: 0, evidence: {}, reason: r.reason,
    };
  });
}
