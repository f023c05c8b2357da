/** Views, points and optics that are adjusted together, and how far they are from what was found. */
import type { Optics, View } from './view-model';
import { Projection, ROWS_AT, ROWS_EXPECTED_AT, ROWS_FIRST, ROWS_SIGMA_AT } from './view-model';

/** Where points were found in views. */
export interface Observations {
  readonly view: Int32Array;
  /** rising: the observations of a point stand together */
  readonly point: Int32Array;
  /** x and y each, half diagonals from the picture's middle */
  readonly xy: Float64Array;
}

export interface Bundle {
  readonly views: readonly View[];
  /** three numbers each */
  readonly points: Float64Array;
  readonly optics: Optics;
  /** a focal length for each view in place of the shared one, half diagonals */
  readonly focals: Float64Array | null;
}

export interface BundleOptions {
  /** which of a view's numbers move, by place: 0-2 turning, 3-5 shifting, 6 its own focal length, 7-12 its rows' turning */
  readonly moves: readonly number[];
  /** which of the shared numbers move: 0 focal length, 1 and 2 radial */
  readonly shares: readonly number[];
  /** views that stay where they are, by place */
  readonly still: ReadonlySet<number>;
  /** half diagonals; residuals beyond about this count as outliers */
  readonly scale: number;
  /** steps at the most */
  readonly rounds: number;
  /** share of the cost by which a step must still make it smaller */
  readonly leastGain: number;
}

/** Weight of a residual of squared length `e2`: Cauchy's. Source: P. Huber, Robust Statistics, 1981 (M-estimation). */
export const weightOf = (e2: number, scale: number): number => 1 / (1 + e2 / (scale * scale));

/** What such a residual costs, in the units of `e2`. */
export const lossOf = (e2: number, scale: number): number => scale * scale * Math.log1p(e2 / (scale * scale));

/** The optics of a view: a zoom has its own focal length. */
export const opticsOf = (b: Bundle, view: number): Optics =>
  b.focals ? { ...b.optics, focal: b.focals[view]! } : b.optics;

/** Robust cost of a bundle, half diagonals squared. */
export function costOf(b: Bundle, obs: Observations, scale: number): number {
  const p = new Projection();
  const optics = b.views.map((_, i) => opticsOf(b, i));
  let sum = 0;
  for (let i = 0; i < obs.view.length; i++) {
    const view = obs.view[i]!;
    const isAhead = p.place(b.views[view]!, optics[view]!, b.points, 3 * obs.point[i]!, obs.xy[2 * i + 1]!);
    const e2 = isAhead ? (p.x - obs.xy[2 * i]!) ** 2 + (p.y - obs.xy[2 * i + 1]!) ** 2 : 1;
    sum += lossOf(e2, scale);
  }
  return sum;
}

/** How far numbers of a view are expected to be off what is usual; what cannot be told stays there. By trial. */
const EXPECTED = {
  /** share of the shared focal length, of a zoom's own one */
  zoom: 0.4,
  /** of the shared numbers: share of the usual focal length, and the radial terms */
  shared: [0.6, 0.2, 0.2],
} as const;

/** Half diagonals; a usual lens, about which a focal length is expected that nothing tells. Common practice, no source. */
const USUAL_FOCAL = 2.1;

/** Weight of what is expected of a shared number, by its place. */
export const sharedWeight = (share: number, scale: number): number => (scale / EXPECTED.shared[share]!) ** 2;

/** How far a shared number is off what is expected of it. */
export const sharedOff = (share: number, { focal, k1, k2 }: Optics): number =>
  [Math.log(focal / USUAL_FOCAL), k1, k2][share]!;

/** Weight of what is expected of a view's number; 0 for turning and shifting. */
export function expectedWeight(move: number, v: View, scale: number): number {
  if (move >= ROWS_FIRST) return (scale / v[ROWS_SIGMA_AT]!) ** 2;
  return move === ROWS_FIRST - 1 ? (scale / EXPECTED.zoom) ** 2 : 0;
}

/** How far a view's number is off what is expected of it. @param zoom its focal length by the shared one */
export function offExpected(move: number, v: View, zoom: number): number {
  const row = move - ROWS_FIRST;
  if (row >= 0) return v[ROWS_AT + row]! - v[ROWS_EXPECTED_AT + row]!;
  return move === ROWS_FIRST - 1 ? Math.log(zoom) : 0;
}

/** What a bundle's numbers cost by being off what is expected of them. */
export function priorCost(b: Bundle, { scale, moves, shares }: BundleOptions): number {
  const ofShared = shares.reduce((sum, k) => sum + sharedWeight(k, scale) * sharedOff(k, b.optics) ** 2, 0);
  return b.views.reduce((sum, v, i) => {
    const zoom = opticsOf(b, i).focal / b.optics.focal;
    return moves.reduce((own, m) => own + expectedWeight(m, v, scale) * offExpected(m, v, zoom) ** 2, sum);
  }, ofShared);
}
