import { CoreError } from '../errors';
import type { Matrix3 } from './matrix3';
import { mapPoint } from './homography';
import type { Point } from './point';
import { distance } from './point';

/** Four corners TL, TR, BR, BL in the content's own orientation. */
export type Quad = readonly [Point, Point, Point, Point];

export const CORNER_NAMES = ['TL', 'TR', 'BR', 'BL'] as const;

/** A quad mapped by a homography, corner by corner. */
export function mapQuad(h: Matrix3, q: Quad): Quad {
  return q.map((p) => mapPoint(h, p)) as unknown as Quad;
}

/** How far the corners of two quads lie from each other at the most. */
export function farthest(a: Quad, b: Quad): number {
  return Math.max(...a.map((p, i) => distance(p, b[i]!)));
}

/** Where the diagonals cross: the picture of the rectangle's centre, unlike the mean of the corners. */
export function perspectiveCentre(q: Quad): Point {
  const [a, b, c, d] = q;
  const r: Point = [c[0] - a[0], c[1] - a[1]];
  const s: Point = [d[0] - b[0], d[1] - b[1]];
  const t = ((b[0] - a[0]) * s[1] - (b[1] - a[1]) * s[0]) / (r[0] * s[1] - r[1] * s[0]);
  return [a[0] + t * r[0], a[1] + t * r[1]];
}

/** Signed area in px^2; positive when TL, TR, BR, BL run clockwise on the picture (y down). */
export function signedArea(q: readonly Point[]): number {
  let s = 0;
  for (let i = 0; i < q.length; i++) {
    const a = q[i]!;
    const b = q[(i + 1) % q.length]!;
    s += a[0] * b[1] - b[0] * a[1];
  }
  return s / 2;
}

/** Twice the signed area of the triangle at each corner; all of one sign for a convex quadrilateral. */
function turns(q: Quad): number[] {
  return q.map((b, i) => {
    const a = q[(i + 3) % 4]!;
    const c = q[(i + 1) % 4]!;
    return (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]);
  });
}

/** Whether all corners turn the same way, either way. */
export function isConvex(q: Quad): boolean {
  const t = turns(q);
  return t.every((v) => v > 0) || t.every((v) => v < 0);
}

/** Length of the shortest side. */
export function shortestSide(q: Quad): number {
  return Math.min(...q.map((p, i) => distance(p, q[(i + 1) % 4]!)));
}

/**
 * Refuses a pin that no rectangle in front of a camera can look like.
 * @throws CoreError `degenerate` with a sentence that names the corner and the mend
 */
export function assertPin(q: Quad): void {
  for (const [i, p] of q.entries())
    if (!p.every((v) => Number.isFinite(v) && Math.abs(v) <= 1e6))
      throw new CoreError(
        'degenerate',
        `Corner ${CORNER_NAMES[i]} of the pin is not a usable position; coordinates must lie within a million pixels of the picture.`,
      );
  if (shortestSide(q) < 2)
    throw new CoreError('degenerate', 'Two corners of the pin lie on each other; drag them at least 2 px apart.');
  if (isConvex(q)) return;
  const t = turns(q);
  const clockwise = t.filter((v) => v > 0).length;
  if (clockwise === 2)
    throw new CoreError(
      'degenerate',
      'The sides of the pin cross each other; put the corners in the order TL, TR, BR, BL around the screen.',
    );
  const odd = t.findIndex((v) => (clockwise > 2 ? v <= 0 : v >= 0));
  throw new CoreError(
    'degenerate',
    `Corner ${CORNER_NAMES[odd]} of the pin lies inside the other three or on a line with its neighbours; drag it outwards.`,
  );
}

/** Mean of the corners, px. */
export function middleOf(corners: Quad): Point {
  return corners.reduce<Point>(([x, y], p) => [x + p[0] / 4, y + p[1] / 4], [0, 0]);
}

/** Corners in their shape, with their middle where that of others is. */
export function movedTo(shape: Quad, place: Quad): Quad {
  const [own, there] = [middleOf(shape), middleOf(place)];
  return shape.map(([x, y]): Point => [x + there[0] - own[0], y + there[1] - own[1]]) as unknown as Quad;
}
