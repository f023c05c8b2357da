/**
 * A point of the scene from the rays on which several views see it: where they pass nearest, then where it is seen best.
 * Source: R. Hartley and P. Sturm, Triangulation, 1997 (the reprojection is what is to be small).
 */
import { solveLinear } from '../geometry/linear-algebra';
import type { Optics, View } from './view-model';
import { Projection, atRow, placeOf, unbow } from './view-model';

/** One sight of a point. */
export interface Sight {
  readonly view: View;
  readonly optics: Optics;
  /** half diagonals from the picture's middle */
  readonly x: number;
  readonly y: number;
}

export interface Triangulated {
  readonly point: readonly [number, number, number];
  /** largest angle between two of its rays, radians */
  readonly angle: number;
  /** root mean square of its distance from where it was found, half diagonals */
  readonly error: number;
}

/** Steps of the refinement. By trial. */
const ROUNDS = 6;

/** The unit ray of a sight in the scene. */
export function rayOf({ view, optics, x, y }: Sight): [number, number, number] {
  const v = atRow(view, y);
  const [u, w] = unbow(optics, x, y);
  const d = [u / optics.focal, w / optics.focal, 1];
  const out = [0, 1, 2].map((i) => v[i]! * d[0]! + v[3 + i]! * d[1]! + v[6 + i]! * d[2]!);
  const l = Math.hypot(...out);
  return [out[0]! / l, out[1]! / l, out[2]! / l];
}

function nearest(sights: readonly Sight[], rays: readonly (readonly [number, number, number])[]): Float64Array | null {
  const a = new Float64Array(9);
  const b = new Float64Array(3);
  sights.forEach((s, i) => {
    const d = rays[i]!;
    const eye = placeOf(s.view);
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) {
        const m = (r === c ? 1 : 0) - d[r]! * d[c]!;
        a[3 * r + c]! += m;
        b[r]! += m * eye[c]!;
      }
  });
  return solveLinear(a, b);
}

/** Sum of squares over the sights; infinite when it lies behind one. */
function squares(sights: readonly Sight[], point: Float64Array, p: Projection): number {
  let sum = 0;
  for (const s of sights) {
    if (!p.place(s.view, s.optics, point, 0, s.y)) return Infinity;
    sum += (p.x - s.x) ** 2 + (p.y - s.y) ** 2;
  }
  return sum;
}

/** @returns null where the rays do not meet before all views */
export function triangulate(sights: readonly Sight[]): Triangulated | null {
  if (sights.length < 2) return null;
  const rays = sights.map(rayOf);
  let point = nearest(sights, rays);
  if (!point) return null;
  const p = new Projection();
  let cost = squares(sights, point, p);
  for (let round = 0; round < ROUNDS && Number.isFinite(cost); round++) {
    const a = new Float64Array(9);
    const b = new Float64Array(3);
    for (const s of sights) {
      p.of(s.view, s.optics, point, 0, s.y);
      const [ex, ey] = [p.x - s.x, p.y - s.y];
      const j = p.byPoint;
      for (let r = 0; r < 3; r++) {
        b[r]! -= j[r]! * ex + j[3 + r]! * ey;
        for (let c = 0; c < 3; c++) a[3 * r + c]! += j[r]! * j[c]! + j[3 + r]! * j[3 + c]!;
      }
    }
    const step = solveLinear(a, b);
    if (!step) break;
    const next = point.map((v, i) => v + step[i]!);
    const left = squares(sights, next, p);
    if (!(left < cost)) break;
    [point, cost] = [next, left];
  }
  if (!Number.isFinite(cost)) return null;
  let least = 1;
  for (const r of rays) least = Math.min(least, r[0] * rays[0]![0] + r[1] * rays[0]![1] + r[2] * rays[0]![2]);
  return {
    point: [point[0]!, point[1]!, point[2]!],
    angle: Math.acos(Math.min(1, least)),
    error: Math.sqrt(cost / sights.length),
  };
}
