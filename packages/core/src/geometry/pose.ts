/**
 * The rigid pose of a flat rectangle from its four corners: where the device stands before the camera. Camera
 * coordinates: x right, y down, z away from the camera, the lens over the middle of the picture; lengths in heights of
 * the rectangle. Source: Z. Zhang, A Flexible New Technique for Camera Calibration, PAMI 2000, section 3.1 (pose from a
 * homography), refined by damped least squares on the corners (D. Marquardt 1963).
 */
import { clamp } from '../clamp';
import { solveLinear } from './linear-algebra';
import { unitSquareToQuad } from './homography';
import type { Point } from './point';
import { distance } from './point';
import type { Quad } from './quad';

export interface Camera {
  /** px of the picture */
  readonly width: number;
  readonly height: number;
  /** focal length, picture widths */
  readonly focal: number;
}

export interface Pose {
  /** rotation, row-major: rectangle (x right, y down, z into the device) to camera */
  readonly rotation: readonly number[];
  /** the rectangle's centre before the camera */
  readonly centre: readonly [number, number, number];
}

/** Rotation by a vector (O. Rodrigues), row-major. */
export function rotationBy([x, y, z]: readonly number[]): number[] {
  const t = Math.hypot(x!, y!, z!);
  const c = Math.cos(t);
  const s = t < 1e-9 ? 1 : Math.sin(t) / t;
  const k = t < 1e-9 ? 0.5 : (1 - c) / (t * t);
  return [
    c + k * x! * x!,
    k * x! * y! - s * z!,
    k * x! * z! + s * y!,
    k * x! * y! + s * z!,
    c + k * y! * y!,
    k * y! * z! - s * x!,
    k * x! * z! - s * y!,
    k * y! * z! + s * x!,
    c + k * z! * z!,
  ];
}

/** The vector of {@link rotationBy}. */
export function vectorOf(r: readonly number[]): number[] {
  const c = clamp((r[0]! + r[4]! + r[8]! - 1) / 2, -1, 1);
  const t = Math.acos(c);
  const axis = [r[7]! - r[5]!, r[2]! - r[6]!, r[3]! - r[1]!];
  const l = Math.hypot(...axis);
  return l < 1e-9 ? [0, 0, 0] : axis.map((v) => (v / l) * t);
}

/** A point of the rectangle's own space (heights, origin in its middle) in the picture, px. */
export function projectPoint(
  c: Camera,
  { rotation: r, centre: t }: Pose,
  [x, y, z]: readonly [number, number, number],
): Point {
  const f = c.focal * c.width;
  const d = r[6]! * x + r[7]! * y + r[8]! * z + t[2];
  return [
    c.width / 2 + (f * (r[0]! * x + r[1]! * y + r[2]! * z + t[0])) / d,
    c.height / 2 + (f * (r[3]! * x + r[4]! * y + r[5]! * z + t[1])) / d,
  ];
}

