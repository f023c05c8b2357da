import quickselect from 'quickselect';

/** The `rank`-th of the values in ascending order, from 0, whatever is no number last; NaN when there is none. */
function ranked(values: ArrayLike<number>, rank: number): number {
  const list: number[] = [];
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    if (!Number.isNaN(value)) list.push(value);
  }
  if (rank >= list.length) return NaN;
  quickselect(list, rank);
  return list[rank]!;
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
  return ranked(values, values.length >> 1);
}

/** The value below which a share `q`, 0 to 1, of the others lies, without interpolation; NaN for none. */
export function quantile(values: ArrayLike<number>, q: number): number {
  return ranked(values, Math.max(0, Math.floor(q * (values.length - 1))));
}

/** So many of a list at the most, from all over it, in its order. */
export function spread<T>(all: readonly T[], most: number): T[] {
  const step = Math.max(1, all.length / most);
  return all.filter((_, i) => Math.floor(i / step) !== Math.floor((i - 1) / step));
}
