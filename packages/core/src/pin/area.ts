/**
 * What is followed of a Screen, apart from where its pin lies. Both are in its plane, so that the pin rides on what was
 * followed wherever it is set; the farther it lies from there, the less is known of its corners.
 */
import { CoreError } from '../errors';
import type { Patch } from '../follow/outline/outlines';
import type { Matrix2 } from '../geometry/homography';
import { derivativeAt, mapPoint, quadToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import { boundsOf } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { farthest, isConvex } from '../geometry/quad';
import { trustOf } from '../follow/evidence/trust';

export interface FollowedArea {
  /** four corners in the plane, px of the reference frame, whose sides are looked for too */
  readonly quad: Quad;
  /** what else bounds it: an outline of other than four corners */
  readonly patches: readonly Patch[];
}

/**
 * An area as it is followed: four corners of a convex outline as they are, any other outline within the rectangle about it.
 * @param area at least three points, px of the reference frame
 * @throws CoreError `invalid` for fewer
 */
export function followedArea(area: readonly Point[]): FollowedArea {
  if (area.length < 3)
    throw new CoreError('invalid', `The area has ${area.length} points; an outline needs at least three.`);
  if (area.length === 4 && isConvex(area as Quad)) return { quad: area as Quad, patches: [] };
  const { x0, y0, x1, y1 } = boundsOf(area);
  const quad: Quad = [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ];
  return { quad, patches: [{ kind: 'follow', points: area }] };
}

function times(a: Matrix2, b: Matrix2): Matrix2 {
  return [a[0] * b[0] + a[1] * b[2], a[0] * b[1] + a[1] * b[3], a[2] * b[0] + a[3] * b[2], a[2] * b[1] + a[3] * b[3]];
}

function inverted([a, b, c, d]: Matrix2): Matrix2 {
  const det = a * d - b * c;
  return [d / det, -b / det, -c / det, a / det];
}

/** px of the reference frame by which corners are moved to see what moves with them. */
const STEP = 1e-3;

/** How each corner of the pin moves with each of the area, in the reference frame's plane. */
function carried(area: Quad, pin: Quad): readonly (readonly Matrix2[])[] {
  const movedAlong = (corner: number, axis: 0 | 1): Quad => {
    const to = area.map((p, i): Point => {
      if (i !== corner) return p;
      return axis === 0 ? [p[0] + STEP, p[1]] : [p[0], p[1] + STEP];
    }) as unknown as Quad;
    const h = quadToQuad(area, to);
    return pin.map((p): Point => {
      const q = mapPoint(h, p);
      return [(q[0] - p[0]) / STEP, (q[1] - p[1]) / STEP];
    }) as unknown as Quad;
  };
  const by = area.map((_, j) => [movedAlong(j, 0), movedAlong(j, 1)] as const);
  return pin.map((_, k) => by.map(([x, y]): Matrix2 => [x[k]![0], y[k]![0], x[k]![1], y[k]![1]]));
}

interface Known {
  readonly homography: readonly number[];
  readonly sigma: readonly number[];
  readonly trust: number;
}

/**
 * What is known of a pin's corners on frames whose area's corners are known: their errors, taken as independent, are
 * carried to first order (covariance propagation; Hartley and Zisserman, Multiple View Geometry, chapter 5, from memory). Exact where
 * pin and area are one.
 * @param width of the picture, px
 * @returns for each frame sigma per corner (px of the frame) and trust of the pin
 */
export function knownOfPin(area: Quad, pin: Quad, width: number): <F extends Known>(frame: F) => F {
  if (farthest(pin, area) === 0) return (frame) => frame;
  const moves = carried(area, pin);
  return (frame) => {
    const { homography: h, sigma, trust } = frame;
    const back = area.map((a) => inverted(derivativeAt(h, a)));
    const told = pin.map((p, k) => {
      const there = derivativeAt(h, p);
      const variance = area.reduce((sum, _, j) => {
        const m = times(times(there, moves[k]![j]!), back[j]!);
        return sum + sigma[j]! ** 2 * (m[0] ** 2 + m[1] ** 2 + m[2] ** 2 + m[3] ** 2);
      }, 0);
      return Math.sqrt(variance / 2);
    });
    // Trust holds, beside what sigma says, how much of what is seen agrees: that is of the plane as a whole.
    const share = trustOf(told, 1, width) / Math.max(trustOf(sigma, 1, width), Number.MIN_VALUE);
    return { ...frame, sigma: told, trust: trust * Math.min(1, share) };
  };
}
