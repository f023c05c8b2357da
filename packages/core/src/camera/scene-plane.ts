/**
 * A Screen that stands in the scene: its pin on the reference frame fixes four rays, and a plane cuts them; the plane is
 * that which explains its corners on all other frames best, robustly. A camera that only turns needs no plane: the rays
 * are enough.
 */
import type { CameraFile } from './camera-file';
import { invertSymmetric, solveLinear } from '../geometry/linear-algebra';
import type { Quad } from '../geometry/quad';
import { spread } from '../statistics';
import type { FileView } from './file-views';
import { seenAt } from './file-views';
import { rayOf, triangulate } from './triangulation';
import { halfDiagonal, placeOf } from './view-model';

/** Corners that were followed on a frame, and how well. */
export interface FollowedCorners {
  readonly frame: number;
  readonly corners: Quad;
  /** px, of each corner */
  readonly sigma: readonly number[];
}

type Vector = readonly [number, number, number];

export interface ScenePlaneFit {
  /** of the scene, in the axes here */
  readonly corners: readonly Vector[];
  /** corners that a frame shows, with what is not known of the plane: px, one axis, of each corner */
  readonly on: (frame: number) => { readonly corners: Quad; readonly sigma: readonly number[] } | null;
}

const FIT = {
  /** Steps at the most. By trial. */
  rounds: 40,
  /** Step of the numeric derivatives, share of the plane's own numbers. */
  difference: 1e-6,
  /** Standard deviations at which a residual's weight is halved. Source: P. Huber 1981 (Cauchy, 95 %). */
  cauchy: 2.385,
  /** Share of the squares by which a step must still make them smaller. By trial. */
  leastGain: 1e-8,
  /** Px; a followed corner is not believed to be nearer than this. By trial. */
  leastSigma: 0.1,
} as const;

/** Rays of the pin on the reference frame. */
export interface Rays {
  readonly eye: Vector;
  readonly directions: readonly Vector[];
}

/** Where a plane `n . x = 1` about the eye cuts the rays. */
export const cut = ({ eye, directions }: Rays, n: readonly number[]): Vector[] =>
  directions.map((d) => {
    const far = 1 / (n[0]! * d[0] + n[1]! * d[1] + n[2]! * d[2]);
    return [eye[0] + far * d[0], eye[1] + far * d[1], eye[2] + far * d[2]];
  });

/** A plane that is looked for on a pin's rays. */
export interface PlaneSearch {
  readonly file: CameraFile;
  readonly views: ReadonlyMap<number, FileView>;
  readonly rays: Rays;
  readonly followed: readonly FollowedCorners[];
}

/** Residuals in standard deviations, x and y of each corner of each frame; far off behind the camera. */
function residuals({ file, views, rays, followed }: PlaneSearch, n: readonly number[]): Float64Array {
  const corners = cut(rays, n);
  const out = new Float64Array(8 * followed.length);
  followed.forEach((f, i) => {
    const v = views.get(f.frame)!;
    corners.forEach((c, k) => {
      const at = seenAt(file, v, c);
      const sigma = Math.hypot(Math.max(FIT.leastSigma, f.sigma[k]!), v.sigma);
      out[8 * i + 2 * k] = at ? (at[0] - f.corners[k]![0]) / sigma : 1e3;
      out[8 * i + 2 * k + 1] = at ? (at[1] - f.corners[k]![1]) / sigma : 1e3;
    });
  });
  return out;
}

const lossOf = (r: Float64Array): number => r.reduce((s, v) => s + Math.log1p((v / FIT.cauchy) ** 2), 0);

function normalEquations(fit: PlaneSearch, n: readonly number[]): { a: Float64Array; b: Float64Array } {
  const r = residuals(fit, n);
  const size = Math.hypot(...n);
  const columns = n.map((_, k) => {
    const moved = n.slice();
    moved[k]! += FIT.difference * size;
    return residuals(fit, moved).map((v, i) => (v - r[i]!) / (FIT.difference * size));
  });
  const a = new Float64Array(9);
  const b = new Float64Array(3);
  r.forEach((v, i) => {
    const weight = 1 / (1 + (v / FIT.cauchy) ** 2);
    for (let p = 0; p < 3; p++) {
      b[p]! -= weight * columns[p]![i]! * v;
      for (let q = 0; q < 3; q++) a[3 * p + q]! += weight * columns[p]![i]! * columns[q]![i]!;
    }
  });
  return { a, b };
}

/** The plane through corners that were triangulated by themselves; null where that fails. */
function firstPlane({ file, views, rays }: PlaneSearch, followed: readonly FollowedCorners[]): number[] | null {
  const { width, height } = file.plate;
  const hd = halfDiagonal(file.plate);
  const points = [0, 1, 2, 3].flatMap((k) => {
    const found = triangulate(
      followed.map((f) => ({
        ...views.get(f.frame)!,
        x: (f.corners[k]![0] - width / 2) / hd,
        y: (f.corners[k]![1] - height / 2) / hd,
      })),
    );
    return found ? [found.point.map((v, i) => v - rays.eye[i]!)] : [];
  });
  if (points.length < 3) return null;
  const a = new Float64Array(9);
  const b = new Float64Array(3);
  for (const p of points)
    for (let r = 0; r < 3; r++) {
      b[r]! += p[r]!;
      for (let c = 0; c < 3; c++) a[3 * r + c]! += p[r]! * p[c]!;
    }
  // Four corners of one plane are nearly enough to be singular; a breath keeps them solvable.
  const breath = 1e-12 * (a[0]! + a[4]! + a[8]!);
  for (let r = 0; r < 3; r++) a[4 * r]! += breath;
  const n = solveLinear(a, b);
  return n ? [...n] : null;
}

