/** Spots as evidence for the plane: each says where one place of it is. */
import { inverse, multiply } from '../../geometry/matrix3';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint, quadToQuad } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import { insidePolygon } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { mapQuad, middleOf } from '../../geometry/quad';
import type { Equations } from '../../geometry/motion-equations';
import { addScalar, noEquations, pointJacobian, solveStep, stepped } from '../../geometry/motion-equations';
import type { Motion } from '../../geometry/motion';

export interface SpotSight {
  /** on the reference frame, px */
  readonly site: Point;
  readonly at: Point;
  /** px per axis */
  readonly sigma: number;
}

/** Adds the spots to equations in which `h` maps (u, v) of the pin's corners to px. */
export function addSpots(
  eq: Equations,
  spots: readonly SpotSight[],
  pin: Quad,
  h: Matrix3,
  u: readonly number[],
  v: readonly number[],
): void {
  const toUv = quadToQuad(
    pin,
    u.map((x, i): Point => [x, v[i]!]),
  );
  const rows = new Float64Array(16);
  for (const s of spots) {
    const [a, b] = mapPoint(toUv, s.site);
    const at = pointJacobian(h, a, b, rows);
    const w = 1 / (s.sigma * s.sigma);
    addScalar(eq, rows.subarray(0, 8), at[0] - s.at[0], w);
    addScalar(eq, rows.subarray(8, 16), at[1] - s.at[1], w);
  }
}

/** d(place)/d(corners) of a plane whose corners lie at `corners`: 2x8, by differences. */
function byCorners(pin: Quad, corners: Quad, site: Point): Float64Array {
  const out = new Float64Array(16);
  const d = 0.01;
  for (let k = 0; k < 8; k++) {
    const moved = (by: number): Point =>
      mapPoint(
        quadToQuad(
          pin,
          corners.map(([x, y], i): Point => {
            if (i === k >> 1) return k & 1 ? [x, y + by] : [x + by, y];
            return [x, y];
          }),
        ),
        site,
      );
    const a = moved(d);
    const b = moved(-d);
    out[k] = (a[0] - b[0]) / (2 * d);
    out[8 + k] = (a[1] - b[1]) / (2 * d);
  }
  return out;
}

/** Adds what the spots know of the corners, 8x8 in px^-2, in place. */
export function addSpotInformation(
  information: Float64Array,
  spots: readonly SpotSight[],
  pin: Quad,
  h: Matrix3,
): void {
  const corners = spots.length > 0 ? mapQuad(h, pin) : pin;
  for (const s of spots) {
    const j = byCorners(pin, corners, s.site);
    const w = 1 / (s.sigma * s.sigma);
    for (let i = 0; i < 8; i++)
      for (let k = 0; k < 8; k++) information[i * 8 + k]! += w * (j[i]! * j[k]! + j[8 + i]! * j[8 + k]!);
  }
}

/** The plane through the spots alone, from `start`, inside a motion model. */
export function solveSpots(spots: readonly SpotSight[], pin: Quad, start: Matrix3, motion: Motion): number[] | null {
  const [cx, cy] = middleOf(pin);
  const half = Math.max(...pin.map((p) => Math.max(Math.abs(p[0] - cx), Math.abs(p[1] - cy))));
  const u = pin.map((p) => (p[0] - cx) / half);
  const v = pin.map((p) => (p[1] - cy) / half);
  const to = [half, 0, cx, 0, half, cy, 0, 0, 1];
  let n = multiply(start, to);
  for (let i = 0; i < 12; i++) {
    const eq = noEquations();
    addSpots(eq, spots, pin, n, u, v);
    const dp = solveStep(motion, eq);
    if (!dp) return null;
    n = stepped(n, dp);
    if (Math.max(...dp.map(Math.abs)) < 1e-9) break;
  }
  return n.every(Number.isFinite) ? multiply(n, inverse(to)) : null;
}

function trace(m: Float64Array): number {
  let s = 0;
  for (let i = 0; i < 8; i++) s += m[i * 9]!;
  return s;
}

/** Share of what is known of the corners (8x8, px^-2) that the spots told, 0 to 1. */
export function spotShare(spots: readonly SpotSight[], pin: Quad, h: Matrix3, information: Float64Array): number {
  if (spots.length === 0) return 0;
  const own = new Float64Array(64);
  addSpotInformation(own, spots, pin, h);
  return Math.min(1, trace(own) / Math.max(1e-9, trace(information)));
}

/** Whether a px at an offset from a corner's spot belongs to the screen: what lies beyond the pin moves otherwise. */
export function withinPin(pin: Quad, at: Point): (dx: number, dy: number) => boolean {
  return (dx, dy) => insidePolygon([at[0] + dx, at[1] + dy], pin);
}
