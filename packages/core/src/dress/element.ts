/** The element: the fill as it lies on the Screen in one frame, sharp and at rest, in scene-linear premultiplied light. */
import { unitSquareToQuad } from '../geometry/homography';
import type { Lens } from '../geometry/lens';
import { undistort } from '../geometry/lens';
import type { Matrix3 } from '../geometry/matrix3';
import { inverse } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import type { BentSides } from './bend';
import { unbend } from './bend';
import type { EdgeShape } from './edge';
import { coverageAt } from './edge';
import { filterFill } from './fill-filter';
import type { FillPyramid } from './fill-pyramid';
import type { Region } from './region';

export interface ElementTask {
  readonly fill: FillPyramid;
  /** of the pin on the frame, plate px */
  readonly corners: Quad;
  /** slot (0 to 1) to fill px, see placement.ts */
  readonly toFill: Matrix3;
  /** the fill ends where its picture ends instead of going on to the pin's sides */
  readonly ends: boolean;
  readonly bend: BentSides | null;
  readonly edge: EdgeShape;
  readonly aspect: number;
  /** the lens that bows the picture, its size in the same px */
  readonly lens?: Lens | null;
}

/** Room for a row's numbers, so that the hot loop allocates nothing. */
interface Scratch {
  readonly sum: Float64Array;
  readonly here: Float64Array;
  readonly right: Float64Array;
  readonly down: Float64Array;
  /** shares of the slot's width and height farther than which from the sides the outline covers everything */
  readonly safe: Float64Array;
}

/** Where the outline surely covers everything: beyond what inset, feather and corners reach, by the steepest slope of the slot at its corners. */
function safeMargins({ edge, aspect, bend, lens }: ElementTask, toSlot: Matrix3, flat: Quad): Float64Array {
  if (bend || lens) return Float64Array.of(1, 1);
  let gs = 0, gt = 0;
  for (const [x, y] of flat) {
    const w = 1 / (toSlot[6]! * x + toSlot[7]! * y + toSlot[8]!), s = (toSlot[0]! * x + toSlot[1]! * y + toSlot[2]!) * w, t = (toSlot[3]! * x + toSlot[4]! * y + toSlot[5]!) * w;
    gs = Math.max(gs, Math.hypot(toSlot[0]! - s * toSlot[6]!, toSlot[1]! - s * toSlot[7]!) * Math.abs(w));
    gt = Math.max(gt, Math.hypot(toSlot[3]! - t * toSlot[6]!, toSlot[4]! - t * toSlot[7]!) * Math.abs(w));
  }
  const px = 2 + Math.max(0, edge.inset) + Math.max(...edge.feather), round = Math.max(...edge.radius);
  return Float64Array.of(Math.max(px * gs * 1.2, round > 0 ? round / aspect + px * gs * 1.2 : 0), Math.max(px * gt * 1.2, round > 0 ? round + px * gt * 1.2 : 0));
}

/** Place in the slot of a picture position behind a lens: [0] and [1] of `out`. */
function throughLens(lens: Lens, m: Matrix3, x: number, y: number, out: Float64Array): void {
  const [u, v] = undistort(lens, [x, y]), w = 1 / (m[6]! * u + m[7]! * v + m[8]!);
  out[0] = (m[0]! * u + m[1]! * v + m[2]!) * w;
  out[1] = (m[3]! * u + m[4]! * v + m[5]!) * w;
}

/** Cover of the fill's own border at (u, v), from its derivatives per px right and down. */
function ownCover(width: number, height: number, u: number, v: number, du: number, dv: number, eu: number, ev: number): number {
  const gu = 1 / Math.hypot(du, eu), gv = 1 / Math.hypot(dv, ev), part = (d: number): number => Math.min(1, Math.max(0, d + 0.5));
  return part(u * gu) * part((width - u) * gu) * part(v * gv) * part((height - v) * gv);
}

