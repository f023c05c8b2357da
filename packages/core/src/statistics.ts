/** Order statistics of small lists. Both sort their list in place; NaN when it is empty. */
export function median(values: number[]): number {
  values.sort((a, b) => a - b);
  return values[values.length >> 1] ?? NaN;
}

export function quantile(values: number[], q: number): number {
  values.sort((a, b) => a - b);
  return values[Math.floor(q * (values.length - 1))] ?? NaN;
}
