/** The smooth surface on which most of many values lie. */
import { cholesky, choleskySolve } from '../../geometry/linear-algebra';
import { hash32 } from '../base/hash';
import { SIGMA_PER_DEVIATION, median } from '../../statistics';

const SURFACE = {
  /** Levels of 255 by which even glass may differ from it. By trial. */
  even: 3,
  /** Of the places that must lie on it. By trial. */
  share: 0.55,
  /** Surfaces that are tried, the values that each goes through, and those by which it is judged. By trial. */
  trials: 60,
  few: 6,
  seed: 5,
  judges: 300,
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

const valueOf = (row: readonly number[], p: Float64Array): number => row.reduce((sum, v, a) => sum + v * p[a]!, 0);

const offsets = (rows: readonly (readonly number[])[], values: readonly number[], p: Float64Array): number[] =>
  values.map((v, i) => Math.abs(v - valueOf(rows[i]!, p)));

/** A number below `n`, another for each `i`. */
const pick = (i: number, n: number): number => hash32(i, SURFACE.seed) % n;

/**
 * The surface through a few values that lies nearest to half of all, so that what covers a part of it has no say. Source:
 * P. J. Rousseeuw, Least Median of Squares Regression, JASA 1984.
 */
function roughly(rows: readonly (readonly number[])[], values: readonly number[]): Float64Array | null {
  const judges = Array.from({ length: SURFACE.judges }, (_, i) => pick(i, rows.length));
  let best: Float64Array | null = null;
  let least = Infinity;
  for (let n = 0; n < SURFACE.trials; n++) {
    const few = Array.from({ length: SURFACE.few }, (_, i) => pick(n * SURFACE.few + i + SURFACE.judges, rows.length));
    const p = fitted(
      few.map((i) => rows[i]!),
      few.map((i) => values[i]!),
      few.map(() => 1),
    );
    if (!p) continue;
    const off = median(judges.map((i) => Math.abs(values[i]! - valueOf(rows[i]!, p))));
    if (off < least) [best, least] = [p, off];
  }
  return best;
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
  let p = roughly(rows, values);
  if (!p) return null;
  let weights: number[] = [];
  let off: number[] = [];
  for (let round = 0; round < SURFACE.rounds && p; round++) {
    off = offsets(rows, values, p);
    const reach = SURFACE.reach * Math.max(SURFACE.least, SIGMA_PER_DEVIATION * median(off));
    weights = off.map((v) => (v < reach ? (1 - (v / reach) ** 2) ** 2 : 0));
    p = fitted(rows, values, weights);
  }
  if (!p) return null;
  const end = p;
  off = offsets(rows, values, end);
  const scale = SIGMA_PER_DEVIATION * median(off.filter((_, i) => weights[i]! > 0));
  const share = off.filter((v) => v < SURFACE.even).length / off.length;
  return scale < SURFACE.even && share > SURFACE.share ? { values: rows.map((r) => valueOf(r, end)), scale } : null;
}
