/**
 * How the rows of a rolling shutter turn, and how a camera that is read out row by row would have them turn: along with
 * how fast it turns itself. Rows that turn otherwise only make up for something else, a lens or a focal length that is a
 * little off.
 */
import { product } from '../geometry/linear-algebra';
import { vectorOf } from '../geometry/pose';
import { mean } from '../statistics';
import type { KnownView } from './scene';
import type { View } from './view-model';
import { ROWS, ROWS_AT, ROWS_EXPECTED_AT, ROWS_SIGMA_AT } from './view-model';

/** Share of the rows' turning that the camera's own must explain. By trial. */
const LEAST_EXPLAINED = 0.4;
/** Frames that must tell it. By trial. */
const LEAST_FRAMES = 4;

/**
 * How fast a camera turns, from how it stands one, two and three frames before and after: a shake of seven hertz at
 * twenty-four frames is told to 14 %, by the neighbours alone to 47 %.
 * Source: B. Fornberg, Generation of Finite Difference Formulas on Arbitrarily Spaced Grids, 1988 (sixth order).
 */
const SLOPE = [45 / 60, -9 / 60, 1 / 60] as const;
/** How that changes, from the same frames; same source. */
const BEND = [3 / 2, -3 / 20, 1 / 90] as const;

/** Frames on either side over which what is slow is told from a shake. By trial. */
const SLOW = 6;

/** Radians by which rows may be off what is expected of them, where the camera's own turning tells it. By trial. */
const TOLD_SIGMA = 0.002;

/** Radians by which the camera turns from one view to another, in its own axes. */
function turnBetween(a: View, b: View): readonly number[] {
  const back = Float64Array.from([0, 3, 6, 1, 4, 7, 2, 5, 8], (k) => a[k]!);
  return vectorOf([...product(b.slice(0, 9), back, 3)]);
}

/**
 * Radians a frame by which the camera turns as it stands on a frame, and how much that grows a frame, three each; null
 * where its neighbours are not known.
 */
function turningAt(views: ReadonlyMap<number, KnownView>, frame: number): number[] | null {
  const own = views.get(frame)!.view;
  const turn = new Array<number>(ROWS).fill(0);
  for (let n = 0; n < SLOPE.length; n++) {
    const [before, after] = [views.get(frame - n - 1), views.get(frame + n + 1)];
    if (!before || !after) return null;
    const [back, on] = [turnBetween(own, before.view), turnBetween(own, after.view)];
    for (let k = 0; k < 3; k++) {
      turn[k]! += SLOPE[n]! * (on[k]! - back[k]!);
      turn[3 + k]! += BEND[n]! * (on[k]! + back[k]!);
    }
  }
  return turn;
}

interface Turns {
  readonly frames: readonly number[];
  /** of the camera, radians a frame, and what that grows by */
  readonly own: readonly (readonly number[])[];
  /** of its rows: what is even, and what it grows by */
  readonly rows: readonly (readonly number[])[];
}

function turnsOf(views: ReadonlyMap<number, KnownView>): Turns {
  const frames: number[] = [];
  const own: (readonly number[])[] = [];
  const rows: (readonly number[])[] = [];
  for (const [frame, { view }] of [...views].sort(([a], [b]) => a - b)) {
    const turn = turningAt(views, frame);
    if (!turn) continue;
    frames.push(frame);
    own.push(turn);
    rows.push([...view.subarray(ROWS_AT, ROWS_AT + ROWS)]);
  }
  return { frames, own, rows };
}

type Series = readonly (readonly number[])[];

const sumOfProducts = (a: Series, b: Series): number =>
  a.reduce((sum, v, i) => sum + v.reduce((s, x, k) => s + x * b[i]![k]!, 0), 0);

const evenPart = (all: Series): number[][] => all.map((v) => v.slice(0, 3));
const bendPart = (all: Series): number[][] => all.map((v) => v.slice(3));

/** By how much the one series must be multiplied to be the other; not below 0. */
function multiple(of: Series, by: Series): number {
  const own = sumOfProducts(of, of);
  return own > 0 ? Math.max(0, sumOfProducts(of, by) / own) : 0;
}

/** The mean of each number over the frames about. */
function slowPart(frames: readonly number[], all: Series): number[][] {
  return frames.map((frame) => {
    const near = all.filter((_, i) => Math.abs(frames[i]! - frame) <= SLOW);
    return all[0]!.map((_, k) => mean(near.map((v) => v[k]!)));
  });
}

/** Without the mean of each number over all frames. */
function withoutMean(all: Series): number[][] {
  const means = all[0]!.map((_, k) => mean(all.map((v) => v[k]!)));
  return all.map((v) => v.map((x, k) => x - means[k]!));
}

const less = (a: Series, b: Series): number[][] => a.map((v, i) => v.map((x, k) => x - b[i]![k]!));

/** Share of the rows' turning that one multiple of the camera's own explains; 0 where they turn against it. */
function explained(own: Series, rows: Series): number {
  const cross = sumOfProducts(own, rows);
  const both = sumOfProducts(own, own) * sumOfProducts(rows, rows);
  return cross > 0 && both > 0 ? (cross * cross) / both : 0;
}

/** @param views of a solved camera, by frame */
export function turnsWithReadout(views: ReadonlyMap<number, KnownView>): boolean {
  const turns = turnsOf(views);
  if (turns.frames.length < LEAST_FRAMES) return false;
  const [own, rows] = [evenPart(turns.own), evenPart(turns.rows)];
  // A part that stays the same may make up for the lens; what changes with the camera tells all the same.
  const changing = explained(withoutMean(own), withoutMean(rows));
  return Math.max(explained(own, rows), changing) > LEAST_EXPLAINED;
}

/**
 * Views that expect of their rows what the camera's own turning makes of them. What changes from frame to frame is told
 * by the picture; what is slow goes by the camera, or it makes up for a focal length that is off; and what the turning
 * grows by within a frame goes by the camera altogether.
 */
export function withRowsExpected(views: ReadonlyMap<number, KnownView>): Map<number, KnownView> {
  const { frames, own, rows } = turnsOf(views);
  const out = new Map(views);
  if (frames.length < LEAST_FRAMES) return out;
  const [evenOwn, evenRows] = [evenPart(own), evenPart(rows)];
  const [slowOwn, slowRows] = [slowPart(frames, evenOwn), slowPart(frames, evenRows)];
  const readout = multiple(less(evenOwn, slowOwn), less(evenRows, slowRows));
  const growth = multiple(bendPart(own), bendPart(rows));
  for (const [frame, known] of views) {
    const at = nearest(frames, frame);
    const view = known.view.slice();
    for (let k = 0; k < 3; k++) {
      view[ROWS_EXPECTED_AT + k] = view[ROWS_AT + k]! - slowRows[at]![k]! + readout * slowOwn[at]![k]!;
      view[ROWS_EXPECTED_AT + 3 + k] = frames[at] === frame ? growth * own[at]![3 + k]! : 0;
    }
    view[ROWS_SIGMA_AT] = TOLD_SIGMA;
    out.set(frame, { ...known, view });
  }
  return out;
}

/** Place of the number nearest to one. */
function nearest(among: readonly number[], to: number): number {
  return among.reduce((best, n, i) => (Math.abs(n - to) < Math.abs(among[best]! - to) ? i : best), 0);
}
