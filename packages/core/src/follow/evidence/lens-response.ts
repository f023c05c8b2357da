/**
 * How a solved frame would lie behind another lens, from the measurements that it rests on: a larger radial term moves
 * where the plane's places are expected and where they are seen; what no movement of the plane takes up of it moves the
 * corners. To first order in the term, by the normal equations of the frame (see `camera-evidence.ts`), so that a lens
 * that is typed after following asks for no new run.
 */
import { cholesky, choleskySolve, solveLinear } from '../../geometry/linear-algebra';
import type { Lens } from '../../geometry/lens';
import { distort, undistort } from '../../geometry/lens';
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply } from '../../geometry/matrix3';
import { addScalar, noEquations, pointJacobian } from '../../geometry/motion-equations';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Row } from './camera-evidence';

/** What the parts of one remembered picture tell of a frame. */
export interface Measured {
  readonly rows: readonly Row[];
  /** the rows' parameters are those of a warp in coordinates about this px, of which a unit is `scale` px */
  readonly centre: Point;
  readonly scale: number;
  /** from that picture to the frame, and the pin in it */
  readonly homography: Matrix3;
  readonly pin: Quad;
  /** how that picture lies elsewhere itself: see {@link planeResponse}; null for the reference, which stays */
  readonly own: readonly number[] | null;
}

const RESPONSE = {
  /** Rows below which a frame says nothing. By trial. */
  leastRows: 16,
  /** Share of the equations' own size that is added to their diagonal: directions that nothing measured stay. By trial. */
  ridge: 1e-6,
  /** Change of the radial term for the slope of what is not linear in it. */
  step: 1e-4,
} as const;

/** Movement of the corners (x0 y0 x1 y1 ...) to the eight parameters of a warp; null for a plane seen edge on. */
function cornersToWarp({ homography, pin, centre, scale }: Measured): Float64Array[] | null {
  const m = multiply(homography, [scale, 0, centre[0], 0, scale, centre[1], 0, 0, 1]);
  const jacobian = new Float64Array(64);
  const rows = new Float64Array(16);
  for (const [i, corner] of pin.entries()) {
    pointJacobian(m, (corner[0] - centre[0]) / scale, (corner[1] - centre[1]) / scale, rows);
    jacobian.set(rows, 16 * i);
  }
  const columns: Float64Array[] = [];
  for (let k = 0; k < 8; k++) {
    const unit = Float64Array.from({ length: 8 }, (_, i) => (i === k ? 1 : 0));
    const column = solveLinear(jacobian.slice(), unit);
    if (!column) return null;
    columns.push(column);
  }
  return columns;
}

/** By how much a frame's corners go along with a movement of the remembered picture's own, to first order. */
function goneAlong({ homography, pin, own }: Measured): Float64Array {
  const out = new Float64Array(8);
  if (!own) return out;
  const { step } = RESPONSE;
  for (const [i, corner] of pin.entries()) {
    const at = mapPoint(homography, corner);
    const then = mapPoint(homography, [corner[0] + step * own[2 * i]!, corner[1] + step * own[2 * i + 1]!]);
    out[2 * i] = (then[0] - at[0]) / step;
    out[2 * i + 1] = (then[1] - at[1]) / step;
  }
  return out;
}

/**
 * What the plane's own movement takes up of a unit of the term: by how much the places of the pin's corners in the plane,
 * held where they are, move in the frame, px of the ideal picture (x0 y0 x1 y1 ...); null where too little was measured.
 */
export function planeResponse(measured: readonly Measured[]): number[] | null {
  if (measured.reduce((n, m) => n + m.rows.length, 0) < RESPONSE.leastRows) return null;
  const equations = noEquations();
  for (const group of measured) {
    if (group.rows.length === 0) continue;
    const warps = cornersToWarp(group);
    if (!warps) return null;
    const along = goneAlong(group);
    for (const { j, q, w } of group.rows) {
      const ofCorners = Float64Array.from(warps, (warp) => warp.reduce((s, v, p) => s + v * j[p]!, 0));
      addScalar(equations, ofCorners, q + ofCorners.reduce((s, v, p) => s + v * along[p]!, 0), w);
    }
  }
  const { a, b } = equations;
  let size = 0;
  for (let i = 0; i < 8; i++) size += a[9 * i]! / 8;
  for (let i = 0; i < 8; i++) a[9 * i]! += RESPONSE.ridge * size;
  if (!(size > 0) || !cholesky(a, 8)) return null;
  choleskySolve(a, 8, b);
  return b.every(Number.isFinite) ? [...b] : null;
}

/**
 * @param h reference to frame, in the ideal picture
 * @param pin on the reference frame, in the ideal picture
 * @param own see {@link planeResponse}
 * @returns by how many px of the picture each corner of the pin moves (x0 y0 x1 y1 ...) a unit of the lens's radial term
 */
export function lensResponse(h: Matrix3, pin: Quad, lens: Lens, own: readonly number[]): number[] {
  const { step } = RESPONSE;
  const behind = { ...lens, radial: lens.radial + step };
  return pin.flatMap((corner, i) => {
    const at = mapPoint(h, corner);
    // The corner is where it was clicked in the reference's picture: behind another lens that is another place.
    const straight = mapPoint(h, undistort(behind, distort(lens, corner)));
    const moved: Point = [straight[0] + step * own[2 * i]!, straight[1] + step * own[2 * i + 1]!];
    const [now, then] = [distort(lens, at), distort(behind, moved)];
    return [(then[0] - now[0]) / step, (then[1] - now[1]) / step];
  });
}
