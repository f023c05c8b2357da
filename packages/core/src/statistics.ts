/** Order statistics of small lists, NaN when one is empty. */
function sorted(values: ArrayLike<number>): Float64Array {
  return new Float64Array(values).sort();
}

/** The upper median. */
export function median(values: ArrayLike<number>): number {
  return sorted(values)[values.length >> 1] ?? NaN;
}

export function quantile(values: ArrayLike<number>, q: number): number {
  return sorted(values)[Math.floor(q * (values.length - 1))] ?? NaN;
}
