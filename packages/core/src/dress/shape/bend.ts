/**
 * The bend: the pin's four sides as curves, for curved glass, the inside following smoothly as a Coons patch of what
 * the sides move by. A side is a natural cubic spline through its handles: of all smooth curves through points it bends
 * the least, so a handle that is added on the curve leaves it as it is. Displacements are in the slot's own plane (see
 * placement.ts), so that perspective is kept. Sources: S. A. Coons, Surfaces for Computer-Aided Design of Space Forms,
 * 1967; the natural spline and its system after W. H. Press et al., Numerical Recipes, section 3.3.
 */
import { clamp } from '../../clamp';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';

export interface BendHandle {
  /** along the side in the order TL to TR, TR to BR, BL to BR, TL to BL: 0 to 1, both ends left out */
  readonly at: number;
  /** shares of the slot's width and height by which the side is moved there, to the right and down */
  readonly x?: Animated;
  readonly y?: Animated;
}

/** One to five handles a side; a side without any is straight. */
export interface Bend {
  readonly top?: readonly BendHandle[];
  readonly right?: readonly BendHandle[];
  readonly bottom?: readonly BendHandle[];
  readonly left?: readonly BendHandle[];
}

export const BEND_SIDES = ['top', 'right', 'bottom', 'left'] as const;

/** Second derivatives of the natural cubic spline through (x, y); x rising. */
function naturalSpline(x: readonly number[], y: readonly number[]): number[] {
  const n = x.length;
  const second = new Array<number>(n).fill(0);
  const u = new Array<number>(n).fill(0);
  for (let i = 1; i < n - 1; i++) {
    const share = (x[i]! - x[i - 1]!) / (x[i + 1]! - x[i - 1]!);
    const p = share * second[i - 1]! + 2;
    const slope = (y[i + 1]! - y[i]!) / (x[i + 1]! - x[i]!) - (y[i]! - y[i - 1]!) / (x[i]! - x[i - 1]!);
    second[i] = (share - 1) / p;
    u[i] = ((6 * slope) / (x[i + 1]! - x[i - 1]!) - share * u[i - 1]!) / p;
  }
  for (let i = n - 2; i >= 0; i--) second[i] = second[i]! * second[i + 1]! + u[i]!;
  second[0] = 0;
  return second;
}

function splineAt(x: readonly number[], y: readonly number[], second: readonly number[], t: number): number {
  let i = 1;
  while (i < x.length - 1 && x[i]! < t) i++;
  const h = x[i]! - x[i - 1]!;
  const a = (x[i]! - t) / h;
  const b = 1 - a;
  return a * y[i - 1]! + b * y[i]! + (((a * a * a - a) * second[i - 1]! + (b * b * b - b) * second[i]!) * h * h) / 6;
}

/** What a side is moved by at a place along it on a frame. */
export function sideAt(handles: readonly BendHandle[], frame: number, t: number): readonly [number, number] {
  const sorted = [...handles].sort((a, b) => a.at - b.at);
  const x = [0, ...sorted.map((h) => h.at), 1];
  return (['x', 'y'] as const).map((axis) => {
    const y = [0, ...sorted.map((h) => valueAt(h[axis], frame, 0)), 0];
    return splineAt(x, y, naturalSpline(x, y), t);
  }) as unknown as [number, number];
}

/** With one more handle on a side's curve, whose shape stays. */
export function withHandle(handles: readonly BendHandle[], at: number, frame: number): BendHandle[] {
  const [x, y] = sideAt(handles, frame, at);
  return [...handles, { at, x, y }].sort((a, b) => a.at - b.at);
}

/** Pieces in which a side's length is measured. By trial. */
const STEPS = 128;

/**
 * The four sides as tables, ready for many places: top, right, bottom, left, each x and y for 0 to 1 in `STEPS`
 * steps.
 */
export type BentSides = Float64Array;

