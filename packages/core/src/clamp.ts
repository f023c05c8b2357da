/** The nearest number to `value` between `low` and `high`; NaN stays NaN. */
export function clamp(value: number, low: number, high: number): number {
  return Math.min(Math.max(value, low), high);
}
