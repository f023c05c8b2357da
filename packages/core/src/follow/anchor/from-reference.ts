/** A run from another frame, told as if it had begun at the reference: all comes to lie by where that one was found. */
import { cornerCovariance, sigmasOf, withError } from '../../geometry/corner-information';
import type { Matrix2 } from '../../geometry/homography';
import { derivativeAt, mapPoint, normaliseHomography, quadToQuad } from '../../geometry/homography';
import type { Lens } from '../../geometry/lens';
import { distort, undistort } from '../../geometry/lens';
import { fromTriangle, triangle } from '../../geometry/linear-algebra';
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { mapQuad, perspectiveCentre } from '../../geometry/quad';
import type { FrameResult } from '../../solve/frame-result';
import { trustOf } from '../evidence/trust';

/** px; what is known of corners without evidence. */
export const UNKNOWN = 50;

/** Both ends of what is told anew, and the reference frame as it was found from the one. */
export interface Ends {
  /** what was followed, px of the frame it was followed from */
  readonly from: Quad;
  /** the same on the reference frame, exact */
  readonly pin: Quad;
  readonly reference: FrameResult;
  /** of the plate, px */
  readonly width: number;
  readonly height: number;
}

const each = (q: Quad, map: (p: Quad[0]) => Quad[0]): Quad => q.map(map) as unknown as Quad;

/** Covariance of corners on a frame from that on the reference. @param by how each corner moves with its own there */
function carriedCovariance(covariance: Float64Array, by: readonly Matrix2[]): Float64Array {
  const out = new Float64Array(64);
  for (let i = 0; i < 8; i++)
    for (let j = 0; j < 8; j++)
      for (let k = 0; k < 2; k++)
        for (let l = 0; l < 2; l++) {
          const a = by[i >> 1]![2 * (i & 1) + k]!;
          const b = by[j >> 1]![2 * (j & 1) + l]!;
          out[i * 8 + j]! += a * b * covariance[((i & 6) + k) * 8 + (j & 6) + l]!;
        }
  return out;
}

/** What each corner moves by where it moves by so much on the reference. @param moved x0 y0 x1 y1 ... */
function carriedShift(moved: readonly number[], by: readonly Matrix2[]): number[] {
  return by.flatMap(([a, b, c, d], i) => {
    const [x, y] = [moved[2 * i]!, moved[2 * i + 1]!];
    return [a * x + b * y, c * x + d * y];
  });
}

/** How a frame's corners would lie behind another lens: the reference's stay where they are. */
function bowOf(own: FrameResult['bow'], reference: FrameResult['bow'], by: readonly Matrix2[]): number[] | null {
  if (!own || !reference) return null;
  const back = carriedShift(reference, by);
  return own.map((v, i) => v - back[i]!);
}

/** Places of the trust map on the reference's ideal picture. @param toReference from that of the frame that was followed from */
function movedCells(cells: readonly number[], toReference: Matrix3): number[] {
  const out: number[] = [];
  for (let i = 0; i + 3 < cells.length; i += 4) {
    const [x, y, side, trust] = cells.slice(i, i + 4) as [number, number, number, number];
    const at = mapPoint(toReference, [x, y]);
    const edge = mapPoint(toReference, [x + side, y]);
    out.push(...[...at, Math.hypot(edge[0] - at[0], edge[1] - at[1])].map((v) => Math.round(v * 10) / 10), trust);
  }
  return out;
}

/** px by which the reference frame lies beside where it is known to, and where what was followed lies by that one. */
export function corrected({ from, pin, reference, width, height }: Ends): { readonly pin: Quad; readonly off: number } {
  const lens = { radial: reference.lens ?? 0, width, height };
  const straight = (q: Quad): Quad => each(q, (p) => undistort(lens, p));
  const seen = mapQuad(reference.homography!, from);
  const back = quadToQuad(straight(seen), straight(from));
  const off = seen.reduce((sum, [x, y], i) => sum + Math.hypot(x - pin[i]![0], y - pin[i]![1]), 0) / 4;
  return { pin: each(mapQuad(back, straight(pin)), (p) => distort(lens, p)), off };
}

/**
 * A frame's result by the reference frame; errors of both add up.
 * @param result of a frame that was found from the other
 */
export function byReference(result: FrameResult, ends: Ends): FrameResult {
  const { from, pin, reference, width, height } = ends;
  const lens: Lens = { radial: result.lens ?? 0, width, height };
  const straight = (q: Quad): Quad => each(q, (p) => undistort(lens, p));
  const origin = straight(from);
  const back = quadToQuad(straight(mapQuad(reference.homography!, from)), origin);
  const onwards = quadToQuad(origin, straight(mapQuad(result.homography!, from)));
  const ideal = multiply(onwards, back);
  const straightPin = straight(pin);
  const corners = each(mapQuad(ideal, straightPin), (p) => distort(lens, p));
  const by = straightPin.map((p) => derivativeAt(ideal, p));
  const own = cornerCovariance(fromTriangle(reference.information), UNKNOWN)!;
  const added = carriedCovariance(own, by);
  const sigma = sigmasOf(added).map((s, i) => Math.hypot(s, result.sigma[i]!));
  const share = trustOf(sigma, 1, width) / Math.max(trustOf(result.sigma, 1, width), Number.MIN_VALUE);
  return {
    ...result,
    homography: normaliseHomography(quadToQuad(pin, corners), perspectiveCentre(pin)),
    bow: bowOf(result.bow, reference.bow, by),
    sigma,
    information: triangle(withError(fromTriangle(result.information), added)),
    trust: result.trust * Math.min(1, share),
    ...(result.cells ? { cells: movedCells(result.cells, inverse(back)) } : {}),
  };
}
