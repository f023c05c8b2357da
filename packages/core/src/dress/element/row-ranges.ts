/** Which px of a row surely lie within a slot and its fill, and which surely beyond: neither needs a closer look. */
import { clamp } from '../../clamp';
import type { Lens } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply, scaling } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { steepestOf } from '../shape/bend';
import type { ElementTask } from './element-task';

/** px that anything is reckoned to reach farther than it does: for places between those that are looked at. By trial. */
const SPARE = 2;
/** Times that a slope may be steeper within a quad than at its corners. By trial. */
const STEEPER = 1.2;

/** Change of what a bend moves a place by, from which on its inverse has no bound that is of use. By trial. */
const MOST_BENT = 0.75;

/** Shares of a unit square by which a px must lie within it, or may lie beyond it: across and down. */
export type Margins = readonly [across: number, down: number];

/** From the px of the ideal picture to a unit square, and the margins on which its inside and its outside are sure. */
export interface SureSquare {
  readonly map: Matrix3;
  readonly within: Margins;
  /** Infinity where nothing is surely beyond */
  readonly beyond: Margins;
}

/** The slot, and the fill's own picture where the fill ends with it. */
export type Sure = readonly [slot: SureSquare, ...own: SureSquare[]];

/** Where sides are bent so much that a bound on how steep that is would say nothing. */
const NOTHING_SURE = { within: [1, 1], beyond: [Infinity, Infinity] } as const;

/** Ideal px that a real one is wide behind a lens, at the most over the corners. @param flat ideal corners */
function stretchOf({ radial, width, height }: Lens, flat: Quad): number {
  const half = width / 2;
  const slopes = flat.map(([x, y]) => 1 + (3 * radial * ((x - half) ** 2 + (y - height / 2) ** 2)) / half ** 2);
  return 1 / clamp(Math.min(...slopes), 0.05, 1);
}

/** How much wider a px is at the most where lens and bend bow what is straight. @returns Infinity where that has no bound */
function bowOf({ bend, lens }: Pick<ElementTask, 'bend' | 'lens'>, flat: Quad): number {
  const slope = bend ? steepestOf(bend) : 0;
  return slope < MOST_BENT ? (lens ? stretchOf(lens, flat) : 1) / (1 - slope) : Infinity;
}

/** Steepest change of a place in the square a px, at the corners of a quad of the ideal picture. */
function steepest(m: Matrix3, flat: Quad): Margins {
  let across = 0;
  let down = 0;
  for (const [x, y] of flat) {
    const w = 1 / (m[6]! * x + m[7]! * y + m[8]!);
    const s = (m[0]! * x + m[1]! * y + m[2]!) * w;
    const t = (m[3]! * x + m[4]! * y + m[5]!) * w;
    across = Math.max(across, Math.hypot(m[0]! - s * m[6]!, m[1]! - s * m[7]!) * Math.abs(w));
    down = Math.max(down, Math.hypot(m[3]! - t * m[6]!, m[4]! - t * m[7]!) * Math.abs(w));
  }
  return [across * STEEPER, down * STEEPER];
}

/**
 * The slot: within it beyond what inset, feather and corners reach, and outside it where nothing of the outline reaches.
 * @param flat the corners in the ideal picture
 * @param stretch how much wider a px is at the most where what is straight is bowed
 */
function sureSlot({ edge, aspect }: ElementTask, map: Matrix3, flat: Quad, stretch: number): SureSquare {
  if (stretch === Infinity) return { map, ...NOTHING_SURE };
  const [s, t] = steepest(map, flat);
  const inwards = (SPARE + Math.max(0, ...edge.inset) + Math.max(...edge.feather)) * stretch;
  const outwards = (SPARE + Math.max(0, ...edge.inset.map((v) => -v))) * stretch;
  const round = Math.max(...edge.radius);
  return {
    map,
    within: [
      Math.max(inwards * s, round > 0 ? round / aspect + inwards * s : 0),
      Math.max(inwards * t, round > 0 ? round + inwards * t : 0),
    ],
    beyond: [outwards * s, outwards * t],
  };
}

/** The fill's own picture, with which the fill ends. */
function sureFill({ toFill, fill }: ElementTask, toSlot: Matrix3, flat: Quad, stretch: number): SureSquare {
  const { width, height } = fill[0]!;
  const map = multiply(scaling(1 / width, 1 / height), multiply(toFill, toSlot));
  if (stretch === Infinity) return { map, ...NOTHING_SURE };
  const [s, t] = steepest(map, flat);
  const px = SPARE * stretch;
  return { map, within: [px * s, px * t], beyond: [px * s, px * t] };
}

/** @param toSlot from the ideal picture @param flat the corners there @returns the slot, and the fill's own picture where the fill ends with it */
export function sureSquares(t: ElementTask, toSlot: Matrix3, flat: Quad): Sure {
  const stretch = bowOf(t, flat);
  const slot = sureSlot(t, toSlot, flat, stretch);
  return t.ends ? [slot, sureFill(t, toSlot, flat, stretch)] : [slot];
}

/** The px of a row at which a square's place lies between its sides, drawn in by a share of it: each bound is a half of the row. */
function between(m: Matrix3, y: number, [ms, mt]: Margins): [low: number, high: number] {
  const yc = y + 0.5;
  const s = m[1]! * yc + m[2]!;
  const t = m[4]! * yc + m[5]!;
  const w = m[7]! * yc + m[8]!;
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
  return [low, high];
}

/** Whole px of a row whose middles lie within bounds and within the row; an empty range stands at its beginning. */
function wholePx([low, high]: readonly [number, number], x0: number, x1: number): [from: number, to: number] {
  const from = clamp(Math.ceil(low + 0.5), x0, x1);
  const to = clamp(Math.floor(high - 0.5), x0, x1);
  return to > from ? [from, to] : [x0, x0];
}

/** The px of a row at which all squares' places lie between their sides, drawn in by margins. */
function betweenAll(
  squares: readonly SureSquare[],
  y: number,
  margins: (q: SureSquare) => Margins,
): [low: number, high: number] {
  const all = squares.map((q) => between(q.map, y, margins(q)));
  return [Math.max(...all.map((b) => b[0])), Math.min(...all.map((b) => b[1]))];
}

/** The px of a row, from `x0` to before `x1`, that surely lie within all of the squares. */
export function surelyInside(
  squares: readonly SureSquare[],
  y: number,
  x0: number,
  x1: number,
): [from: number, to: number] {
  return wholePx(
    betweenAll(squares, y, (q) => q.within),
    x0,
    x1,
  );
}

/** The px of a row, from `x0` to before `x1`, that do not surely lie beyond one of the squares. */
export function notBeyond(
  squares: readonly SureSquare[],
  y: number,
  x0: number,
  x1: number,
): [from: number, to: number] {
  const bounded = squares.filter((q) => q.beyond[0] < Infinity);
  const [low, high] = betweenAll(bounded, y, (q) => [-q.beyond[0], -q.beyond[1]]);
  return wholePx([low - 1, high + 1], x0, x1);
}

/** Whether a place in the unit square lies farther within it than its margins. */
export function isWithin([ms, mt]: Margins, s: number, t: number): boolean {
  return s > ms && s < 1 - ms && t > mt && t < 1 - mt;
}
