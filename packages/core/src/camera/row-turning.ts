/**
 * Whether rows turn as a camera that is read out row by row would have them turn: along with how fast it turns itself.
 * Rows that turn otherwise only make up for something else, a lens or a focal length that is a little off.
 */
import { product } from '../geometry/linear-algebra';
import { vectorOf } from '../geometry/pose';
import type { KnownView } from './scene';
import type { View } from './view-model';

/** Share of the rows' turning that the camera's own must explain. By trial. */
const LEAST_EXPLAINED = 0.4;
/** Frames that must tell it. By trial. */
const LEAST_FRAMES = 4;

/** Radians by which the camera turns from one view to another, in its own axes. */
function turnBetween(a: View, b: View): readonly number[] {
  const back = Float64Array.from([0, 3, 6, 1, 4, 7, 2, 5, 8], (k) => a[k]!);
  return vectorOf([...product(b.slice(0, 9), back, 3)]);
}

interface Turns {
  /** of the camera, radians, three a frame */
  readonly own: readonly (readonly number[])[];
  /** of its rows */
  readonly rows: readonly (readonly number[])[];
}

function turnsOf(views: ReadonlyMap<number, KnownView>): Turns {
  const own: (readonly number[])[] = [];
  const rows: (readonly number[])[] = [];
  for (const [frame, { view }] of views) {
    const [before, after] = [views.get(frame - 1), views.get(frame + 1)];
    if (!before || !after) continue;
    own.push(turnBetween(before.view, after.view));
    rows.push([...view.subarray(12, 15)]);
  }
  return { own, rows };
}

const sumOfProducts = (a: Turns['own'], b: Turns['own']): number =>
  a.reduce((sum, v, i) => sum + v.reduce((s, x, k) => s + x * b[i]![k]!, 0), 0);

/** Share of the rows' turning that one multiple of the camera's own explains; 0 where they turn against it. */
function explained({ own, rows }: Turns): number {
  const cross = sumOfProducts(own, rows);
  const both = sumOfProducts(own, own) * sumOfProducts(rows, rows);
  return cross > 0 && both > 0 ? (cross * cross) / both : 0;
}

function withoutMean(all: Turns['own']): number[][] {
  const mean = [0, 1, 2].map((k) => all.reduce((s, v) => s + v[k]!, 0) / all.length);
  return all.map((v) => v.map((x, k) => x - mean[k]!));
}

/** @param views of a solved camera, by frame */
export function turnsWithReadout(views: ReadonlyMap<number, KnownView>): boolean {
  const turns = turnsOf(views);
  if (turns.own.length < LEAST_FRAMES) return false;
  // A part that stays the same may make up for the lens; what changes with the camera tells all the same.
  const changing = { own: withoutMean(turns.own), rows: withoutMean(turns.rows) };
  return Math.max(explained(turns), explained(changing)) > LEAST_EXPLAINED;
}
