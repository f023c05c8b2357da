/**
 * A fill made up at the slot's own size: a background (a picture, a clip, or one colour), a clip before it with its own
 * colour key, and lines of text as outlines of the shipped fonts, so that view and delivery draw the same shapes.
 * Everything that stands on it can be keyed.
 */
import { clamp } from '../../clamp';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { distance } from '../../geometry/point';
import { filterFill } from './fill-filter';
import type { FillPyramid, FillReading, LinearPicture } from './fill-pyramid';
import { keyStrength } from '../holdout/holdout';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import { CURVES } from '../colour/transfer';

export interface Standing {
  /** of its middle, shares of the fill's width and height */
  readonly x?: Animated;
  readonly y?: Animated;
  readonly opacity?: Animated;
}

export interface Foreground extends Standing {
  /** content hash of a picture or clip */
  readonly media: string;
  /** 1 is as tall as the fill */
  readonly scale?: Animated;
  /** frame of the plate on which it begins */
  readonly start?: number;
  /** colour that is taken out of it, code values 0 to 1, and the strengths of the key between which it goes */
  readonly key?: { readonly colour: Rgb; readonly gone: number; readonly solid: number };
}

export const FONTS = ['sans', 'sans bold', 'mono'] as const;
export type FontName = (typeof FONTS)[number];

export interface TextLine extends Standing {
  readonly text: string;
  readonly font?: FontName;
  /** height of the letters' body, shares of the fill's height */
  readonly size?: Animated;
  readonly align?: 'left' | 'middle' | 'right';
  /** code values 0 to 1 */
  readonly colour?: Rgb;
}

export interface MadeFill {
  /** code values 0 to 1; shows where there is no background picture, or where that has holes */
  readonly ground: Rgb;
  readonly foreground?: Foreground;
  readonly lines?: readonly TextLine[];
}

/** Closed outlines of a line of text: letters' body 1 high, baseline at y = 0 with y down, beginning at x = 0. */
export type LetterOutlines = (
  text: string,
  font: FontName,
) => { readonly contours: readonly (readonly Point[])[]; readonly width: number };

export interface MadePictures {
  readonly background: FillPyramid | null;
  readonly foreground: FillPyramid | null;
}

/** px; longest side of a made fill: more than any device shows in a plate. By trial. */
const LONGEST = 2160;
/** Times as many px as it is seen at that it is made with. By trial. */
const SHARPER = 1.5;

/** Width and height at which a fill is made for a pin: a little finer than the plate shows it. */
export function madeSize(pin: Quad): readonly [number, number] {
  const w = Math.max(distance(pin[0], pin[1]), distance(pin[3], pin[2]));
  const h = Math.max(distance(pin[0], pin[3]), distance(pin[1], pin[2]));
  const k = Math.min(SHARPER, LONGEST / Math.max(w, h));
  return [Math.max(16, Math.round(w * k)), Math.max(16, Math.round(h * k))];
}

/** Lays premultiplied colour over one place. */
function over(out: Float32Array, k: number, r: number, g: number, b: number, a: number): void {
  out[k] = r + (1 - a) * out[k]!;
  out[k + 1] = g + (1 - a) * out[k + 1]!;
  out[k + 2] = b + (1 - a) * out[k + 2]!;
  out[k + 3] = a + (1 - a) * out[k + 3]!;
}

/** A picture laid into a rectangle of the fill, px. @param show what its colour keeps of it, 0 to 1 */
function layPicture(
  out: LinearPicture,
  picture: FillPyramid,
  x0: number,
  y0: number,
  width: number,
  height: number,
  opacity: number,
  show: ((r: number, g: number, b: number) => number) | null,
): void {
  const base = picture[0]!;
  const kx = base.width / width;
  const ky = base.height / height;
  const sum = new Float64Array(4);
  for (let y = Math.max(0, Math.floor(y0)); y < Math.min(out.height, Math.ceil(y0 + height)); y++)
    for (let x = Math.max(0, Math.floor(x0)); x < Math.min(out.width, Math.ceil(x0 + width)); x++) {
      filterFill(picture, (x + 0.5 - x0) * kx, (y + 0.5 - y0) * ky, kx, 0, 0, ky, sum);
      const alpha = sum[3]!;
      const inside = Math.min(1, x + 1 - x0, x0 + width - x) * Math.min(1, y + 1 - y0, y0 + height - y);
      if (alpha <= 0) continue;
      const keep = inside * opacity * (show ? show(sum[0]! / alpha, sum[1]! / alpha, sum[2]! / alpha) : 1);
      over(out.data, (y * out.width + x) * 4, keep * sum[0]!, keep * sum[1]!, keep * sum[2]!, keep * alpha);
    }
}

