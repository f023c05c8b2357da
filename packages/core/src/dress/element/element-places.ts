/** Where the px of a row look in the fill, and how much of each the fill covers. */
import { clamp } from '../../clamp';
import type { Kernels } from '../../image/kernels';
import type { Lens } from '../../geometry/lens';
import { undistort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { unbend } from '../shape/bend';
import { coverageAt } from '../shape/edge';
import type { ElementTask } from './element-task';
import { MAPS_AT } from '../base/kernel-memory';
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
  const px = (2 + Math.max(0, ...edge.inset) + Math.max(...edge.feather)) * (lens ? stretchOf(lens, flat) : 1);
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

/** Places in the slot of the px of a row behind a lens from (x, y) on, s and t one after the other. */
function slotsOfRow(lens: Lens, m: Matrix3, [x, y]: Point, out: Float64Array): void {
  const n = out.length / 2;
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

/** Cover of the fill's own border, at the place of px `i` of a row. */
function ownCover(
  { width, height }: { readonly width: number; readonly height: number },
  places: Float64Array,
  i: number,
): number {
  const k = 6 * i;
  const u = places[k]!;
  const v = places[k + 1]!;
  const gu = 1 / Math.hypot(places[k + 2]!, places[k + 4]!);
  const gv = 1 / Math.hypot(places[k + 3]!, places[k + 5]!);
  const part = (d: number): number => clamp(d + 0.5, 0, 1);
  return part(u * gu) * part((width - u) * gu) * part(v * gv) * part((height - v) * gv);
}

/** What places are reckoned with: the element, and the map from the ideal picture to its slot. */
interface Mapped {
  readonly t: ElementTask;
  readonly m: Matrix3;
}

/**
 * The place in the slot of px `i` of a row, and those a px to the right and a px down, into the scratch.
 * @returns whether it lies before the camera
 */
function slotOf({ t, m }: Mapped, xc: number, yc: number, i: number, s: Scratch): boolean {
  const { here, right, down, slots, below } = s;
  const w = 1 / (m[6]! * xc + m[7]! * yc + m[8]!);
  if (w <= 0) return false;
  if (t.lens) {
    [here[0], here[1]] = [slots[2 * i]!, slots[2 * i + 1]!];
    [right[0], right[1]] = [slots[2 * i + 2]!, slots[2 * i + 3]!];
    [down[0], down[1]] = [below[2 * i]!, below[2 * i + 1]!];
  } else {
    const [x, y] = [(m[0]! * xc + m[1]! * yc + m[2]!) * w, (m[3]! * xc + m[4]! * yc + m[5]!) * w];
    [here[0], here[1]] = [x, y];
    [right[0], right[1]] = [x + (m[0]! - x * m[6]!) * w, y + (m[3]! - y * m[6]!) * w];
    [down[0], down[1]] = [x + (m[1]! - x * m[7]!) * w, y + (m[4]! - y * m[7]!) * w];
  }
  if (t.bend) for (const place of [here, right, down]) unbend(t.bend, place[0]!, place[1]!, place);
  return true;
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
   * @param safe see {@link safeMargins}
   * @param x0 of the first px of a row
   * @param n px of a row
   */
  constructor(
    private readonly mapped: Mapped,
    private readonly safe: Float64Array,
    private readonly x0: number,
    private readonly n: number,
    kernels: Kernels | null,
  ) {
    const { t, m } = mapped;
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
    if (this.mapped.t.lens) this.slotsOf(this.mapped.t.lens, y);
  }

  /** Places of the px of a row. @param y of it, one more than at the call before */
  row(y: number): void {
    if (this.mapped.t.lens) this.behindLens(this.mapped.t.lens, y);
    else this.flat(y);
  }

  /** The place of px (x, y) of the row in the fill, and what of it is covered, into the scratch. */
  private place(x: number, y: number, inside: boolean): void {
    const i = x - this.x0;
    const { toFill: p, edge, aspect, fill, ends } = this.mapped.t;
    const { here, right, down, places, cover } = this.scratch;
    cover[i] = 0;
    if (!slotOf(this.mapped, x + 0.5, y + 0.5, i, this.scratch)) return;
    const s = here[0]!;
    const v = here[1]!;
    // Behind a lens or a bend the derivatives are what lies a px to the right and a px down.
    const sx = right[0]! - s;
    const tx = right[1]! - v;
    const sy = down[0]! - s;
    const ty = down[1]! - v;
    const part = inside ? 1 : coverageAt(edge, aspect, s, v, sx, sy, tx, ty);
    if (part === 0) return;
    const q = 1 / (p[6]! * s + p[7]! * v + p[8]!);
    const u = (p[0]! * s + p[1]! * v + p[2]!) * q;
    const z = (p[3]! * s + p[4]! * v + p[5]!) * q;
    const us = (p[0]! - u * p[6]!) * q;
    const ut = (p[1]! - u * p[7]!) * q;
    const zs = (p[3]! - z * p[6]!) * q;
    const zt = (p[4]! - z * p[7]!) * q;
    const k = 6 * i;
    places[k] = u;
    places[k + 1] = z;
    places[k + 2] = us * sx + ut * tx;
    places[k + 3] = zs * sx + zt * tx;
    places[k + 4] = us * sy + ut * ty;
    places[k + 5] = zs * sy + zt * ty;
    cover[i] = part;
    if (ends) cover[i] = q > 0 ? part * ownCover(fill[0]!, places, i) : 0;
  }

  private flat(y: number): void {
    const { x0, n, held, scratch } = this;
    const x1 = x0 + n;
    const [from, to] = insideOfRow(this.mapped.m, y, this.safe, x0, x1);
    for (let x = x0; x < from; x++) this.place(x, y, false);
    for (let x = Math.max(from, to); x < x1; x++) this.place(x, y, false);
    if (held) {
      held.kernels.run.rowPlaces(MAPS_AT, from + 0.5, y + 0.5, to - from, held.placesAt + 48 * (from - x0));
      scratch.cover.fill(1, from - x0, to - x0);
    } else for (let x = from; x < to; x++) this.place(x, y, true);
  }

  /** Puts the slots of a row into `below`. */
  private slotsOf(lens: Lens, y: number): void {
    const { held, scratch, x0, n } = this;
    const { m } = this.mapped;
    const { below } = scratch;
    if (!held) return slotsOfRow(lens, m, [x0 + 0.5, y + 0.5], below);
    const { radial, width, height } = lens;
    held.kernels.run.lensSlots(MAPS_AT, radial, width, height, x0 + 0.5, y + 0.5, n + 1, LENS_STEP, below.byteOffset);
  }

  private behindLens(lens: Lens, y: number): void {
    const { held, scratch, safe, x0, n } = this;
    [scratch.slots, scratch.below] = [scratch.below, scratch.slots];
    this.slotsOf(lens, y + 1);
    const { slots, below, cover } = scratch;
    const byKernels = held !== null && this.mapped.t.bend === null;
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
