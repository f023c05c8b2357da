/** Letters as closed outlines, from fonts that were loaded. Curves are cut into straight pieces. */
import type { Point } from '../../geometry/point';
import type { FontName, LetterOutlines } from './made-fill';

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
  return (text, name) => {
    const font = fonts[name];
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
  };
}

/** Files of the shipped fonts, within the packages that hold them. */
export const FONT_FILES: Readonly<Record<FontName, string>> = {
  sans: '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff',
  'sans bold': '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-600-normal.woff',
  mono: '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff',
};
