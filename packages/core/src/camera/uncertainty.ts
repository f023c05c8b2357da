/**
 * How well the views of a scene are known: the inverse of the adjusted system, with the freedom taken out by which the
 * whole scene can be moved, turned and scaled without anybody seeing it.
 * Source: B. Triggs et al., Bundle Adjustment - A Modern Synthesis, 2000, section 9 (inner constraints).
 */
import { invertSymmetric } from '../geometry/linear-algebra';
import { Schur } from './schur';
import type { Freedom, Scene } from './scene';
import { asBundle, scaleOf } from './scene';
import type { Sightings } from './sightings';
import type { View } from './view-model';
import { ROWS_FIRST, halfDiagonal } from './view-model';

export interface ViewSigma {
  /** units of the scene, one axis */
  readonly position: number;
  /** radians, one axis */
  readonly rotation: number;
}

export interface Uncertainty {
  /** by frame */
  readonly views: ReadonlyMap<number, ViewSigma>;
  /** share of the focal length; 0 where it was given, of a zoom that of its views in the mean */
  readonly focal: number;
}

/**
 * Times that errors are larger than places that err by themselves would make them: a point's places err together, by
 * what its first picture looked like. Measured on the rooms of the generator.
 */
const TOGETHER = 2;
/** The same where a rolling shutter was told: within a row's time the camera does not turn as evenly as is supposed. */
const TOGETHER_ROLLING = 4;

/** How a view's numbers (turning 3, shifting 3) move when the scene is moved, turned and scaled: seven rows. */
function freedomsOf(v: View): number[][] {
  const rows: number[][] = [];
  for (let k = 0; k < 3; k++) rows.push([0, 0, 0, -v[k]!, -v[3 + k]!, -v[6 + k]!]);
  for (let k = 0; k < 3; k++) {
    const [a, b, c] = [-v[k]!, -v[3 + k]!, -v[6 + k]!];
    // A turned scene: the view turns back, about itself.
    const shift = [-(b * v[11]! - c * v[10]!), -(c * v[9]! - a * v[11]!), -(a * v[10]! - b * v[9]!)];
    rows.push([a, b, c, ...shift]);
  }
  rows.push([0, 0, 0, v[9]!, v[10]!, v[11]!]);
  return rows;
}

/** Orthonormal columns that span the freedoms, as they show in the system's numbers. */
function gaugeOf(views: readonly View[], schur: Schur, moves: readonly number[]): Float64Array[] {
  const isTurning = !moves.includes(3);
  const raw = Array.from({ length: 7 }, () => new Float64Array(schur.size));
  views.forEach((v, i) => {
    const at = schur.placeOfView(i);
    freedomsOf(v).forEach((row, k) =>
      moves.forEach((m, n) => {
        if (m < 6) raw[k]![at + n] = row[m]!;
      }),
    );
  });
  const out: Float64Array[] = [];
  for (const column of isTurning ? raw.slice(3, 6) : raw) {
    for (const other of out) {
      const along = column.reduce((s, c, i) => s + c * other[i]!, 0);
      column.forEach((_, i) => (column[i]! -= along * other[i]!));
    }
    const length = Math.hypot(...column);
    if (length > 1e-9) out.push(column.map((c) => c / length));
  }
  return out;
}

/** @returns null where the system cannot be inverted */
export function uncertaintyOf(s: Sightings, scene: Scene, freedom: Freedom): Uncertainty | null {
  const { frames, bundle, observations } = asBundle(s, scene);
  const options = { ...freedom, still: new Set<number>(), scale: scaleOf(s, scene.noise), rounds: 0, leastGain: 0 };
  const schur = new Schur(observations, frames.length, options);
  const { matrix, size: n } = schur.reduced(bundle, 0);
  for (let r = 0; r < n; r++) for (let c = 0; c < r; c++) matrix[c * n + r] = matrix[r * n + c]!;
  const gauge = gaugeOf(bundle.views, schur, freedom.moves);
  let trace = 0;
  for (let i = 0; i < n; i++) trace += matrix[i * n + i]!;
  const stiff = trace / n;
  for (const g of gauge)
    for (let r = 0; r < n; r++) for (let c = 0; c < n; c++) matrix[r * n + c]! += stiff * g[r]! * g[c]!;
  const inverse = invertSymmetric(matrix, n);
  if (!inverse) return null;
  for (const g of gauge)
    for (let r = 0; r < n; r++) for (let c = 0; c < n; c++) inverse[r * n + c]! -= (g[r]! * g[c]!) / stiff;
  const isRolling = freedom.moves.some((m) => m >= ROWS_FIRST);
  const unit = ((isRolling ? TOGETHER_ROLLING : TOGETHER) * scene.noise) / halfDiagonal(s.size);
  const sigmaAt = (places: readonly number[]): number =>
    unit *
    Math.sqrt(
      Math.max(
        0,
        places.reduce((sum, p) => sum + inverse[p * n + p]!, 0),
      ) / Math.max(1, places.length),
    );
  const placesOf = (view: number, among: (move: number) => boolean): number[] =>
    freedom.moves.flatMap((m, k) => (among(m) ? [schur.placeOfView(view) + k] : []));
  const views = new Map(
    frames.map((frame, i) => [
      frame,
      {
        rotation: sigmaAt(placesOf(i, (m) => m < 3)),
        position: sigmaAt(placesOf(i, (m) => m >= 3 && m < 6)),
      },
    ]),
  );
  const shared = freedom.shares.indexOf(0);
  const zooms = frames.flatMap((_, i) => placesOf(i, (m) => m === 6));
  const focal = shared >= 0 ? sigmaAt([n - freedom.shares.length + shared]) : sigmaAt(zooms);
  return { views, focal };
}

/** Between the frames that are known the variance goes evenly; beyond them it is the nearest's. */
export function sigmaOn(u: Uncertainty, frame: number): ViewSigma {
  const known = [...u.views.keys()].sort((a, b) => a - b);
  const after = known.find((f) => f >= frame) ?? known.at(-1)!;
  const before = known.findLast((f) => f <= frame) ?? known[0]!;
  const [a, b] = [u.views.get(before)!, u.views.get(after)!];
  const t = after === before ? 0 : (frame - before) / (after - before);
  const mix = (p: number, q: number): number => Math.sqrt((1 - t) * p * p + t * q * q);
  return { position: mix(a.position, b.position), rotation: mix(a.rotation, b.rotation) };
}
