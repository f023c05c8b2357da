/** The perspective ruling: the pin's plane divided in tenths and drawn well beyond the screen. */
import type { Point } from '@yarlop/core/geometry/point';
import { mapPoint, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';

const DIVISIONS = 5, BEYOND = 1;

/** Line segments in plate px; parts behind the camera are left out. */
export function rulingLines(quad: Quad): [Point, Point][] {
  const h = unitSquareToQuad(quad), out: [Point, Point][] = [];
  const lo = -BEYOND, hi = 1 + BEYOND, steps = DIVISIONS * (1 + 2 * BEYOND);
  const inFront = (x: number, y: number): boolean => h[6]! * x + h[7]! * y + 1 > 0.05;
  for (let i = 0; i <= steps; i++) {
    const at = lo + i / DIVISIONS;
    for (const [a, b] of [[[at, lo], [at, hi]], [[lo, at], [hi, at]]] as [Point, Point][]) {
      const pieces = 8, point = (k: number): Point => [a[0] + ((b[0] - a[0]) * k) / pieces, a[1] + ((b[1] - a[1]) * k) / pieces];
      let first = -1, last = -1;
      for (let k = 0; k <= pieces; k++) {
        if (!inFront(...point(k))) continue;
        if (first < 0) first = k;
        last = k;
      }
      if (last > first) out.push([mapPoint(h, point(first)), mapPoint(h, point(last))]);
    }
  }
  return out;
}
