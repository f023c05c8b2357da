/** Order statistics of small lists, NaN when one is empty. */
function sorted(values: ArrayLike<number>): Float64Array {
  return new Float64Array(values).sort();
}

/**
 * Sigma of a normal distribution over its median absolute deviation. Source: P. J. Rousseeuw and C. Croux, Alternatives
 * to the Median Absolute Deviation, JASA 1993.
 */
export const SIGMA_PER_DEVIATION = 1.4826;

/** 0 for none. */
export const mean = (values: readonly number[]): number =>
  values.reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);

/** The upper median. */
export function median(values: ArrayLike<number>): number {
  return sorted(values)[values.length >> 1] ?? NaN;
}

/** The value below which a share `q`, 0 to 1, of the others lies, without interpolation; NaN for none. */
export function quantile(values: ArrayLike<number>, q: number): number {
  return sorted(values)[Math.floor(q * (values.length - 1))] ?? NaN;
}

/** So many of a list at the most, from all over it, in its order. */
export function spread<T>(all: readonly T[], most: number): T[] {
  const step = Math.max(1, all.length / most);
  return all.filter((_, i) => Math.floor(i / step) !== Math.floor((i - 1) / step));
}
