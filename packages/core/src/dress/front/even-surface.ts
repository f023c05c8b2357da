/** The smooth surface on which most of many values lie. */
import { cholesky, choleskySolve } from '../../geometry/linear-algebra';
import { SIGMA_PER_DEVIATION, median } from '../../statistics';

const SURFACE = {
  /** Levels of 255 by which even glass may differ from it. By trial. */
  even: 3,
  /** Of the places that must lie on it. By trial. */
  share: 0.55,
  /** Rounds in which it lets go of what does not. By trial. */
  rounds: 8,
  /** Deviations beyond which a value is let go of. By trial. */
  reach: 3,
  /** Levels; nothing is known better. By trial. */
  least: 0.5,
} as const;

/** Terms of a surface of second degree. */
const TERMS = 6;
const termsAt = ([s, t]: readonly [number, number]): number[] => [1, s, t, s * s, s * t, t * t];
/** Weighted least squares by the normal equations. @returns null where they are singular */
function fitted(
  rows: readonly (readonly number[])[],
  values: readonly number[],
  weights: readonly number[],
): Float64Array | null {
  const normal = new Float64Array(TERMS * TERMS);
  const right = new Float64Array(TERMS);
  for (const [i, row] of rows.entries())
    for (let a = 0; a < TERMS; a++) {
      for (let b = 0; b < TERMS; b++) normal[a * TERMS + b]! += weights[i]! * row[a]! * row[b]!;
      right[a]! += weights[i]! * row[a]! * values[i]!;
    }
  if (!cholesky(normal, TERMS)) return null;
  choleskySolve(normal, TERMS, right);
  return right;
}

/** A surface at the places that were asked for, and how far those on it lie off, sigma. */
export interface EvenSurface {
  readonly values: readonly number[];
  readonly scale: number;
}

/**
 * Of second degree, by least squares that let go of what lies far off (Tukey's biweight).
 * @param places shares of width and height @param values levels of 255
 * @returns null where most do not lie on one
 */
export function evenSurface(
  places: readonly (readonly [number, number])[],
  values: readonly number[],
): EvenSurface | null {
  const rows = places.map(termsAt);
  let weights = values.map(() => 1);
  let off: number[] = [];
  let at: number[] = [];
  for (let round = 0; round < SURFACE.rounds; round++) {
    const p = fitted(rows, values, weights);
    if (!p) return null;
    at = rows.map((r) => r.reduce((sum, v, a) => sum + v * p[a]!, 0));
    off = values.map((v, i) => Math.abs(v - at[i]!));
    const reach = SURFACE.reach * Math.max(SURFACE.least, SIGMA_PER_DEVIATION * median(off));
    weights = off.map((v) => (v < reach ? (1 - (v / reach) ** 2) ** 2 : 0));
  }
  const scale = SIGMA_PER_DEVIATION * median(off.filter((_, i) => weights[i]! > 0));
  const share = off.filter((v) => v < SURFACE.even).length / off.length;
  return scale < SURFACE.even && share > SURFACE.share ? { values: at, scale } : null;
}
