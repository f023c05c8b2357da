/**
 * Where a camera stands from points of the scene that it sees: damped least squares from a view nearby, robustly, the
 * weight drawn in from coarse to fine.
 */
import { cholesky, choleskySolve } from '../geometry/linear-algebra';
import { expectedWeight, offExpected, weightOf } from './bundle';
import type { Optics, View } from './view-model';
import { Projection, VIEW_NUMBERS, movedView } from './view-model';

/** Points that one picture shows. */
export interface SeenPoints {
  /** three numbers each */
  readonly points: Float64Array;
  /** half diagonals from the picture's middle, two numbers each */
  readonly xy: Float64Array;
}

export interface Resection {
  readonly view: View;
  readonly focal: number;
  /** normal matrix of the numbers that moved, in the order of `moves`; weighed, residuals in half diagonals */
  readonly information: Float64Array;
  /** points within twice the scale */
  readonly inliers: number;
}

export interface ResectionOptions {
  /** which of the view's numbers move, as in a bundle */
  readonly moves: readonly number[];
  /** half diagonals */
  readonly scale: number;
  /** times the scale, from coarse to fine */
  readonly anneal: readonly number[];
}

/** Steps of one scale at the most. By trial. */
const ROUNDS = 12;
/** Damping, share of the diagonal. By trial. */
const DAMPING = 1e-4;

interface State {
  readonly view: View;
  readonly focal: number;
}

function normalEquations(
  seen: SeenPoints,
  { view, focal }: State,
  optics: Optics,
  moves: readonly number[],
  scale: number,
): { a: Float64Array; b: Float64Array; inliers: number } {
  const n = moves.length;
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  const p = new Projection();
  const own = { ...optics, focal };
  let inliers = 0;
  for (let i = 0; i < seen.xy.length / 2; i++) {
    if (!p.of(view, own, seen.points, 3 * i, seen.xy[2 * i + 1]!)) continue;
    const [ex, ey] = [p.x - seen.xy[2 * i]!, p.y - seen.xy[2 * i + 1]!];
    const e2 = ex * ex + ey * ey;
    const weight = weightOf(e2, scale);
    if (e2 < 4 * scale * scale) inliers++;
    for (let r = 0; r < n; r++) {
      const jx = weight * p.byView[moves[r]!]!;
      const jy = weight * p.byView[VIEW_NUMBERS + moves[r]!]!;
      b[r]! -= jx * ex + jy * ey;
      for (let c = 0; c <= r; c++)
        a[r * n + c]! += jx * p.byView[moves[c]!]! + jy * p.byView[VIEW_NUMBERS + moves[c]!]!;
    }
  }
  return { a, b, inliers };
}

/** @param start a view nearby */
export function resect(seen: SeenPoints, start: State, optics: Optics, options: ResectionOptions): Resection {
  const { moves, scale, anneal } = options;
  const n = moves.length;
  let state = start;
  for (const times of anneal)
    for (let round = 0; round < ROUNDS; round++) {
      const { a, b } = normalEquations(seen, state, optics, moves, times * scale);
      for (let i = 0; i < n; i++) {
        const kept = expectedWeight(moves[i]!, state.view, scale);
        b[i]! -= kept * offExpected(moves[i]!, state.view, state.focal / optics.focal);
        a[i * n + i] = (a[i * n + i]! + kept) * (1 + DAMPING) + 1e-15;
      }
      if (!cholesky(a, n)) break;
      choleskySolve(a, n, b);
      const full = new Float64Array(VIEW_NUMBERS);
      moves.forEach((m, k) => (full[m] = b[k]!));
      state = { view: movedView(state.view, full), focal: state.focal * Math.exp(full[6]!) };
      if (Math.hypot(...b) < 1e-10) break;
    }
  const { a, inliers } = normalEquations(seen, state, optics, moves, scale);
  for (let r = 0; r < n; r++) for (let c = 0; c < r; c++) a[c * n + r] = a[r * n + c]!;
  return { ...state, information: a, inliers };
}
