/** What pieces of made-up content are drawn with. */
import type { Point } from '../../geometry/point';
import type { Rgb } from '../colour/levels';
import type { Contours, Part } from './contours';
import { boxContour, movedBy } from './contours';
import type { FontName, LetterOutlines } from './letters';
import type { Align, Hand } from './words';
import { lineOf, widthOf } from './words';

/** What a piece is drawn with. */
export interface PieceSetting {
  readonly field: (id: string) => string;
  readonly amount: number;
  /** frames since the content began */
  readonly frame: number;
  readonly letters: LetterOutlines;
  /** of what is lively, of what it lies on, and of what is written; code values 0 to 1 */
  readonly colour: Rgb;
  readonly paper: Rgb;
  readonly ink: Rgb;
}

/** Where a line stands, by which of its ends, in which colour: that of ink where none is said. */
interface Place {
  readonly at: Point;
  readonly align: Align;
  readonly colour?: Rgb;
}

/** Draws in a piece's own units: it is one high and `aspect` wide about the origin. */
export class Pen {
  constructor(
    private readonly s: PieceSetting,
    readonly aspect: number,
  ) {}

  hand(size: number, font: FontName = 'sans'): Hand {
    return { letters: this.s.letters, font, size };
  }

  shape(contours: Contours, colour: Rgb, opacity = 1): Part {
    return { contours, colour, opacity };
  }

  box([x, y]: Point, [width, height]: Point, round: number, colour: Rgb, opacity = 1): Part {
    return this.shape(movedBy([boxContour(width, height, round)], [x, y]), colour, opacity);
  }

  /** One line, in ink; cut off where it would be wider than `most`. */
  line(text: string, hand: Hand, place: Place, most = Infinity): Part {
    return this.shape(lineOf(cutOff(text, hand, most), hand, place.align, place.at), place.colour ?? this.s.ink);
  }

  /** The card that a piece lies on: its left side is a bar of the lively colour. */
  card(): Part[] {
    const { aspect } = this;
    return [
      this.box([0, 0], [aspect, 1], 0.09, this.s.paper),
      this.box([-aspect / 2 + 0.06, 0], [0.035, 0.72], 0.0175, this.s.colour),
    ];
  }
}

/** A line no wider than `most`: what is too long ends with an ellipsis. */
export function cutOff(text: string, hand: Hand, most: number): string {
  if (widthOf(text, hand) <= most) return text;
  let kept = text.length - 1;
  while (kept > 0 && widthOf(`${text.slice(0, kept)}…`, hand) > most) kept--;
  return `${text.slice(0, kept).trimEnd()}…`;
}