/** The rectangle's corners `lift` heights in front of it, px. @param aspect its width by its height */
export function projectCorners(c: Camera, p: Pose, aspect: number, lift = 0): Quad {
  return (
    [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const
  ).map(([x, y]) => projectPoint(c, p, [(x * aspect) / 2, y / 2, -lift])) as unknown as Quad;
}

function firstPose(c: Camera, corners: Quad, aspect: number): number[] {
  const f = c.focal * c.width;
  const h = unitSquareToQuad(corners.map(([x, y]): Point => [(x - c.width / 2) / f, (y - c.height / 2) / f])).map(
    (v, i) => (i % 3 === 0 ? v / aspect : v),
  );
  const col = (i: number): number[] => [h[i]!, h[3 + i]!, h[6 + i]!];
  const [a, b] = [col(0), col(1)];
  const k = 2 / (Math.hypot(...a) + Math.hypot(...b));
  const t = col(2).map((v, i) => k * (v + (aspect / 2) * a[i]! + 0.5 * b[i]!));
  const r1 = a.map((v) => v / Math.hypot(...a));
  const d = b.reduce((s, v, i) => s + v * r1[i]!, 0);
  const raw = b.map((v, i) => v - d * r1[i]!);
  const r2 = raw.map((v) => v / Math.hypot(...raw));
  const r3 = [r1[1]! * r2[2]! - r1[2]! * r2[1]!, r1[2]! * r2[0]! - r1[0]! * r2[2]!, r1[0]! * r2[1]! - r1[1]! * r2[0]!];
  return [...vectorOf([r1[0]!, r2[0]!, r3[0]!, r1[1]!, r2[1]!, r3[1]!, r1[2]!, r2[2]!, r3[2]!]), ...t];
}

const poseFrom = (p: readonly number[]): Pose => ({ rotation: rotationBy(p), centre: [p[3]!, p[4]!, p[5]!] });
const POSE = {
  /** Steps of the fit at the most. By trial. */
  rounds: 30,
  /** Step of the numeric derivatives, in radians and relative units: about the root of a double's precision. */
  difference: 1e-6,
  /** Share of the squares by which a step must still make them smaller. By trial. */
  leastGain: 1e-7,
  /** Damping at which no step helps any more. By trial. */
  mostDamping: 1e4,
  /** Picture widths; the shortest focal length that views are asked about. By trial. */
  shortest: 0.4,
  /** Picture widths; the longest one. By trial. */
  longest: 10,
  /** Focal lengths that are tried, evenly on a logarithmic scale. By trial. */
  tried: 40,
} as const;

/**
 * How far the corners of a pose miss, x and y of each, picture widths; written out, since it is asked for a hundred
 * times a frame.
 */
function misses({ width, height, focal }: Camera, corners: Quad, aspect: number, p: readonly number[]): number[] {
  const r = rotationBy(p);
  const out = new Array<number>(8);
  const x = aspect / 2;
  for (let i = 0; i < 4; i++) {
    const sx = i === 0 || i === 3 ? -x : x;
    const sy = i < 2 ? -0.5 : 0.5;
    const d = r[6]! * sx + r[7]! * sy + p[5]!;
    out[2 * i] = 0.5 + (focal * (r[0]! * sx + r[1]! * sy + p[3]!)) / d - corners[i]![0] / width;
    out[2 * i + 1] = height / width / 2 + (focal * (r[3]! * sx + r[4]! * sy + p[4]!)) / d - corners[i]![1] / width;
  }
  return out;
}

/**
 * @param aspect width by height of the rectangle
 * @returns the pose whose corners lie nearest, and by how many px the farthest of them misses
 * @throws CoreError `degenerate` when three corners lie on a line
 */
export function poseOf(c: Camera, corners: Quad, aspect: number): { readonly pose: Pose; readonly misfit: number } {
  let p = firstPose(c, corners, aspect);
  let damping = 1e-4;
  const errors = (v: readonly number[]): number[] => misses(c, corners, aspect, v);
  const cost = (e: readonly number[]): number => e.reduce((s, v) => s + v * v, 0);
  let e = errors(p);
  for (let round = 0; round < POSE.rounds && cost(e) > 1e-20; round++) {
    const columns: number[][] = [];
    const a = new Float64Array(36);
    const b = new Float64Array(6);
    for (let k = 0; k < 6; k++) {
      const moved = p.slice();
      moved[k]! += POSE.difference;
      const column = errors(moved);
      for (let r = 0; r < 8; r++) column[r] = (column[r]! - e[r]!) / POSE.difference;
      columns.push(column);
    }
    for (let i = 0; i < 6; i++)
      for (let j = i; j < 6; j++) {
        let sum = 0;
        let right = 0;
        for (let r = 0; r < 8; r++) {
          sum += columns[i]![r]! * columns[j]![r]!;
          right -= columns[i]![r]! * e[r]!;
        }
        a[i * 6 + j] = a[j * 6 + i] = i === j ? sum * (1 + damping) : sum;
        b[i] = right;
      }
    const step = solveLinear(a, b);
    if (!step) break;
    const next = p.map((v, i) => v + step[i]!);
    const left = errors(next);
    if (left.every(Number.isFinite) && cost(left) < cost(e)) {
      const before = cost(e);
      const gain = before - cost(left);
      [p, e, damping] = [next, left, damping / 4];
      if (gain < POSE.leastGain * before) break;
    } else if ((damping *= 8) > POSE.mostDamping) break;
  }
  const pose = poseFrom(p);
  return { pose, misfit: Math.max(...projectCorners(c, pose, aspect).map((q, i) => distance(q, corners[i]!))) };
}

/** Picture widths; a usual lens where neither the views nor the person tell of one. Common practice, no source. */
export const USUAL_FOCAL = 1.3;
/** Picture widths; focal lengths that a person may type. */
export const FOCAL_LIMITS = [0.2, 20] as const;

/**
 * The focal length by which a rectangle of this shape fits all views best, picture widths; null where no view leans
 * enough to tell. Every view's pose is fitted for each length that is tried, on a logarithmic scale.
 */
export function focalFromViews(views: readonly Quad[], width: number, height: number, aspect: number): number | null {
  const cost = (focal: number): number =>
    views.reduce((s, q) => s + Math.min(25, poseOf({ width, height, focal }, q, aspect).misfit ** 2), 0);
  const tries = Array.from(
    { length: POSE.tried },
    (_, i) => POSE.shortest * (POSE.longest / POSE.shortest) ** (i / (POSE.tried - 1)),
  );
  const costs = tries.map(cost);
  const best = costs.indexOf(Math.min(...costs));
  const spread = Math.max(...costs) - costs[best]!;
  if (best === 0 || best === POSE.tried - 1 || spread < 0.25 * views.length) return null;
  // The parabola through the best and its neighbours, on the logarithm.
  const [a, b, d] = [costs[best - 1]!, costs[best]!, costs[best + 1]!];
  const shift = (0.5 * (a - d)) / (a - 2 * b + d);
  return tries[best]! * (POSE.longest / POSE.shortest) ** ((Number.isFinite(shift) ? shift : 0) / (POSE.tried - 1));
}
