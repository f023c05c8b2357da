/**
 * The element: the fill as it lies on the Screen in one frame, sharp and at rest, in scene-linear premultiplied light.
 */
import { undistortQuad } from '../../geometry/lens';
import { clamp } from '../../clamp';
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import { kernelsFor } from '../../image/kernels';
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { RowPlaces } from './element-places';
import type { ElementTask } from './element-task';
import { sureSquares } from './row-ranges';
import { MOST_TAPS, NEARLY, filterFill, footprint } from '../fill/fill-filter';
import { SIZES_AT } from '../base/kernel-memory';
import type { Region } from '../base/region';
import { heldSizes } from './workroom';

export type { ElementTask } from './element-task';

/** Points a side of the slot at which {@link sizesNeeded} looks, less one. By trial. */
const GRID = 8;

/** Which sizes of the fill are filtered, with one more on either side where a bend or a lens changes the scale. */
export function sizesNeeded(t: ElementTask): { readonly low: number; readonly high: number } {
  const toPicture = unitSquareToQuad(undistortQuad(t.lens ?? null, t.corners));
  const toFill = multiply(t.toFill, inverse(toPicture));
  const last = t.fill.length - 1;
  const apart = t.bend || t.lens ? 1 : 0.1;
  let least = Infinity;
  let most = 0;
  for (let k = 0; k < (GRID + 1) ** 2; k++) {
    const [x, y] = mapPoint(toPicture, [(k % (GRID + 1)) / GRID, Math.floor(k / (GRID + 1)) / GRID]);
    const [l, r, u, d] = [
      mapPoint(toFill, [x - 0.5, y]),
      mapPoint(toFill, [x + 0.5, y]),
      mapPoint(toFill, [x, y - 0.5]),
      mapPoint(toFill, [x, y + 0.5]),
    ];
    const lod = Math.log2(footprint(r[0] - l[0], r[1] - l[1], d[0] - u[0], d[1] - u[1]));
    if (!Number.isFinite(lod)) return { low: 0, high: last };
    least = Math.min(least, lod);
    most = Math.max(most, lod);
  }
  return { low: clamp(Math.floor(least - apart), 0, last), high: Math.min(last, Math.ceil(most + apart)) };
}

function filterRow(
  t: ElementTask,
  { places, cover }: Pick<RowPlaces, 'places' | 'cover'>,
  n: number,
  out: Float32Array,
  at: number,
  sum: Float64Array,
): void {
  for (let i = 0, k = at; i < n; i++, k += 4) {
    const c = cover[i]!;
    if (c === 0) continue;
    filterFill(
      t.fill,
      places[6 * i]!,
      places[6 * i + 1]!,
      places[6 * i + 2]!,
      places[6 * i + 3]!,
      places[6 * i + 4]!,
      places[6 * i + 5]!,
      sum,
    );
    for (let b = 0; b < 4; b++) out[k + b] = c * sum[b]!;
  }
}

/** From the picture as a lens without bow would show it to the slot; what it maps lies before the camera. */
function pictureToSlot(flat: Quad): Matrix3 {
  const m = inverse(unitSquareToQuad(flat));
  const ahead = flat.reduce((s, c) => s + (m[6]! * c[0] + m[7]! * c[1] + m[8]!), 0);
  return ahead < 0 ? m.map((v) => -v) : m;
}

/** The px of a region that an element may cover. */
function boxOf(t: ElementTask, region: Region): { x0: number; x1: number; y0: number; y1: number } {
  const xs = t.corners.map((c) => c[0]);
  const ys = t.corners.map((c) => c[1]);
  const reach = t.bend || t.lens || t.edge.inset.some((v) => v < 0) ? Infinity : 1;
  return {
    x0: Math.max(region.x, Math.floor(Math.min(...xs) - reach)),
    x1: Math.min(region.x + region.width, Math.ceil(Math.max(...xs) + reach)),
    y0: Math.max(region.y, Math.floor(Math.min(...ys) - reach)),
    y1: Math.min(region.y + region.height, Math.ceil(Math.max(...ys) + reach)),
  };
}

/**
 * @param region of the plate; pixels whose centre's footprint the fill does not reach stay as they are
 * @param out `Float32Array` of width*height*4 of the region, zero on entry
 */
export function drawElement(t: ElementTask, region: Region, out: Float32Array): void {
  const flat = undistortQuad(t.lens ?? null, t.corners);
  const m = pictureToSlot(flat);
  const { x0, x1, y0, y1 } = boxOf(t, region);
  const n = x1 - x0;
  if (n <= 0) return;
  // More may be held than this frame needs; what is filtered must not depend on the frames before.
  const needed = heldSizes(t.fill) && sizesNeeded(t);
  const rows = new RowPlaces({ t, m }, sureSquares(t, m, flat), [x0, n], needed && kernelsFor(out));
  const { held } = rows;
  const sum = new Float64Array(4);
  rows.begin(y0);
  for (let y = y0; y < y1; y++) {
    const first = ((y - region.y) * region.width + x0 - region.x) * 4;
    rows.row(y);
    if (!held || !needed) {
      filterRow(t, rows, n, out, first, sum);
      continue;
    }
    held.kernels.run.filterRow(
      held.placesAt,
      held.coverAt,
      n,
      SIZES_AT,
      needed.low,
      needed.high,
      t.fill.length - 1,
      MOST_TAPS,
      NEARLY,
      out.byteOffset + 4 * first,
    );
  }
}
