/** An outline drawn in one stroke, as few points with handles. */
import type { Handles } from '@yarlop/core/geometry/curve';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import fitCurve from 'fit-curve';

/** Px by which the curve may lie beside the stroke; finer where so few pieces are left that they hold nothing. By eye. */
const NEAR = [4, 2, 1, 0.5] as const;
/** Points that an outline has at least: with fewer, each of them moves all of it. By eye. */
const LEAST = 4;

/**
 * @param stroke places that the pointer passed, in px of the view, in which the hand's tremble is the same at any zoom
 * @returns a closed outline; null for a stroke that goes around nothing
 */
export function closedCurve(stroke: readonly Point[]): { points: Point[]; handles: Handles[] } | null {
  const open = stroke.filter((p, i) => i === 0 || distance(p, stroke[i - 1]!) > 0);
  const first = open[0];
  if (!first || open.length < 6) return null;
  const round = [...open, first].map(([x, y]) => [x, y]);
  const pieces = NEAR.map((px) => fitCurve(round, px * px)).find((p) => p.length >= LEAST);
  if (!pieces) return null;
  const points = pieces.map(([p]) => p as unknown as Point);
  const handles = pieces.map(([p, out], i): Handles => {
    const [, , into] = pieces[(i + pieces.length - 1) % pieces.length]!;
    return [into[0]! - p[0]!, into[1]! - p[1]!, out[0]! - p[0]!, out[1]! - p[1]!];
  });
  return { points, handles };
}
