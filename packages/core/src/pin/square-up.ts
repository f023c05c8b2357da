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
  /** Step of the finite differences, in the parameters' own units. By trial. */
  difference: 1e-6,
  /** Share added to the diagonal of the first step. By trial. */
  damping: 1e-4,
  /** The same at which no step helps any more. By trial. */
  mostDamping: 1e8,
  /** Squared half widths; errors that are none. By trial. */
  exact: 1e-18,
  /** Squared half widths; a gain that ends the fit. By trial. */
  settled: 1e-16,
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

/** Corners about the middle of the picture, px, and one unit of them. */
interface Frame {
  readonly half: number;
  readonly middle: number;
}

const toUnits = (pin: Quad, { half, middle }: Frame): Point[] =>
  pin.map(([x, y]): Point => [(x - half) / half, (y - middle) / half]);
const toPixels = (q: readonly (readonly number[])[], { half, middle }: Frame): Quad =>
  q.map(([x, y]): Point => [x! * half + half, y! * half + middle]) as unknown as Quad;

const squares = (e: readonly number[]): number => e.reduce((s, v) => s + v * v, 0);

/** The step that lessens errors, by finite differences. @param damping added to the diagonal, relative */
function stepFrom(
  p: readonly number[],
  e: readonly number[],
  o: { readonly free: number; readonly damping: number; readonly errors: (p: readonly number[]) => number[] },
): Float64Array | null {
  const n = o.free;
  const columns = Array.from({ length: n }, (_, k) => {
    const up = o.errors(p.map((v, i) => v + (i === k ? SQUARE_UP.difference : 0)));
    return up.map((v, i) => (v - e[i]!) / SQUARE_UP.difference);
  });
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    b[i] = -columns[i]!.reduce((s, v, r) => s + v * e[r]!, 0);
    for (let j = 0; j < n; j++)
      a[i * n + j] = columns[i]!.reduce((s, v, r) => s + v * columns[j]![r]!, 0) * (i === j ? 1 + o.damping : 1);
  }
  return solveLinear(a, b);
}

/**
 * Levenberg-Marquardt (D. Marquardt 1963) on a pose and a focal length.
 * @param free parameters that may change: 6 of a pose, 7 with the focal length's logarithm
 */
function fitted(start: readonly number[], free: number, errors: (p: readonly number[]) => number[]): readonly number[] {
  let p = start;
  let e = errors(p);
  let damping: number = SQUARE_UP.damping;
  for (let round = 0; round < SQUARE_UP.rounds && squares(e) > SQUARE_UP.exact; round++) {
    const step = stepFrom(p, e, { free, damping, errors });
    if (!step) break;
    const next = p.map((v, i) => v + (i < free ? step[i]! : 0));
    const left = errors(next);
    const gain = squares(e) - squares(left);
    if (left.every(Number.isFinite) && gain > 0) {
      [p, e, damping] = [next, left, damping / 4];
      if (gain < SQUARE_UP.settled) break;
    } else if ((damping *= 8) > SQUARE_UP.mostDamping) break;
  }
  return p;
}

const isLens = (focal: number): boolean => focal >= SQUARE_UP.shortest && focal <= SQUARE_UP.longest;

/** What is wrong with a pin that was squared up; null when nothing is. @param focal null where it was not free */
function warningOf(pin: Quad, moved: number, focal: number | null): string | null {
  const shortest = Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3]));
  if (moved > SQUARE_UP.disagrees * shortest)
    return `No lens shows a screen of this ratio like this pin: a corner had to move by ${moved.toFixed(1)} px. Check the ratio, and whether the corners lie on the lit glass.`;
  if (focal !== null && !isLens(focal))
    return `Pin and ratio agree only through a lens of ${focal.toFixed(2)} picture widths, which is hardly one. Check the ratio.`;
  return null;
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
  const frame = { half: size.width / 2, middle: size.height / 2 };
  const q = toUnits(pin, frame);
  const told = Math.sqrt(focalFrom(unitSquareToQuad(q), ratio)) / 2;
  const isFree = typed === undefined && isLens(told);
  const focal = typed ?? (isFree ? told : SQUARE_UP.usual);
  const errors = (v: readonly number[]): number[] =>
    project(v, ratio).flatMap((c, i) => [c[0] - q[i]![0], c[1] - q[i]![1]]);
  const p = fitted(firstPose(q, ratio, 2 * focal), isFree ? 7 : 6, errors);
  const corners = toPixels(project(p, ratio), frame);
  assertPin(corners);
  const found = isFree ? Math.exp(p[6]!) / 2 : null;
  const moved = Math.max(...corners.map((c, i) => distance(c, pin[i]!)));
  return { corners, focal: found, moved, warning: warningOf(pin, moved, found) };
}
