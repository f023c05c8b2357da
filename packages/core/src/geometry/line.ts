import { clamp } from '../clamp';
import type { Point } from './point';
import { distance } from './point';

/** A straight line through two points. */
export interface Line {
  readonly a: Point;
  readonly b: Point;
}

/** Where two lines meet; null when they are parallel. */
export function meet(p: Line, q: Line): Point | null {
  const ax = p.b[0] - p.a[0];
  const ay = p.b[1] - p.a[1];
  const bx = q.b[0] - q.a[0];
  const by = q.b[1] - q.a[1];
  const det = ax * by - ay * bx;
  if (Math.abs(det) < 1e-9 * Math.hypot(ax, ay) * Math.hypot(bx, by) + 1e-12) return null;
  const t = ((q.a[0] - p.a[0]) * by - (q.a[1] - p.a[1]) * bx) / det;
  return [p.a[0] + t * ax, p.a[1] + t * ay];
}

/** Where a place lies along a line, px from `at`. @param along its direction, of unit length */
export function placeAlong({ at, along }: { readonly at: Point; readonly along: Point }, [x, y]: Point): number {
  return (x - at[0]) * along[0] + (y - at[1]) * along[1];
}

/** The direction, of unit length, in which places spread most. @param xx @param xy @param yy their second moments */
export function principalDirection(xx: number, xy: number, yy: number): Point {
  const turn = Math.atan2(2 * xy, xx - yy) / 2;
  return [Math.cos(turn), Math.sin(turn)];
}

/** Unit normal of a side of a quad, out of it. @param turn 1 when its corners run clockwise on the picture, else -1 */
export function outwardsOf(a: Point, b: Point, turn: number): Point {
  const length = distance(a, b);
  return [(turn * (b[1] - a[1])) / length, (-turn * (b[0] - a[0])) / length];
}

/** From a point to the nearest point of a stretch between two others. */
export function distanceToSegment(p: Point, a: Point, b: Point): number {
  const [x, y] = [b[0] - a[0], b[1] - a[1]];
  const t = clamp(((p[0] - a[0]) * x + (p[1] - a[1]) * y) / (x * x + y * y || 1), 0, 1);
  return distance(p, [a[0] + t * x, a[1] + t * y]);
}
