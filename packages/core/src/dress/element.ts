/**
 * The element: the fill as it lies on the Screen in one frame, sharp and at rest, in scene-linear premultiplied light.
 */
import { clamp } from '../clamp';
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import { kernelsFor } from '../image/kernels';
import type { Lens } from '../geometry/lens';
import { undistort } from '../geometry/lens';
import type { Matrix3 } from '../geometry/matrix3';
import { inverse, multiply } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import type { BentSides } from './bend';
import { unbend } from './bend';
import type { EdgeShape } from './edge';
import { coverageAt } from './edge';
import { MOST_TAPS, NEARLY, filterFill, footprint } from './fill-filter';
import type { FillPyramid } from './fill-pyramid';
import { MAPS_AT, SIZES_AT } from './kernel-memory';
import type { Region } from './region';
import { PLACE_BYTES, heldSizes } from './workroom';

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
  readonly here: Float64Array;
  readonly right: Float64Array;
  readonly down: Float64Array;
  /** behind a lens: places in the slot of this row's px and one more, and of the next row's */
  slots: Float64Array;
  below: Float64Array;
  /** where each px of a row looks in the fill and how that changes to the right and down: u, v, du, dv, eu, ev */
  readonly places: Float64Array;
  /** how much of each px of a row the fill covers */
  readonly cover: Float32Array;
}

/**
 * Where the outline surely covers everything: beyond what inset, feather and corners reach, by the steepest slope of
 * the slot at its corners.
 */
function safeMargins({ edge, aspect, bend, lens }: ElementTask, toSlot: Matrix3, flat: Quad): Float64Array {
  if (bend || lens) return Float64Array.of(1, 1);
  let gs = 0;
  let gt = 0;
  for (const [x, y] of flat) {
    const w = 1 / (toSlot[6]! * x + toSlot[7]! * y + toSlot[8]!);
    const s = (toSlot[0]! * x + toSlot[1]! * y + toSlot[2]!) * w;
    const t = (toSlot[3]! * x + toSlot[4]! * y + toSlot[5]!) * w;
    gs = Math.max(gs, Math.hypot(toSlot[0]! - s * toSlot[6]!, toSlot[1]! - s * toSlot[7]!) * Math.abs(w));
    gt = Math.max(gt, Math.hypot(toSlot[3]! - t * toSlot[6]!, toSlot[4]! - t * toSlot[7]!) * Math.abs(w));
  }
  const px = 2 + Math.max(0, edge.inset) + Math.max(...edge.feather);
  const round = Math.max(...edge.radius);
  return Float64Array.of(
    Math.max(px * gs * 1.2, round > 0 ? round / aspect + px * gs * 1.2 : 0),
    Math.max(px * gt * 1.2, round > 0 ? round + px * gt * 1.2 : 0),
  );
}

/**
 * px of a row from one position to the next that is put through the lens; between them its bow is straight within
 * 0.001 px for a bow of a tenth.
 */
const LENS_STEP = 4;

/** Places in the slot of `n` px of a row behind a lens, s and t one after the other. */
function slotsOfRow(lens: Lens, m: Matrix3, x: number, y: number, n: number, out: Float64Array): void {
  let from = undistort(lens, [x, y]);
  for (let i = 0; i < n; i += LENS_STEP) {
    const to = undistort(lens, [x + i + LENS_STEP, y]);
    const end = Math.min(n, i + LENS_STEP);
    for (let k = i; k < end; k++) {
      const share = (k - i) / LENS_STEP;
      const u = from[0] + share * (to[0] - from[0]);
      const v = from[1] + share * (to[1] - from[1]);
      const w = 1 / (m[6]! * u + m[7]! * v + m[8]!);
      out[2 * k] = (m[0]! * u + m[1]! * v + m[2]!) * w;
      out[2 * k + 1] = (m[3]! * u + m[4]! * v + m[5]!) * w;
    }
    from = to;
  }
}

/** Cover of the fill's own border at (u, v), from its derivatives per px right and down. */
function ownCover(
  width: number,
  height: number,
  u: number,
  v: number,
  du: number,
  dv: number,
  eu: number,
  ev: number,
): number {
  const gu = 1 / Math.hypot(du, eu);
  const gv = 1 / Math.hypot(dv, ev);
  const part = (d: number): number => clamp(d + 0.5, 0, 1);
  return part(u * gu) * part((width - u) * gu) * part(v * gv) * part((height - v) * gv);
}

