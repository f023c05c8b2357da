/**
 * The perspective ruling: the pin's plane divided evenly and drawn beyond the screen, its horizon, and where its sides
 * run to.
 */
import type { Point } from '@yarlop/core/geometry/point';
import { mapPoint, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';

export type Segment = readonly [Point, Point];

/** The least third component that still lies well in front of the camera, as a share of the pin's own. */
const IN_FRONT = 0.04;
/** Straight pieces that a line is drawn with. */
const PIECES = 24;
/** Lines that are drawn at the most. */
const MOST_LINES = 400;

/**
 * Line segments in plate px; parts behind the camera are left out.
 * @param parts into which each side of the screen is divided; @param extent screens to each side
 */
export function rulingLines(quad: Quad, parts = 4, extent = 1): Segment[] {
  const h = unitSquareToQuad(quad);
  const out: Segment[] = [];
  const lo = -extent;
  const hi = 1 + extent;
  const every = Math.max(1, Math.ceil((2 * parts * (1 + 2 * extent)) / MOST_LINES));
  const steps = Math.round((parts * (1 + 2 * extent)) / every);
  const inFront = (x: number, y: number): boolean => h[6]! * x + h[7]! * y + 1 > IN_FRONT;
  for (let i = 0; i <= steps; i++) {
    const at = lo + (i * every) / parts;
    for (const [a, b] of [
      [
        [at, lo],
        [at, hi],
      ],
      [
        [lo, at],
        [hi, at],
      ],
    ] as [Point, Point][]) {
      const point = (k: number): Point => [a[0] + ((b[0] - a[0]) * k) / PIECES, a[1] + ((b[1] - a[1]) * k) / PIECES];
      let first = -1;
      let last = -1;
      for (let k = 0; k <= PIECES; k++) {
        if (!inFront(...point(k))) continue;
        if (first < 0) first = k;
        last = k;
      }
      if (last > first) out.push([mapPoint(h, point(first)), mapPoint(h, point(last))]);
    }
  }
  return out;
}

/**
 * The points to which the pin's two directions run, null where its sides are parallel on the picture; and the horizon
 * through them.
 */
export function vanishing(quad: Quad): { across: Point | null; down: Point | null; horizon: Segment | null } {
  const h = unitSquareToQuad(quad);
  const away = (x: number, y: number, w: number): Point | null => (Math.abs(w) < 1e-6 ? null : [x / w, y / w]);
  const across = away(h[0]!, h[3]!, h[6]!);
  const down = away(h[1]!, h[4]!, h[7]!);
  if (across && down) return { across, down, horizon: [across, down] };
  const one = across ?? down;
  const [dx, dy] = across ? [h[1]!, h[4]!] : [h[0]!, h[3]!];
  return {
    across,
    down,
    horizon: one && [
      [one[0] - dx, one[1] - dy],
      [one[0] + dx, one[1] + dy],
    ],
  };
}
