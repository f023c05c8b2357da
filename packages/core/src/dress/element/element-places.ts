/** Where the px of a row look in the fill, and how much of each the fill covers. */
import { clamp } from '../../clamp';
import type { Kernels } from '../../image/kernels';
import { coverageAt } from '../shape/edge';
import type { Mapped } from './bowed-rows';
import { BOW_STEP, isBowed, slotsOfRow } from './bowed-rows';
import { MAPS_AT } from '../base/kernel-memory';
import type { Margins, Sure } from './row-ranges';
import { isWithin, notBeyond, surelyInside } from './row-ranges';
import { PLACE_BYTES, SLOT_BYTES } from './workroom';

/** Bytes of what the kernels are told of a map. */
const MAP_BYTES = 72;

/** Room for a row's numbers, so that the hot loop allocates nothing. */
interface Scratch {
  readonly here: Float64Array;
  readonly right: Float64Array;
  readonly down: Float64Array;
  /** behind a lens or a bend: places in the slot of this row's px and one more, and of the next row's */
  slots: Float64Array;
  below: Float64Array;
  /** where each px of a row looks in the fill and how that changes to the right and down: u, v, du, dv, eu, ev */
  readonly places: Float64Array;
  /** how much of each px of a row the fill covers */
  readonly cover: Float32Array;
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

/**
 * The place in the slot of px `i` of a row, and those a px to the right and a px down, into the scratch.
 * @returns whether it lies before the camera
 */
function slotOf({ t, m }: Mapped, xc: number, yc: number, i: number, s: Scratch): boolean {
  const { here, right, down, slots, below } = s;
  const w = 1 / (m[6]! * xc + m[7]! * yc + m[8]!);
  if (w <= 0) return false;
  if (isBowed(t)) {
    here[0] = slots[2 * i]!;
    here[1] = slots[2 * i + 1]!;
    right[0] = slots[2 * i + 2]!;
    right[1] = slots[2 * i + 3]!;
    down[0] = below[2 * i]!;
    down[1] = below[2 * i + 1]!;
  } else {
    const x = (m[0]! * xc + m[1]! * yc + m[2]!) * w;
    const y = (m[3]! * xc + m[4]! * yc + m[5]!) * w;
    here[0] = x;
    here[1] = y;
    right[0] = x + (m[0]! - x * m[6]!) * w;
    right[1] = y + (m[3]! - y * m[6]!) * w;
    down[0] = x + (m[1]! - x * m[7]!) * w;
    down[1] = y + (m[4]! - y * m[7]!) * w;
  }
  return true;
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
  private readonly x0: number;
  private readonly n: number;
  /** in the kernels' memory; null where the rows are worked without them */
  readonly held: RowKernels | null;

  /** @param squares the slot, and the fill's own picture where the fill ends with it @param row its first px, and how many it has */
  constructor(
    private readonly mapped: Mapped,
    private readonly squares: Sure,
    [x0, n]: readonly [x0: number, n: number],
    kernels: Kernels | null,
  ) {
    [this.x0, this.n] = [x0, n];
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
    if (isBowed(this.mapped.t)) this.slotsOf(y);
  }

  /** Places of the px of a row. @param y of it, one more than at the call before */
  row(y: number): void {
    if (isBowed(this.mapped.t)) this.bowed(y);
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
    const { x0, n, held, scratch, squares } = this;
    const x1 = x0 + n;
    const [first, end] = notBeyond(squares, y, x0, x1);
    const [from, to] = surelyInside(squares, y, first, end);
    scratch.cover.fill(0);
    for (let x = first; x < from; x++) this.place(x, y, false);
    for (let x = Math.max(from, to); x < end; x++) this.place(x, y, false);
    if (held) {
      held.kernels.run.rowPlaces(MAPS_AT, from + 0.5, y + 0.5, to - from, held.placesAt + 48 * (from - x0));
      scratch.cover.fill(1, from - x0, to - x0);
    } else for (let x = from; x < to; x++) this.place(x, y, true);
  }

  /** Puts the slots of a row into `below`. */
  private slotsOf(y: number): void {
    const { held, scratch, x0, n, mapped } = this;
    const { below } = scratch;
    const { lens, bend } = mapped.t;
    if (!held || !lens || bend) return slotsOfRow(mapped, [x0 + 0.5, y + 0.5], below);
    const { radial, width, height } = lens;
    held.kernels.run.lensSlots(MAPS_AT, radial, width, height, x0 + 0.5, y + 0.5, n + 1, BOW_STEP, below.byteOffset);
  }

  private bowed(y: number): void {
    const { held, scratch, x0, n } = this;
    [scratch.slots, scratch.below] = [scratch.below, scratch.slots];
    this.slotsOf(y + 1);
    const { slots, below, cover } = scratch;
    if (held) held.kernels.run.slotPlaces(MAPS_AT + MAP_BYTES, slots.byteOffset, below.byteOffset, n, held.placesAt);
    const [across, down] = this.squares[0].beyond;
    const reached: Margins = [-across, -down];
    for (let i = 0; i < n; i++) {
      if (held && this.isInside(i)) cover[i] = 1;
      else if (isWithin(reached, slots[2 * i]!, slots[2 * i + 1]!)) this.place(x0 + i, y, false);
      else cover[i] = 0;
    }
  }

  /** Whether px `i` of a row, whose place the kernels have told, surely lies within the slot and the fill. */
  private isInside(i: number): boolean {
    const [slot, own] = this.squares;
    const { slots, places } = this.scratch;
    if (!isWithin(slot.within, slots[2 * i]!, slots[2 * i + 1]!)) return false;
    if (!own) return true;
    const { width, height } = this.mapped.t.fill[0]!;
    return isWithin(own.within, places[6 * i]! / width, places[6 * i + 1]! / height);
  }
}