/** Rows into which a pixel of a letter is cut to know how far its outline covers it. By trial. */
const ROWS = 4;

/** Share of each pixel that closed outlines cover by the non-zero rule: four lines a pixel, exact along each. */
export function coverOf(contours: readonly (readonly Point[])[], width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  const crossings: { x: number; turn: number }[] = [];
  for (let line = 0; line < height * ROWS; line++) {
    const y = (line + 0.5) / ROWS;
    const row = Math.floor(line / ROWS) * width;
    crossings.length = 0;
    for (const c of contours)
      for (let i = 0, j = c.length - 1; i < c.length; j = i++) {
        const [xi, yi] = c[i]!;
        const [xj, yj] = c[j]!;
        if (yi > y !== yj > y) crossings.push({ x: ((xj - xi) * (y - yi)) / (yj - yi) + xi, turn: yi > yj ? 1 : -1 });
      }
    crossings.sort((a, b) => a.x - b.x);
    for (let k = 0, wind = 0; k + 1 < crossings.length; k++) {
      wind += crossings[k]!.turn;
      if (wind === 0) continue;
      const a = Math.max(0, crossings[k]!.x);
      const b = Math.min(width, crossings[k + 1]!.x);
      for (let x = Math.floor(a); x < b; x++) out[row + x]! += Math.max(0, Math.min(b, x + 1) - Math.max(a, x)) / ROWS;
    }
  }
  return out;
}

function layText(
  out: LinearPicture,
  line: TextLine,
  frame: number,
  letters: LetterOutlines,
  decode: (v: number) => number,
): void {
  const size = valueAt(line.size, frame, 0.1) * out.height;
  const opacity = valueAt(line.opacity, frame, 1);
  const { contours, width } = letters(line.text, line.font ?? 'sans');
  const align = line.align ?? 'middle';
  if (!(size > 0) || opacity <= 0 || contours.length === 0) return;
  // The middle of capital letters, about 0.7 of their body, stands on the line's own height.
  const x0 = valueAt(line.x, frame, 0.5) * out.width - size * width * { left: 0, middle: 0.5, right: 1 }[align];
  const y0 = valueAt(line.y, frame, 0.5) * out.height + 0.35 * size;
  const cover = coverOf(
    contours.map((c) => c.map(([x, y]): Point => [x0 + size * x, y0 + size * y])),
    out.width,
    out.height,
  );
  const [r, g, b] = (line.colour ?? [1, 1, 1]).map(decode) as [number, number, number];
  for (let i = 0; i < cover.length; i++) {
    const a = opacity * Math.min(1, cover[i]!);
    if (a > 0) over(out.data, i * 4, a * r, a * g, a * b, a);
  }
}

/**
 * The fill on a frame, scene-linear and opaque. @param reading how code values of its colours become light: the fill's
 * own
 */
export function makeFill(
  m: MadeFill,
  frame: number,
  [width, height]: readonly [number, number],
  pictures: MadePictures,
  letters: LetterOutlines,
  { curve = 'srgb' }: FillReading = {},
): LinearPicture {
  const out: LinearPicture = { width, height, data: new Float32Array(width * height * 4) };
  const { decode, encode } = CURVES[curve];
  const ground = m.ground.map(decode) as [number, number, number];
  for (let i = 0; i < width * height; i++) out.data.set([...ground, 1], i * 4);
  if (pictures.background) {
    // As large as covers the fill, cut evenly at both ends.
    const b = pictures.background[0]!;
    const k = Math.max(width / b.width, height / b.height);
    layPicture(
      out,
      pictures.background,
      (width - b.width * k) / 2,
      (height - b.height * k) / 2,
      b.width * k,
      b.height * k,
      1,
      null,
    );
  }
  const f = m.foreground;
  if (f && pictures.foreground) {
    const p = pictures.foreground[0]!;
    const tall = valueAt(f.scale, frame, 1) * height;
    const wide = (tall * p.width) / p.height;
    const key = f.key;
    const show = key
      ? (r: number, g: number, b: number): number =>
          1 -
          clamp(
            (keyStrength(key.colour, encode(r), encode(g), encode(b)) - key.gone) /
              Math.max(1e-6, key.solid - key.gone),
            0,
            1,
          )
      : null;
    if (tall > 0)
      layPicture(
        out,
        pictures.foreground,
        valueAt(f.x, frame, 0.5) * width - wide / 2,
        valueAt(f.y, frame, 0.5) * height - tall / 2,
        wide,
        tall,
        valueAt(f.opacity, frame, 1),
        show,
      );
  }
  for (const line of m.lines ?? []) layText(out, line, frame, letters, decode);
  return out;
}
