/** Which picture of a fill shows on a frame of the plate. */
import { clamp } from '../../clamp';

export interface FillTime {
  /** frame of the plate on which the clip begins */
  readonly start?: number;
  readonly speed?: number;
  readonly reverse?: boolean;
  readonly end?: 'hold' | 'loop';
  /** the clip keeps its own time, or goes a picture a frame */
  readonly rate?: 'time' | 'frames';
}

/**
 * @param count pictures of the fill; rates as exact fractions. @returns 0 to count - 1; before its start a clip shows
 * its first picture
 */
export function fillPicture(
  t: FillTime,
  frame: number,
  count: number,
  fillRate: readonly [number, number],
  plateRate: readonly [number, number],
): number {
  const conform =
    (t.rate ?? 'time') === 'time' && count > 1 ? (fillRate[0] * plateRate[1]) / (fillRate[1] * plateRate[0]) : 1;
  // A tick's grace, so that exact ratios are not rounded down.
  const n = Math.floor((frame - (t.start ?? 0)) * (t.speed ?? 1) * conform + 1e-6);
  const at = t.end === 'loop' && n >= 0 ? n % count : clamp(n, 0, count - 1);
  return t.reverse ? count - 1 - at : at;
}
