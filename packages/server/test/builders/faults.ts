/** How much the tests of faults do, and where their figures go: see `npm run test:faults`. */
import { appendFileSync } from 'node:fs';

/** The whole of it; a short form runs with all other tests. */
export const IS_LONG = process.env['YARLOP_FAULTS'] === 'long';

/** A number that is larger in the long form. */
export function many(short: number, long: number): number {
  return IS_LONG ? long : short;
}

/** A row of the table. */
export function report(what: string, result: string): void {
  const path = process.env['YARLOP_FAULTS_TABLE'];
  if (path) appendFileSync(path, `| ${what} | ${result} |\n`);
}

export function pick<T>(from: readonly T[], roll: () => number): T {
  return from[Math.floor(roll() * from.length)]!;
}

/** The value that a share of all lies below. */
export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? NaN;
}
