/** Smooth closed outlines: curves through points, and curves led by handles. */
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

/**
 * Where the curve through a point leads, as offsets from it in px: towards the point before (x, y), then towards the
 * point after. All 0 at a corner.
 */
export type Handles = readonly [inX: number, inY: number, outX: number, outY: number];

export const NO_HANDLES: Handles = [0, 0, 0, 0];

/** Whether no curve leads through a point. */
export const isCorner = (h: Handles): boolean => h.every((v) => v === 0);

/** The four controls of a side of a closed outline: from a point, by its handle and the next one's, to the next point. */
function controls(points: readonly Point[], handles: readonly Handles[], side: number): [Point, Point, Point, Point] {
  const next = (side + 1) % points.length;
  const [a, b] = [points[side]!, points[next]!];
  const [, , ox, oy] = handles[side]!;
  const [ix, iy] = handles[next]!;
  return [a, [a[0] + ox, a[1] + oy], [b[0] + ix, b[1] + iy], b];
}

/**
 * The closed outline of cubic Bezier curves through the points, as a polygon: as many vertices from each point to the
 * next, so that what is said of points can be laid out between them. A side between two corners is straight.
 * @param handles as many as points
 */
export function handledOutline(points: readonly Point[], handles: readonly Handles[]): Point[] {
  return points.flatMap((_, side) => {
    const [a, b, c, d] = controls(points, handles, side);
    return Array.from({ length: PIECES }, (_piece, k): Point => {
      const t = k / PIECES;
      const s = 1 - t;
      const w = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t] as const;
      return [
        w[0] * a[0] + w[1] * b[0] + w[2] * c[0] + w[3] * d[0],
        w[0] * a[1] + w[1] * b[1] + w[2] * c[1] + w[3] * d[1],
      ];
    });
  });
}

/**
 * Handles with which the curve passes evenly through a point: along the line between its neighbours, a third of the way
 * to each of them.
 */
export function evenHandles(points: readonly Point[], i: number): Handles {
  const n = points.length;
  const [before, own, after] = [points[(i + n - 1) % n]!, points[i]!, points[(i + 1) % n]!];
  const length = distance(before, after);
  if (length === 0) return NO_HANDLES;
  const along = [(after[0] - before[0]) / length, (after[1] - before[1]) / length] as const;
  const back = distance(before, own) / 3;
  const on = distance(own, after) / 3;
  return [-back * along[0], -back * along[1], on * along[0], on * along[1]];
}

/**
 * A point more on a side, halfway along its curve, which stays what it is. Source: P. de Casteljau's construction,
 * common practice.
 */
export function splitSide(
  points: readonly Point[],
  handles: readonly Handles[],
  side: number,
): { readonly points: Point[]; readonly handles: Handles[] } {
  const [a, b, c, d] = controls(points, handles, side);
  const half = (p: Point, q: Point): Point => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
  const [ab, bc, cd] = [half(a, b), half(b, c), half(c, d)];
  const [abc, bcd] = [half(ab, bc), half(bc, cd)];
  const middle = half(abc, bcd);
  const next = (side + 1) % points.length;
  const led = handles.map((h, i): Handles => {
    const [ix, iy, ox, oy] = h;
    const out = i === side ? [ab[0] - a[0], ab[1] - a[1]] : [ox, oy];
    const into = i === next ? [cd[0] - d[0], cd[1] - d[1]] : [ix, iy];
    return [into[0]!, into[1]!, out[0]!, out[1]!];
  });
  const isStraight = isCorner(handles[side]!) && isCorner(handles[next]!);
  const own: Handles = isStraight
    ? NO_HANDLES
    : [abc[0] - middle[0], abc[1] - middle[1], bcd[0] - middle[0], bcd[1] - middle[1]];
  return {
    points: [...points.slice(0, side + 1), middle, ...points.slice(side + 1)],
    handles: [...(isStraight ? handles : led).slice(0, side + 1), own, ...(isStraight ? handles : led).slice(side + 1)],
  };
}