function elementRow(t: ElementTask, toSlot: Matrix3, region: Region, y: number, x0: number, x1: number, out: Float32Array, scratch: Scratch): void {
  const { sum, here, right, down, safe } = scratch, safeS = safe[0]!, safeT = safe[1]!, { toFill: p, bend, edge, aspect, fill, ends, lens } = t, m = toSlot, yc = y + 0.5, base = fill[0]!;
  for (let x = x0; x < x1; x++) {
    const xc = x + 0.5, w = 1 / (m[6]! * xc + m[7]! * yc + m[8]!);
    if (w <= 0) continue;
    let s = (m[0]! * xc + m[1]! * yc + m[2]!) * w, v = (m[3]! * xc + m[4]! * yc + m[5]!) * w;
    let sx = (m[0]! - s * m[6]!) * w, sy = (m[1]! - s * m[7]!) * w, tx = (m[3]! - v * m[6]!) * w, ty = (m[4]! - v * m[7]!) * w;
    if (lens || bend) {
      // Behind a lens or a bend the derivatives are what lies a px to the right and a px down.
      if (lens) {
        throughLens(lens, m, xc, yc, here);
        throughLens(lens, m, xc + 1, yc, right);
        throughLens(lens, m, xc, yc + 1, down);
      } else {
        [here[0], here[1]] = [s, v];
        [right[0], right[1]] = [s + sx, v + tx];
        [down[0], down[1]] = [s + sy, v + ty];
      }
      if (bend) for (const place of [here, right, down]) unbend(bend, place[0]!, place[1]!, place);
      s = here[0]!;
      v = here[1]!;
      sx = right[0]! - s;
      tx = right[1]! - v;
      sy = down[0]! - s;
      ty = down[1]! - v;
    }
    let cover = s > safeS && s < 1 - safeS && v > safeT && v < 1 - safeT ? 1 : coverageAt(edge, aspect, s, v, sx, sy, tx, ty);
    if (cover === 0) continue;
    const q = 1 / (p[6]! * s + p[7]! * v + p[8]!), u = (p[0]! * s + p[1]! * v + p[2]!) * q, z = (p[3]! * s + p[4]! * v + p[5]!) * q;
    const us = (p[0]! - u * p[6]!) * q, ut = (p[1]! - u * p[7]!) * q, zs = (p[3]! - z * p[6]!) * q, zt = (p[4]! - z * p[7]!) * q;
    const du = us * sx + ut * tx, dv = zs * sx + zt * tx, eu = us * sy + ut * ty, ev = zs * sy + zt * ty;
    if (ends) cover *= q > 0 ? ownCover(base.width, base.height, u, z, du, dv, eu, ev) : 0;
    if (cover === 0) continue;
    filterFill(fill, u, z, du, dv, eu, ev, sum);
    const k = ((y - region.y) * region.width + x - region.x) * 4;
    out[k] = cover * sum[0]!;
    out[k + 1] = cover * sum[1]!;
    out[k + 2] = cover * sum[2]!;
    out[k + 3] = cover * sum[3]!;
  }
}

/**
 * @param region of the plate; pixels whose centre's footprint the fill does not reach stay as they are
 * @param out `Float32Array` of width*height*4 of the region, zero on entry
 */
export function drawElement(t: ElementTask, region: Region, out: Float32Array): void {
  const flat = t.lens ? (t.corners.map((c) => undistort(t.lens!, c)) as unknown as Quad) : t.corners, toSlot = inverse(unitSquareToQuad(flat)), ends = flat.reduce((s, c) => s + (toSlot[6]! * c[0] + toSlot[7]! * c[1] + toSlot[8]!), 0) < 0 ? toSlot.map((v) => -v) : toSlot;
  const scratch: Scratch = { sum: new Float64Array(4), here: new Float64Array(2), right: new Float64Array(2), down: new Float64Array(2), safe: safeMargins(t, toSlot, flat) };
  const xs = t.corners.map((c) => c[0]), ys = t.corners.map((c) => c[1]), reach = t.bend || t.lens || t.edge.inset < 0 ? Infinity : 1;
  const x0 = Math.max(region.x, Math.floor(Math.min(...xs) - reach)), x1 = Math.min(region.x + region.width, Math.ceil(Math.max(...xs) + reach));
  const y0 = Math.max(region.y, Math.floor(Math.min(...ys) - reach)), y1 = Math.min(region.y + region.height, Math.ceil(Math.max(...ys) + reach));
  for (let y = y0; y < y1; y++) elementRow(t, ends, region, y, x0, x1, out, scratch);
}
