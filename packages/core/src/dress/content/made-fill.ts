/**
 * A fill made up at the slot's own size: a background (a picture, a clip, or one colour), a clip before it with its own
 * colour key, lines of text as outlines of the shipped fonts, so that view and delivery draw the same shapes, and layers
 * (`layers.ts`). Everything that stands on it can be keyed.
 */
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { distance } from '../../geometry/point';
import type { FillPyramid, FillReading, LinearPicture } from '../fill/fill-pyramid';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import { CURVES } from '../colour/transfer';
import type { Foreground, TextLine } from './before-layers';
import { clipLayer, coveringPicture } from './before-layers';
import { drawLayers, layColour } from './draw-layers';
import { WHITE } from './layer-parts';
import type { ContentLayer, PictureLayer } from './layers';
import { LAYER_SIZES } from './layers';
import type { LetterOutlines } from './letters';
import { lineOf } from './words';

export interface MadeFill {
  /** code values 0 to 1; shows where there is no background picture, or where that has holes */
  readonly ground: Rgb;
  readonly foreground?: Foreground;
  readonly lines?: readonly TextLine[];
  /** over all of that, the first farthest back */
  readonly layers?: readonly ContentLayer[];
  /** width by height that it is made for; the slot's own when left out */
  readonly proportions?: number;
}

/** What a fill is made from on a frame. */
export interface MadeFrom {
  readonly letters: LetterOutlines;
  readonly background: FillPyramid | null;
  readonly foreground: FillPyramid | null;
  /** of the layers, each in its layer's place; none when left out */
  readonly layers?: readonly (FillPyramid | null)[];
}

/** px; longest side of a made fill: more than any device shows in a plate. By trial. */
const LONGEST = 2160;
/** Times as many px as it is seen at that it is made with. By trial. */
const SHARPER = 1.5;

/**
 * Width and height at which a fill is made for a pin: a little finer than the plate shows it, in proportions of its own where it has
 * some.
 */
export function madeSize(pin: Quad, { proportions }: Pick<MadeFill, 'proportions'> = {}): readonly [number, number] {
  const across = Math.max(distance(pin[0], pin[1]), distance(pin[3], pin[2]));
  const down = Math.max(distance(pin[0], pin[3]), distance(pin[1], pin[2]));
  const w = proportions === undefined ? across : Math.max(across, down * proportions);
  const h = proportions === undefined ? down : w / proportions;
  const k = Math.min(SHARPER, LONGEST / Math.max(w, h));
  return [Math.max(16, Math.round(w * k)), Math.max(16, Math.round(h * k))];
}

/** Frame of what is made up on a frame of the plate: a document begins where it is told to, what was made up in its slot with the plate. */
export function madeFrame(
  fill: { readonly content?: object | undefined; readonly start?: number | undefined },
  frame: number,
): number {
  return fill.content ? frame - (fill.start ?? 0) : frame;
}

function behindAll({ width, height }: LinearPicture, [full]: FillPyramid): PictureLayer {
  return coveringPicture('', { picture: full!.width / full!.height, content: width / height });
}

function layText(
  out: LinearPicture,
  line: TextLine,
  frame: number,
  letters: LetterOutlines,
  decode: (v: number) => number,
): void {
  const size = valueAt(line.size, frame, LAYER_SIZES.words) * out.height;
  const opacity = valueAt(line.opacity, frame, 1);
  if (!(size > 0) || opacity <= 0) return;
  const at: Point = [valueAt(line.x, frame, 0.5) * out.width, valueAt(line.y, frame, 0.5) * out.height];
  const contours = lineOf(line.text, { letters, font: line.font ?? 'sans', size }, line.align ?? 'middle', at);
  if (contours.length === 0) return;
  layColour(out, contours, line.colour ?? WHITE, opacity, decode);
}

/**
 * The fill on a frame, scene-linear and opaque. @param reading how code values of its colours become light: the fill's
 * own
 */
export function makeFill(
  m: MadeFill,
  frame: number,
  [width, height]: readonly [number, number],
  { background, foreground, layers = [], letters }: MadeFrom,
  { curve = 'srgb' }: FillReading = {},
): LinearPicture {
  const out: LinearPicture = { width, height, data: new Float32Array(width * height * 4) };
  const { decode, encode } = CURVES[curve];
  const [r, g, b] = m.ground.map(decode) as [number, number, number];
  for (let i = 0; i < out.data.length; i += 4) {
    out.data[i] = r;
    out.data[i + 1] = g;
    out.data[i + 2] = b;
    out.data[i + 3] = 1;
  }
  const lay = (layers: readonly ContentLayer[], pictures: readonly (FillPyramid | null)[]): void =>
    drawLayers(out, layers, frame, { letters, decode, encode, pictures });
  if (background) lay([behindAll(out, background)], [background]);
  if (m.foreground && foreground) lay([clipLayer(m.foreground)], [foreground]);
  for (const line of m.lines ?? []) layText(out, line, frame, letters, decode);
  lay(m.layers ?? [], layers);
  return out;
}