function refined(fit: PlaneSearch, start: readonly number[]): { n: number[]; covariance: Float64Array | null } {
  let n = [...start];
  let loss = lossOf(residuals(fit, n));
  let damping = 1e-3;
  for (let round = 0; round < FIT.rounds; round++) {
    const { a, b } = normalEquations(fit, n);
    for (let k = 0; k < 3; k++) a[4 * k]! *= 1 + damping;
    const step = solveLinear(a, b);
    if (!step) break;
    const next = n.map((v, k) => v + step[k]!);
    const left = lossOf(residuals(fit, next));
    if (left < loss) {
      const gain = (loss - left) / loss;
      [n, loss, damping] = [next, left, damping / 8];
      if (gain < FIT.leastGain) break;
    } else damping *= 8;
  }
  return { n, covariance: invertSymmetric(normalEquations(fit, n).a, 3) };
}

/** Shares of the followed frames, nearest to the reference, that a plane is begun with: a Screen may be moved later. */
const BEGUN_WITH = [1, 0.5, 0.25] as const;
/** Frames that a plane is begun with at the least. */
const LEAST_BEGUN = 4;

/** From all frames, and from those about the reference alone: the one that explains most of all frames. */
function bestPlane(fit: PlaneSearch, referenceFrame: number): ReturnType<typeof refined> | null {
  const near = [...fit.followed].sort(
    (a, b) => Math.abs(a.frame - referenceFrame) - Math.abs(b.frame - referenceFrame),
  );
  const all = BEGUN_WITH.flatMap((share) => {
    const first = firstPlane(fit, near.slice(0, Math.max(LEAST_BEGUN, share * near.length)));
    return first ? [refined(fit, first)] : [];
  });
  const losses = all.map((p) => lossOf(residuals(fit, p.n)));
  return all[losses.indexOf(Math.min(...losses))] ?? null;
}

/** How corners of the scene are seen. @param own what is not known of them on a frame, px of each corner */
export function seenOn(
  { file, views }: Pick<PlaneSearch, 'file' | 'views'>,
  corners: readonly Vector[],
  own: (frame: number) => readonly number[],
): ScenePlaneFit {
  const on = (frame: number): ReturnType<ScenePlaneFit['on']> => {
    const v = views.get(frame);
    const seen = v && corners.map((c) => seenAt(file, v, c));
    if (!v || !seen?.every((p) => p !== null)) return null;
    return { corners: seen as unknown as Quad, sigma: own(frame).map((s) => Math.hypot(s, v.sigma)) };
  };
  return { corners, on };
}

/** The corners that a turning camera sees: the rays, and no plane. */
export function onRays(fit: Omit<PlaneSearch, 'followed'>): ScenePlaneFit {
  const { eye, directions } = fit.rays;
  const corners = directions.map((d): Vector => [eye[0] + d[0], eye[1] + d[1], eye[2] + d[2]]);
  return seenOn(fit, corners, () => [0, 0, 0, 0]);
}

/** Px on each axis by which the plane's own uncertainty moves each corner. */
export function spreadOf(
  fit: Omit<PlaneSearch, 'followed'>,
  n: readonly number[],
  covariance: Float64Array | null,
  frame: number,
): number[] {
  const v = fit.views.get(frame)!;
  const size = FIT.difference * Math.hypot(...n);
  const here = cut(fit.rays, n).map((c) => seenAt(fit.file, v, c)!);
  const moved = n.map((_, k) => {
    const m = n.slice();
    m[k]! += size;
    return cut(fit.rays, m).map((c) => seenAt(fit.file, v, c) ?? [NaN, NaN]);
  });
  return here.map((at, c) => {
    let variance = 0;
    for (let axis = 0; axis < 2; axis++)
      for (let p = 0; p < 3; p++)
        for (let q = 0; q < 3; q++) {
          const [dp, dq] = [moved[p]![c]![axis]! - at[axis]!, moved[q]![c]![axis]! - at[axis]!];
          variance += ((covariance?.[3 * p + q] ?? Infinity) * dp * dq) / (2 * size * size);
        }
    return Math.sqrt(Math.max(0, variance));
  });
}

/** Rays of a pin on a frame. */
export function raysOf({ plate: { width, height } }: CameraFile, frame: FileView, pin: Quad): Rays {
  const hd = halfDiagonal({ width, height });
  const directions = pin.map(([x, y]) => rayOf({ ...frame, x: (x - width / 2) / hd, y: (y - height / 2) / hd }));
  return { eye: placeOf(frame.view), directions };
}

/** Frames that a plane is told by at the most; more tell nothing new. By trial. */
const MOST_FRAMES = 240;

/**
 * @param pin on the reference frame, exact, px
 * @param followed corners of frames that the camera has, without the reference frame
 * @returns null where they do not tell where the plane is
 */
export function scenePlane(
  file: CameraFile,
  views: ReadonlyMap<number, FileView>,
  referenceFrame: number,
  pin: Quad,
  followed: readonly FollowedCorners[],
): ScenePlaneFit | null {
  const reference = views.get(referenceFrame);
  if (!reference) return null;
  const fit: PlaneSearch = { file, views, rays: raysOf(file, reference, pin), followed: spread(followed, MOST_FRAMES) };
  if (file.kind === 'tripod') return onRays(fit);
  const found = bestPlane(fit, referenceFrame);
  if (!found) return null;
  const { n, covariance } = found;
  return seenOn(fit, cut(fit.rays, n), (frame) => spreadOf(fit, n, covariance, frame));
}