/** @returns null where nothing is bent */
export function bentSides(bend: Bend | undefined, frame: number): BentSides | null {
  if (!bend || BEND_SIDES.every((s) => !bend[s]?.length)) return null;
  const out = new Float64Array(4 * 2 * (STEPS + 2));
  BEND_SIDES.forEach((side, k) => {
    const handles = bend[side] ?? [];
    for (let i = 0; i <= STEPS + 1; i++) {
      const [x, y] = handles.length > 0 ? sideAt(handles, frame, Math.min(1, i / STEPS)) : [0, 0];
      out[(k * (STEPS + 2) + i) * 2] = x;
      out[(k * (STEPS + 2) + i) * 2 + 1] = y;
    }
  });
  return out;
}

/** Adds `share` times what a side is moved by at `at` steps along it, both axes. */
function addSide(sides: BentSides, side: number, at: number, share: number, out: Float64Array): void {
  const i = Math.floor(at);
  const k = (side * (STEPS + 2) + i) * 2;
  const f = at - i;
  out[0]! += share * (sides[k]! + f * (sides[k + 2]! - sides[k]!));
  out[1]! += share * (sides[k + 1]! + f * (sides[k + 3]! - sides[k + 1]!));
}

/** By how much the inside is moved at (s, t) of the slot: the Coons patch of the sides. [0] and [1] of `out`. */
function patchAt(sides: BentSides, s: number, t: number, out: Float64Array): void {
  const u = clamp(s, 0, 1);
  const v = clamp(t, 0, 1);
  out[0] = 0;
  out[1] = 0;
  addSide(sides, 0, u * STEPS, 1 - v, out);
  addSide(sides, 2, u * STEPS, v, out);
  addSide(sides, 3, v * STEPS, 1 - u, out);
  addSide(sides, 1, v * STEPS, u, out);
}

const scratch = new Float64Array(2);

/** By how much the inside is moved at (s, t) of the slot, shares of it, along one axis. */
export function bentBy(sides: BentSides, s: number, t: number, axis: 0 | 1): number {
  patchAt(sides, s, t, scratch);
  return scratch[axis]!;
}

/** How much what the inside is moved by changes at the most, a slot's width or height: along the sides, and from one to the other. */
export function steepestOf(sides: BentSides): number {
  let along = 0;
  let moved = 0;
  for (let k = 0; k < 4; k++)
    for (let i = 0; i < STEPS; i++)
      for (const axis of [0, 1]) {
        const at = (k * (STEPS + 2) + i) * 2 + axis;
        along = Math.max(along, Math.abs(sides[at + 2]! - sides[at]!) * STEPS);
        moved = Math.max(moved, Math.abs(sides[at]!));
      }
  return Math.SQRT2 * (along + 2 * moved);
}

/** Newton's steps from a place on the picture to the patch; four already agree to a hundredth of a px. By trial. */
const ROUNDS = 5;

/** The place of the slot that the bend moves to (s, t), by repeated substitution: [0] and [1] of `out`. */
export function unbend(sides: BentSides, s: number, t: number, out: Float64Array): void {
  let u = s;
  let v = t;
  for (let i = 0; i < ROUNDS; i++) {
    patchAt(sides, u, v, out);
    u = s - out[0]!;
    v = t - out[1]!;
  }
  out[0] = u;
  out[1] = v;
}

/** Whether the bend folds the slot over itself somewhere: its map turns a small piece inside out there. */
export function foldsOver(sides: BentSides): boolean {
  const grid = 24;
  const place = (i: number, j: number): [number, number] => [
    i / grid + bentBy(sides, i / grid, j / grid, 0),
    j / grid + bentBy(sides, i / grid, j / grid, 1),
  ];
  for (let j = 0; j < grid; j++)
    for (let i = 0; i < grid; i++) {
      const a = place(i, j);
      const b = place(i + 1, j);
      const c = place(i, j + 1);
      if ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) <= 0) return true;
    }
  return false;
}
