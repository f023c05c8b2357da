/** Colours as the page's colour fields write them. */
import { clamp } from '@yarlop/core/clamp';
import type { Rgb } from '@yarlop/core/dress/colour/levels';

/** @param rgb code values 0 to 1 */
export function hexOf(rgb: readonly number[]): string {
  const byte = (v: number): string =>
    Math.round(255 * clamp(v, 0, 1))
      .toString(16)
      .padStart(2, '0');
  return `#${rgb.map(byte).join('')}`;
}

/** @param text #rrggbb */
export function rgbOf(text: string): Rgb {
  const at = (i: number): number => Number((parseInt(text.slice(i, i + 2), 16) / 255).toFixed(4));
  return [at(1), at(3), at(5)];
}
