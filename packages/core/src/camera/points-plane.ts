/**
 * A Screen's plane through points of the scene that lie in it: told by a click on a surface, or by points that were
 * chosen. The pin on its reference frame fixes four rays; the plane cuts them.
 */
import { invertSymmetric, solveLinear } from '../geometry/linear-algebra';
import type { Quad } from '../geometry/quad';
import { SIGMA_PER_DEVIATION, median } from '../statistics';
import type { CameraFile } from './camera-file';
import type { FileView } from './file-views';
import type { Rays, ScenePlaneFit } from './scene-plane';
import { cut, onRays, raysOf, seenOn, spreadOf } from './scene-plane';
import type { Vector } from '../geometry/vector3';
import { along } from '../geometry/vector3';
import { flipped } from './view-model';

const FIT = {
  /** Times that points are weighed anew. By trial. */
  rounds: 12,
  /** Standard deviations at which a point's weight is halved. Source: P. Huber 1981 (Cauchy, 95 %). */
  cauchy: 2.385,
  /** Share of the distance from the camera that a point's place is known to at best. By trial. */
  leastSpread: 1e-4,
  /** Share of the trace below which points lie on a line. By trial. */
  leastDeterminant: 1e-12,
} as const;

/** Share of its distance to which a plane is shifted towards the camera at the most. */
const NEAREST = 0.05;

interface Plane {
  /** `n . x = 1` about the camera's place */
  readonly n: readonly number[];
  readonly covariance: Float64Array | null;
}

/** The plane `n . x = 1` through points, robustly; null where they lie on a line. */
export function planeThrough(points: readonly (readonly number[])[]): Plane | null {
  let weights = points.map(() => 1);
  let n: number[] | null = null;
  let a = new Float64Array(9);
  let spread: number = FIT.leastSpread;
  for (let round = 0; round < FIT.rounds; round++) {
    a = new Float64Array(9);
    const b = new Float64Array(3);
    points.forEach((p, i) => {
      for (let r = 0; r < 3; r++) {
        b[r]! += weights[i]! * p[r]!;
        for (let c = 0; c < 3; c++) a[3 * r + c]! += weights[i]! * p[r]! * p[c]!;
      }
    });
    const trace = a[0]! + a[4]! + a[8]!;
    const inverse = invertSymmetric(a.slice(), 3);
    const isFlat = !inverse || 1 / (inverse[0]! + inverse[4]! + inverse[8]!) < FIT.leastDeterminant * trace;
    const next: Float64Array | null = isFlat ? null : solveLinear(a.slice(), b);
    if (!next) return null;
    n = [...next];
    const off = points.map((p) => Math.abs(p.reduce((sum, v, k) => sum + v * next[k]!, -1)));
    spread = Math.max(FIT.leastSpread, SIGMA_PER_DEVIATION * median(off));
    weights = off.map((e) => 1 / (1 + (e / (FIT.cauchy * spread)) ** 2));
  }
  const covariance = invertSymmetric(a, 3);
  return n && { n, covariance: covariance && covariance.map((v) => v * spread * spread) };
}

/**
 * The plane through points of a camera.
 * @param eye in the axes here, about which it is told
 * @returns with the points, about the eye; null where fewer than three are there, or where they lie on a line
 */
export function planeOfPoints(
  file: CameraFile,
  ids: readonly number[],
  eye: Vector,
): (Plane & { readonly points: readonly Vector[] }) | null {
  const wanted = new Set(ids);
  const points = file.points.filter((p) => wanted.has(p.id)).map((p) => along(flipped(p.position), eye, -1));
  const plane = points.length >= 3 ? planeThrough(points) : null;
  return plane && { ...plane, points };
}

/** Points of the camera that lie in a plane, and how far before it the Screen lies. */
export interface PlaneByPoints {
  /** by number; those that the camera does not have are passed over */
  readonly points: readonly number[];
  /** towards the camera, times the length of the pin's upper side; 0 when left out */
  readonly offset?: number | undefined;
}

/** The plane shifted towards the eye. @param by times the length of the upper side that rays cut out of it */
function shifted(rays: Rays, n: readonly number[], by: number): readonly number[] {
  const [a, b] = cut(rays, n);
  const far = 1 / Math.hypot(...n);
  const left = Math.max(NEAREST * far, far - by * Math.hypot(...along(b!, a!, -1)));
  return n.map((v) => (v * far) / left);
}

/**
 * @param pin on the reference frame, px
 * @returns null where fewer than three are there, where they lie on a line, or where the plane is not in view
 */
export function pointsPlane(
  file: CameraFile,
  views: ReadonlyMap<number, FileView>,
  referenceFrame: number,
  pin: Quad,
  { points: ids, offset = 0 }: PlaneByPoints,
): ScenePlaneFit | null {
  const reference = views.get(referenceFrame);
  if (!reference) return null;
  const search = { file, views, rays: raysOf(file, reference, pin) };
  if (file.kind === 'tripod') return onRays(search);
  const { eye, directions } = search.rays;
  const plane = planeOfPoints(file, ids, eye);
  if (!plane) return null;
  const { covariance } = plane;
  const n = offset === 0 ? plane.n : shifted(search.rays, plane.n, offset);
  // Beyond the plane's horizon a ray never meets it.
  if (directions.some((d) => !(n[0]! * d[0] + n[1]! * d[1] + n[2]! * d[2] > 0))) return null;
  return seenOn(search, cut(search.rays, n), (frame) => spreadOf(search, n, covariance, frame));
}
