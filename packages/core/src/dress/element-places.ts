/** Where the px of a row look in the fill, and how much of each the fill covers. */
import { clamp } from '../clamp';
import type { Kernels } from '../image/kernels';
import type { Lens } from '../geometry/lens';
import { undistort } from '../geometry/lens';
import type { Matrix3 } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { unbend } from './bend';
import { coverageAt } from './edge';
import type { ElementTask } from './element-task';
import { MAPS_AT } from './kernel-memory';
import { PLACE_BYTES, SLOT_BYTES } from './workroom';

/** Bytes of what the kernels are told of a map. */
const MAP_BYTES = 72;

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

/** Ideal px that a real one is wide behind a lens, at the most over the corners. @param flat ideal corners */
function stretchOf({ radial, width, height }: Lens, flat: Quad): number {
  const half = width / 2;
  const slopes = flat.map(([x, y]) => 1 + (3 * radial * ((x - half) ** 2 + (y - height / 2) ** 2)) / half ** 2);
  return 1 / clamp(Math.min(...slopes), 0.05, 1);
}

/**
 * Where the outline surely covers everything: beyond what inset, feather and corners reach, by the steepest slope of
 * the slot at its corners.
 */
export function safeMargins({ edge, aspect, bend, lens }: ElementTask, toSlot: Matrix3, flat: Quad): Float64Array {
  if (bend) return Float64Array.of(1, 1);
  let gs = 0;
  let gt = 0;
  for (const [x, y] of flat) {
    const w = 1 / (toSlot[6]! * x + toSlot[7]! * y + toSlot[8]!);
    const s = (toSlot[0]! * x + toSlot[1]! * y + toSlot[2]!) * w;
    const t = (toSlot[3]! * x + toSlot[4]! * y + toSlot[5]!) * w;
    gs = Math.max(gs, Math.hypot(toSlot[0]! - s * toSlot[6]!, toSlot[1]! - s * toSlot[7]!) * Math.abs(w));
    gt = Math.max(gt, Math.hypot(toSlot[3]! - t * toSlot[6]!, toSlot[4]! - t * toSlot[7]!) * Math.abs(w));
  }
  const px = (2 + Math.max(0, edge.inset) + Math.max(...edge.feather)) * (lens ? stretchOf(lens, flat) : 1);
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

/** The kernels, and where in their memory a row's numbers lie. */
interface RowKernels {
  readonly kernels: Kernels;
  readonly slotsAt: number;
  readonly placesAt: number;
  readonly coverAt: number;
}

/** Places of the rows of an element, one row after the other from the top. */
export class RowPlaces {
  private readonly scratch: Scratch;
  /** in the kernels' memory; null where the rows are worked without them */
  readonly held: RowKernels | null;

  /**
   * @param m from the ideal picture to the slot
   * @param x0 of the first px of a row
   * @param n px of a row
   */
  constructor(
    private readonly t: ElementTask,
    private readonly m: Matrix3,
    private readonly safe: Float64Array,
    private readonly x0: number,
    private readonly n: number,
    kernels: Kernels | null,
  ) {
    const at = kernels?.scratch((PLACE_BYTES + SLOT_BYTES) * (n + 1)) ?? null;
    const slotDoubles = 2 * (n + 1);
    const placesAt = (at ?? 0) + 2 * 8 * slotDoubles;
    this.held = kernels && at !== null ? { kernels, slotsAt: at, placesAt, coverAt: placesAt + 48 * n } : null;
    const doubles = (from: number, count: number): Float64Array =>
      this.held ? new Float64Array(kernels!.memory.buffer, from, count) : new Float64Array(count);
    this.scratch = {
      here: new Float64Array(2),
      right: new Float64Array(2),
      down: new Float64Array(2),
      slots: doubles(at ?? 0, slotDoubles),
      below: doubles((at ?? 0) + 8 * slotDoubles, slotDoubles),
      places: doubles(placesAt, 6 * n),
      cover: this.held ? new Float32Array(kernels!.memory.buffer, this.held.coverAt, n) : new Float32Array(n),
    };
    if (this.held) new Float64Array(kernels!.memory.buffer, MAPS_AT, 18).set([...m, ...t.toFill]);
  }

  /** six numbers a px of the row: u, v, du, dv, eu, ev */
  get places(): Float64Array {
    return this.scratch.places;
  }

  get cover(): Float32Array {
    return this.scratch.cover;
  }

  /** Before the first row. @param y of it */
  begin(y: number): void {
    if (this.t.lens) this.slotsOf(this.t.lens, y);
  }

  /** Places of the px of a row. @param y of it, one more than at the call before */
  row(y: number): void {
    if (this.t.lens) this.behindLens(this.t.lens, y);
    else this.flat(y);
  }

  private place(x: number, y: number, inside: boolean): void {
    placePixel(this.t, this.m, x, y, x - this.x0, inside, this.scratch);
  }

  private flat(y: number): void {
    const { x0, n, held, scratch } = this;
    const x1 = x0 + n;
    const [from, to] = insideOfRow(this.m, y, this.safe, x0, x1);
    for (let x = x0; x < from; x++) this.place(x, y, false);
    for (let x = Math.max(from, to); x < x1; x++) this.place(x, y, false);
    if (held) {
      held.kernels.run.rowPlaces(MAPS_AT, from + 0.5, y + 0.5, to - from, held.placesAt + 48 * (from - x0));
      scratch.cover.fill(1, from - x0, to - x0);
    } else for (let x = from; x < to; x++) this.place(x, y, true);
  }

  /** Puts the slots of a row into `below`. */
  private slotsOf(lens: Lens, y: number): void {
    const { held, scratch, m, x0, n } = this;
    const { below } = scratch;
    if (!held) return slotsOfRow(lens, m, x0 + 0.5, y + 0.5, n + 1, below);
    const { radial, width, height } = lens;
    held.kernels.run.lensSlots(MAPS_AT, radial, width, height, x0 + 0.5, y + 0.5, n + 1, LENS_STEP, below.byteOffset);
  }

  private behindLens(lens: Lens, y: number): void {
    const { held, scratch, safe, x0, n } = this;
    [scratch.slots, scratch.below] = [scratch.below, scratch.slots];
    this.slotsOf(lens, y + 1);
    const { slots, below, cover } = scratch;
    const byKernels = held !== null && this.t.bend === null;
    if (byKernels)
      held.kernels.run.slotPlaces(MAPS_AT + MAP_BYTES, slots.byteOffset, below.byteOffset, n, held.placesAt);
    const [ms, mt] = safe as unknown as [number, number];
    for (let i = 0; i < n; i++) {
      const s = slots[2 * i]!;
      const t = slots[2 * i + 1]!;
      const inside = s > ms && s < 1 - ms && t > mt && t < 1 - mt;
      if (inside && byKernels) cover[i] = 1;
      else this.place(x0 + i, y, inside);
    }
  }
}