/** The place of px `x` of a row in the fill into `places[i]`, and what of it is covered into `cover[i]`. */
function placePixel(
  t: ElementTask,
  m: Matrix3,
  x: number,
  y: number,
  i: number,
  inside: boolean,
  { here, right, down, slots, below, places, cover }: Scratch,
): void {
  const { toFill: p, bend, edge, aspect, fill, ends, lens } = t;
  const base = fill[0]!;
  const xc = x + 0.5;
  const yc = y + 0.5;
  const w = 1 / (m[6]! * xc + m[7]! * yc + m[8]!);
  cover[i] = 0;
  if (w <= 0) return;
  let s = (m[0]! * xc + m[1]! * yc + m[2]!) * w;
  let v = (m[3]! * xc + m[4]! * yc + m[5]!) * w;
  let sx = (m[0]! - s * m[6]!) * w;
  let sy = (m[1]! - s * m[7]!) * w;
  let tx = (m[3]! - v * m[6]!) * w;
  let ty = (m[4]! - v * m[7]!) * w;
  if (lens || bend) {
    // Behind a lens or a bend the derivatives are what lies a px to the right and a px down.
    if (lens) {
      [here[0], here[1]] = [slots[2 * i]!, slots[2 * i + 1]!];
      [right[0], right[1]] = [slots[2 * i + 2]!, slots[2 * i + 3]!];
      [down[0], down[1]] = [below[2 * i]!, below[2 * i + 1]!];
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
  let part = inside ? 1 : coverageAt(edge, aspect, s, v, sx, sy, tx, ty);
  if (part === 0) return;
  const q = 1 / (p[6]! * s + p[7]! * v + p[8]!);
  const u = (p[0]! * s + p[1]! * v + p[2]!) * q;
  const z = (p[3]! * s + p[4]! * v + p[5]!) * q;
  const us = (p[0]! - u * p[6]!) * q;
  const ut = (p[1]! - u * p[7]!) * q;
  const zs = (p[3]! - z * p[6]!) * q;
  const zt = (p[4]! - z * p[7]!) * q;
  const k = 6 * i;
  const du = us * sx + ut * tx;
  const dv = zs * sx + zt * tx;
  const eu = us * sy + ut * ty;
  const ev = zs * sy + zt * ty;
  if (ends) part *= q > 0 ? ownCover(base.width, base.height, u, z, du, dv, eu, ev) : 0;
  cover[i] = part;
  places[k] = u;
  places[k + 1] = z;
  places[k + 2] = du;
  places[k + 3] = dv;
  places[k + 4] = eu;
  places[k + 5] = ev;
}

/**
 * The px of a row, from `x0` to before `x1`, that lie farther within the slot than {@link safeMargins}: each bound is a
 * half of the row.
 */
function insideOfRow(m: Matrix3, y: number, safe: Float64Array, x0: number, x1: number): [from: number, to: number] {
  const yc = y + 0.5;
  const s = m[1]! * yc + m[2]!;
  const t = m[4]! * yc + m[5]!;
  const w = m[7]! * yc + m[8]!;
  const [ms, mt] = safe as unknown as [number, number];
  let low = -Infinity;
  let high = Infinity;
  const bound = (p: number, q: number): void => {
    if (p > 0) low = Math.max(low, -q / p);
    else if (p < 0) high = Math.min(high, -q / p);
    else if (q <= 0) high = -Infinity;
  };
  bound(m[6]!, w);
  bound(m[0]! - ms * m[6]!, s - ms * w);
  bound((1 - ms) * m[6]! - m[0]!, (1 - ms) * w - s);
  bound(m[3]! - mt * m[6]!, t - mt * w);
  bound((1 - mt) * m[6]! - m[3]!, (1 - mt) * w - t);
  const from = clamp(Math.ceil(low + 0.5), x0, x1);
  const to = clamp(Math.floor(high - 0.5), x0, x1);
  return to > from ? [from, to] : [x0, x0];
}

/** Points a side of the slot at which {@link sizesNeeded} looks, less one. By trial. */
const GRID = 8;

/** Which sizes of the fill are filtered, with one more on either side where a bend or a lens changes the scale. */
export function sizesNeeded(t: ElementTask): { readonly low: number; readonly high: number } {
  const toPicture = unitSquareToQuad(flatCorners(t));
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
  { places, cover }: Scratch,
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

/** Corners as a lens without bow would show them. */
function flatCorners({ corners, lens }: ElementTask): Quad {
  return lens ? (corners.map((c) => undistort(lens, c)) as unknown as Quad) : corners;
}

/**
 * @param region of the plate; pixels whose centre's footprint the fill does not reach stay as they are
 * @param out `Float32Array` of width*height*4 of the region, zero on entry
 */
export function drawElement(t: ElementTask, region: Region, out: Float32Array): void {
  const flat = flatCorners(t);
  const toSlot = inverse(unitSquareToQuad(flat));
  const m =
    flat.reduce((s, c) => s + (toSlot[6]! * c[0] + toSlot[7]! * c[1] + toSlot[8]!), 0) < 0
      ? toSlot.map((v) => -v)
      : toSlot;
  const xs = t.corners.map((c) => c[0]);
  const ys = t.corners.map((c) => c[1]);
  const reach = t.bend || t.lens || t.edge.inset < 0 ? Infinity : 1;
  const x0 = Math.max(region.x, Math.floor(Math.min(...xs) - reach));
  const x1 = Math.min(region.x + region.width, Math.ceil(Math.max(...xs) + reach));
  const y0 = Math.max(region.y, Math.floor(Math.min(...ys) - reach));
  const y1 = Math.min(region.y + region.height, Math.ceil(Math.max(...ys) + reach));
  const n = x1 - x0;
  if (n <= 0) return;
  const held = heldSizes(t.fill);
  const wasm = held && kernelsFor(out);
  const at = wasm ? wasm.scratch(PLACE_BYTES * n) : null;
  const sum = new Float64Array(4);
  const safe = t.ends ? Float64Array.of(1, 1) : safeMargins(t, m, flat);
  const lensRow = t.lens ? 2 * (n + 1) : 0;
  const scratch: Scratch = {
    here: new Float64Array(2),
    right: new Float64Array(2),
    down: new Float64Array(2),
    slots: new Float64Array(lensRow),
    below: new Float64Array(lensRow),
    places: at === null ? new Float64Array(6 * n) : new Float64Array(wasm!.memory.buffer, at, 6 * n),
    cover: at === null ? new Float32Array(n) : new Float32Array(wasm!.memory.buffer, at + 48 * n, n),
  };
  if (at !== null) new Float64Array(wasm!.memory.buffer, MAPS_AT, 18).set([...m, ...t.toFill]);
  if (t.lens) slotsOfRow(t.lens, m, x0 + 0.5, y0 + 0.5, n + 1, scratch.below);
  for (let y = y0; y < y1; y++) {
    if (t.lens) {
      [scratch.slots, scratch.below] = [scratch.below, scratch.slots];
      slotsOfRow(t.lens, m, x0 + 0.5, y + 1.5, n + 1, scratch.below);
    }
    const [from, to] = insideOfRow(m, y, safe, x0, x1);
    const first = ((y - region.y) * region.width + x0 - region.x) * 4;
    for (let x = x0; x < from; x++) placePixel(t, m, x, y, x - x0, false, scratch);
    for (let x = Math.max(from, to); x < x1; x++) placePixel(t, m, x, y, x - x0, false, scratch);
    if (at !== null) {
      wasm!.run.rowPlaces(MAPS_AT, from + 0.5, y + 0.5, to - from, at + 48 * (from - x0));
      scratch.cover.fill(1, from - x0, to - x0);
      wasm!.run.filterRow(
        at,
        at + 48 * n,
        n,
        SIZES_AT,
        held!.low,
        held!.high,
        t.fill.length - 1,
        MOST_TAPS,
        NEARLY,
        out.byteOffset + 4 * first,
      );
    } else {
      for (let x = from; x < to; x++) placePixel(t, m, x, y, x - x0, true, scratch);
      filterRow(t, scratch, n, out, first, sum);
    }
  }
}
