/**
 * Squaring up: the pin that a rectangle of a known ratio can look like through a lens in front of the picture's middle,
 * as near to the given corners as may be. Eight numbers of a pin stand against six of a pose and the focal length: one
 * is left over, and it tells how far pin and ratio disagree. Source: Z. Zhang, A Flexible New Technique for Camera
 * Calibration, PAMI 2000, section 2 (focal length from a plane's view); refined by D. Marquardt's damped least squares
 * (1963).
 */
import { CoreError } from '../errors';
import { unitSquareToQuad } from '../geometry/homography';
import { solveLinear } from '../geometry/linear-algebra';
import { rotationBy, vectorOf } from '../geometry/pose';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { assertPin } from '../geometry/quad';

export interface SquaredUp {
  readonly corners: Quad;
  /** picture widths; null where the view is too flat-on to tell it, and a usual lens was taken */
  readonly focal: number | null;
  /** px by which the farthest corner was moved */
  readonly moved: number;
  /** a sentence when pin and ratio hardly agree, else null */
  readonly warning: string | null;
}

const SQUARE_UP = {
  /** Picture widths; a usual lens. Common practice, no source. */
  usual: 1.3,
  /** Picture widths; the shortest believable one. By trial. */
  shortest: 0.35,
  /** Picture widths; the longest believable one. By trial. */
  longest: 12,
  /** Of the screen's shorter diagonal; movement of a corner from which the pin is said to disagree. By trial. */
  disagrees: 0.012,
  /** Steps of the fit at the most. By trial. */
  rounds: 60,
} as const;

/**
 * Squared focal lengths, half widths, that make the sides meet squarely and in their ratio; NaN where the view does not
 * tell.
 */
function focalFrom(h: readonly number[], ratio: number): number {
  const [h1, h2] = [
    [h[0]!, h[3]!, h[6]!],
    [h[1]!, h[4]!, h[7]!],
  ].map((v, i) => v.map((x) => x * (i === 0 ? 1 / ratio : 1))) as [number[], number[]];
  // f^2 from r1.r2 = 0 and |r1| = |r2|, weighed by how much each tells.
  const a1 = h1[2]! * h2[2]!;
  const b1 = -(h1[0]! * h2[0]! + h1[1]! * h2[1]!);
  const a2 = h1[2]! ** 2 - h2[2]! ** 2;
  const b2 = h2[0]! ** 2 + h2[1]! ** 2 - h1[0]! ** 2 - h1[1]! ** 2;
  const weight = a1 * a1 + a2 * a2;
  return weight < 1e-12 ? NaN : (a1 * b1 + a2 * b2) / weight;
}

/**
 * Corners of the rectangle by rotation vector, translation and logarithm of the focal length, half widths about the
 * middle.
 */
function project(p: readonly number[], ratio: number): Point[] {
  const r = rotationBy(p);
  const f = Math.exp(p[6]!);
  return (
    [
      [-ratio / 2, -0.5],
      [ratio / 2, -0.5],
      [ratio / 2, 0.5],
      [-ratio / 2, 0.5],
    ] as const
  ).map(([x, y]): Point => {
    const z = r[6]! * x + r[7]! * y + p[5]!;
    return [(f * (r[0]! * x + r[1]! * y + p[3]!)) / z, (f * (r[3]! * x + r[4]! * y + p[4]!)) / z];
  });
}

function firstPose(q: readonly Point[], ratio: number, f: number): number[] {
  const unit = unitSquareToQuad(q);
  const h = unit.map((v, i) => (i % 3 === 0 ? v / ratio : v));
  // Columns of K^-1 H, about the rectangle's middle.
  const col = (i: number): number[] => [h[i]! / f, h[3 + i]! / f, h[6 + i]!];
  const [a, b] = [col(0), col(1)];
  const k = 2 / (Math.hypot(...a) + Math.hypot(...b));
  const t0 = col(2);
  const t = t0.map((v, i) => k * (v + (ratio / 2) * a[i]! + 0.5 * b[i]!));
  const r1 = a.map((v) => v / Math.hypot(...a));
  const d = b.reduce((s, v, i) => s + v * r1[i]!, 0);
  const r2o = b.map((v, i) => v - d * r1[i]!);
  const r2 = r2o.map((v) => v / Math.hypot(...r2o));
  const r3 = [r1[1]! * r2[2]! - r1[2]! * r2[1]!, r1[2]! * r2[0]! - r1[0]! * r2[2]!, r1[0]! * r2[1]! - r1[1]! * r2[0]!];
  return [...vectorOf([r1[0]!, r2[0]!, r3[0]!, r1[1]!, r2[1]!, r3[1]!, r1[2]!, r2[2]!, r3[2]!]), ...t, Math.log(f)];
}

