/** Letters as closed outlines, from fonts that were loaded. Curves are cut into straight pieces. */
import { LRUCache } from 'lru-cache';
import type { Point } from '../../geometry/point';

export const FONTS = ['sans', 'sans bold', 'mono'] as const;
export type FontName = (typeof FONTS)[number];

/** Closed outlines of a line of text: letters' body 1 high, baseline at y = 0 with y down, beginning at x = 0. */
export type LetterOutlines = (
  text: string,
  font: FontName,
) => { readonly contours: readonly (readonly Point[])[]; readonly width: number };

/** Lines of words whose outlines are kept: most stay the same from frame to frame. */
const MOST_LINES = 200;

/** Straight pieces that a curve is cut into. */
const PIECES = 8;

/** A command of a letter's outline, as an OpenType font draws it: move, line, quadratic and cubic curve, close. */
type PathCommand =
  | { readonly type: 'M'; readonly x: number; readonly y: number }
  | { readonly type: 'L'; readonly x: number; readonly y: number }
  | { readonly type: 'Q'; readonly x: number; readonly y: number; readonly x1: number; readonly y1: number }
  | {
      readonly type: 'C';
      readonly x: number;
      readonly y: number;
      readonly x1: number;
      readonly y1: number;
      readonly x2: number;
      readonly y2: number;
    }
  | { readonly type: 'Z' };

/** What of a font is needed here; `opentype.js` fits. */
export interface OutlineFont {
  getPath(text: string, x: number, y: number, size: number): { readonly commands: readonly PathCommand[] };
  getAdvanceWidth(text: string, size: number): number;
}

/** @param fonts by name; units of the outlines are the letters' body */
export function lettersFrom(fonts: Readonly<Record<FontName, OutlineFont>>): LetterOutlines {
  const known = new LRUCache<string, ReturnType<LetterOutlines>>({ max: MOST_LINES });
  return (text, name) => {
    const key = `${name} ${text}`;
    const made = known.get(key) ?? outlinesOf(text, fonts[name]);
    known.set(key, made);
    return made;
  };
}

function outlinesOf(text: string, font: OutlineFont): ReturnType<LetterOutlines> {
  const contours: Point[][] = [];
  let open: Point[] = [];
  const last = (): Point => open.at(-1) ?? [0, 0];
  const close = (): void => {
    if (open.length > 2) contours.push(open);
    open = [];
  };
  for (const c of font.getPath(text, 0, 0, 1).commands) {
    if (c.type === 'M') {
      close();
      open = [[c.x, c.y]];
    } else if (c.type === 'L') open.push([c.x, c.y]);
    else if (c.type === 'Z') close();
    else {
      const [x0, y0] = last();
      for (let i = 1; i <= PIECES; i++) {
        const t = i / PIECES;
        const u = 1 - t;
        if (c.type === 'Q')
          open.push([u * u * x0 + 2 * u * t * c.x1 + t * t * c.x, u * u * y0 + 2 * u * t * c.y1 + t * t * c.y]);
        else
          open.push([
            u ** 3 * x0 + 3 * u * u * t * c.x1 + 3 * u * t * t * c.x2 + t ** 3 * c.x,
            u ** 3 * y0 + 3 * u * u * t * c.y1 + 3 * u * t * t * c.y2 + t ** 3 * c.y,
          ]);
      }
    }
  }
  close();
  return { contours, width: font.getAdvanceWidth(text, 1) };
}

/** Files of the shipped fonts, within the packages that hold them. */
export const FONT_FILES: Readonly<Record<FontName, string>> = {
  sans: '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff',
  'sans bold': '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-600-normal.woff',
  mono: '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff',
};
