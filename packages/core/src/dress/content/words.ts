/** Lines of words as outlines. */
import type { Point } from '../../geometry/point';
import type { Contours } from './contours';
import { movedBy } from './contours';
import type { FontName, LetterOutlines } from './letters';

/** From one line's middle to the next's, bodies of the letters. Common practice, no source. */
export const LEADING = 1.25;
/** The middle of capital letters, about 0.7 of their body, stands on a line's own height. */
const TO_BASELINE = 0.35;

export type Align = 'left' | 'middle' | 'right';
const SHARES = { left: 0, middle: 0.5, right: 1 } as const;

/** How words are written. */
export interface Hand {
  readonly letters: LetterOutlines;
  readonly font: FontName;
  /** height of the letters' body */
  readonly size: number;
}

/** Width of one line, in the unit of its size. */
export const widthOf = (text: string, { letters, font, size }: Hand): number => size * letters(text, font).width;

/** One line whose end (or middle) stands at a place. */
export function lineOf(text: string, hand: Hand, align: Align, [x, y]: Point): Contours {
  const { letters, font, size } = hand;
  const { contours, width } = letters(text, font);
  return movedBy(contours, [x - size * width * SHARES[align], y + TO_BASELINE * size], size);
}

/** Words in lines no wider than `width`; a word that is wider has a line of its own. */
export function wrapped(text: string, width: number, hand: Hand): string[] {
  return text.split('\n').flatMap((line) => {
    const rows: string[] = [];
    for (const word of line.split(' ')) {
      const longer = rows.length > 0 ? `${rows.at(-1)!} ${word}` : word;
      if (rows.length > 0 && widthOf(longer, hand) <= width) rows[rows.length - 1] = longer;
      else rows.push(word);
    }
    return rows;
  });
}

/** Lines below one another, about a place. @returns them, and how wide and tall they are together */
export function blockOf(
  lines: readonly string[],
  hand: Hand,
  align: Align,
): { readonly contours: Contours; readonly width: number; readonly height: number } {
  const width = Math.max(0, ...lines.map((l) => widthOf(l, hand)));
  const step = LEADING * hand.size;
  const x = (SHARES[align] - 0.5) * width;
  const contours = lines.flatMap((l, i) => lineOf(l, hand, align, [x, (i - (lines.length - 1) / 2) * step]));
  return { contours, width, height: hand.size + step * (lines.length - 1) };
}