/**
 * @param ratio width by height of the content, as the device is held to show it upright
 * @param size of the picture, px; its middle is where the lens looks
 * @param typed focal length, picture widths, where it is known
 * @throws CoreError `degenerate` for a pin that is none, `invalid` for a ratio that is none
 */
export function squareUp(
  pin: Quad,
  ratio: number,
  size: { readonly width: number; readonly height: number },
  typed?: number,
): SquaredUp {
  assertPin(pin);
  if (!(ratio >= 0.05 && ratio <= 20))
    throw new CoreError(
      'invalid',
      'The ratio must lie between 1 : 20 and 20 : 1; type the width and height of the lit part of the screen.',
    );
  const half = size.width / 2;
  const q = pin.map(([x, y]): Point => [(x - half) / half, (y - size.height / 2) / half]);
  const told = focalFrom(unitSquareToQuad(q), ratio);
  const f0 = Math.sqrt(told) / 2;
  const known = Number.isFinite(f0) && f0 >= SQUARE_UP.shortest && f0 <= SQUARE_UP.longest;
  const free = typed === undefined && known;
  const focal = typed ?? (known ? f0 : SQUARE_UP.usual);
  let p = firstPose(q, ratio, 2 * focal);
  let damping = 1e-4;
  const n = free ? 7 : 6;
  const errors = (v: readonly number[]): number[] =>
    project(v, ratio).flatMap((c, i) => [c[0] - q[i]![0], c[1] - q[i]![1]]);
  const cost = (e: readonly number[]): number => e.reduce((s, v) => s + v * v, 0);
  let e = errors(p);
  for (let it = 0; it < SQUARE_UP.rounds && cost(e) > 1e-18; it++) {
    const columns = Array.from({ length: n }, (_, k) => {
      const d = 1e-6;
      const up = errors(p.map((v, i) => v + (i === k ? d : 0)));
      return up.map((v, i) => (v - e[i]!) / d);
    });
    const a = new Float64Array(n * n);
    const b = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      b[i] = -columns[i]!.reduce((s, v, r) => s + v * e[r]!, 0);
      for (let j = 0; j < n; j++)
        a[i * n + j] = columns[i]!.reduce((s, v, r) => s + v * columns[j]![r]!, 0) * (i === j ? 1 + damping : 1);
    }
    const step = solveLinear(a, b);
    if (!step) break;
    const next = p.map((v, i) => v + (i < n ? step[i]! : 0));
    const left = errors(next);
    if (left.every(Number.isFinite) && cost(left) < cost(e)) {
      const gain = cost(e) - cost(left);
      [p, e, damping] = [next, left, damping / 4];
      if (gain < 1e-16) break;
    } else if ((damping *= 8) > 1e8) break;
  }
  const corners = project(p, ratio).map(([x, y]): Point => [
    x * half + half,
    y * half + size.height / 2,
  ]) as unknown as Quad;
  const moved = Math.max(...corners.map((c, i) => distance(c, pin[i]!)));
  const shortest = Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3]));
  assertPin(corners);
  const end = Math.exp(p[6]!) / 2;
  const believable = end >= SQUARE_UP.shortest && end <= SQUARE_UP.longest;
  let warning: string | null;
  if (moved > SQUARE_UP.disagrees * shortest)
    warning = `No lens shows a screen of this ratio like this pin: a corner had to move by ${moved.toFixed(1)} px. Check the ratio, and whether the corners lie on the lit glass.`;
  else if (free && !believable)
    warning = `Pin and ratio agree only through a lens of ${end.toFixed(2)} picture widths, which is hardly one. Check the ratio.`;
  else warning = null;
  return { corners, focal: free ? end : null, moved, warning };
}
