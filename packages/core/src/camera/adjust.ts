/**
 * Views, points and optics adjusted together until all points are seen where they were found: damped least squares, the
 * points eliminated first (Schur complement), outliers weighed down.
 * Source: B. Triggs et al., Bundle Adjustment - A Modern Synthesis, 2000.
 */
import { choleskyOfEnvelope, choleskySolve } from '../geometry/linear-algebra';
import type { Bundle, BundleOptions, Observations } from './bundle';
import { costOf, priorCost } from './bundle';
import { Schur } from './schur';
import { SHARED_NUMBERS, VIEW_NUMBERS, movedView } from './view-model';

const DAMPING = {
  /** First damping, share of the diagonal. By trial. */
  first: 1e-3,
  /** Damping at which no step helps any more. By trial. */
  most: 1e6,
} as const;

const geometricMean = (v: Float64Array): number => Math.exp(v.reduce((s, f) => s + Math.log(f), 0) / v.length);

/** A bundle moved by a step of its numbers. */
function stepped(b: Bundle, schur: Schur, options: BundleOptions, step: Float64Array, points: Float64Array): Bundle {
  const { moves, shares } = options;
  const full = new Float64Array(VIEW_NUMBERS);
  const focals = b.focals?.slice() ?? null;
  const views = b.views.map((v, i) => {
    const at = schur.placeOfView(i);
    if (at < 0) return v;
    full.fill(0);
    for (let k = 0; k < moves.length; k++) full[moves[k]!] = step[at + k]!;
    if (focals) focals[i]! *= Math.exp(full[6]!);
    return movedView(v, full);
  });
  const shared = new Float64Array(SHARED_NUMBERS);
  const first = schur.size - shares.length;
  shares.forEach((s, k) => (shared[s] = step[first + k]!));
  const optics = {
    // Of a zoom the shared one is the mean of its own, about which they are expected.
    focal: focals ? geometricMean(focals) : b.optics.focal * Math.exp(shared[0]!),
    k1: b.optics.k1 + shared[1]!,
    k2: b.optics.k2 + shared[2]!,
  };
  return { views, points: b.points.map((v, i) => v + points[i]!), optics, focals };
}

/** Times that the points follow a step of the views by themselves. By trial. */
const FOLLOWING = 2;

/** Damping of that, share of their diagonal. By trial. */
const FOLLOWING_DAMPING = 1e-6;

/**
 * The points where the moved views see them best: far ones move along their rays in a way that one step does not foresee.
 * Source: Y. Jeong et al., Pushing the Envelope of Modern Methods for Bundle Adjustment, PAMI 2012 (embedded point
 * iterations).
 */
function withPointsFollowing(b: Bundle, schur: Schur): Bundle {
  let points = b.points;
  for (let i = 0; i < FOLLOWING; i++) {
    const steps = schur.pointSteps({ ...b, points }, FOLLOWING_DAMPING, null);
    points = points.map((v, k) => v + steps[k]!);
  }
  return { ...b, points };
}

/** Adjusts a bundle. @returns it, and its robust cost in half diagonals squared */
export function adjust(start: Bundle, obs: Observations, options: BundleOptions): { bundle: Bundle; cost: number } {
  const schur = new Schur(obs, start.views.length, options);
  const whole = (b: Bundle): number => costOf(b, obs, options.scale) + priorCost(b, options);
  let bundle = start;
  let cost = whole(bundle);
  let damping: number = DAMPING.first;
  for (let round = 0; round < options.rounds; round++) {
    const { matrix, right, size } = schur.reduced(bundle, damping);
    for (let i = 0; i < size; i++) matrix[i * size + i]! *= 1 + damping;
    if (!choleskyOfEnvelope(matrix, size)) {
      damping *= 10;
      if (damping > DAMPING.most) break;
      continue;
    }
    choleskySolve(matrix, size, right);
    const next = withPointsFollowing(
      stepped(bundle, schur, options, right, schur.pointSteps(bundle, damping, right)),
      schur,
    );
    const left = whole(next);
    if (left < cost) {
      const gain = (cost - left) / cost;
      [bundle, cost, damping] = [next, left, Math.max(1e-9, damping / 8)];
      if (gain < options.leastGain) break;
    } else {
      damping *= 8;
      if (damping > DAMPING.most) break;
    }
  }
  return { bundle, cost };
}
