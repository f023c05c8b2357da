/** What layers of made-up content come to on a frame: parts of one colour each, and how large they are. */
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply, scaling } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import type { Part } from './contours';
import { boxContour, movedBy, ovalContour, ring } from './contours';
import type { ContentLayer, PictureLayer, PieceLayer, Seat, ShapeLayer, WordsLayer } from './layers';
import { LAYER_SIZES } from './layers';
import type { LetterOutlines } from './letters';
import type { PieceSetting } from './piece-pen';
import { partsOfPiece, pieceOf } from './pieces';
import { blockOf } from './words';

/** A layer without its place: heights of the content, about its own middle. */
interface Drawn {
  readonly width: number;
  readonly height: number;
  readonly parts: readonly Part[];
}

/** Code values; colours of words and shapes that have none of their own. */
export const WHITE: Rgb = [1, 1, 1];
/** Code values; colours of pieces that have none of their own: what is lively in them, their card, what is written. By eye. */
export const PIECE_COLOURS = {
  colour: [0.85, 0.47, 0.2],
  paper: [0.93, 0.92, 0.88],
  ink: [0.1, 0.15, 0.2],
} as const satisfies Readonly<Record<string, Rgb>>;

function drawnWords(l: WordsLayer, frame: number, letters: LetterOutlines): Drawn {
  const size = valueAt(l.size, frame, LAYER_SIZES.words);
  const hand = { letters, font: l.font ?? ('sans' as const), size };
  const { contours, width, height } = blockOf(l.text.split('\n'), hand, l.align ?? 'middle');
  return { width, height, parts: [{ contours, colour: l.colour ?? WHITE, opacity: 1 }] };
}

function drawnShape(l: ShapeLayer, frame: number): Drawn {
  const width = valueAt(l.width, frame, LAYER_SIZES.shape);
  const height = valueAt(l.height, frame, LAYER_SIZES.shape);
  const line = valueAt(l.line, frame, 0);
  const round = valueAt(l.round, frame, 0);
  const within = (by: number): ReturnType<typeof boxContour> => {
    const [w, h] = [width - 2 * by, height - 2 * by];
    return l.shape === 'oval' ? ovalContour(w, h) : boxContour(w, h, (round * Math.min(width, height)) / 2 - by);
  };
  const isRing = line > 0 && 2 * line < Math.min(width, height);
  const contours = isRing ? ring(within(0), within(line)) : [within(0)];
  return { width, height, parts: [{ contours, colour: l.colour ?? WHITE, opacity: 1 }] };
}

function drawnPiece(l: PieceLayer, frame: number, letters: LetterOutlines): Drawn {
  const piece = pieceOf(l.piece);
  const size = valueAt(l.size, frame, LAYER_SIZES.piece);
  const setting: PieceSetting = {
    field: (id) => l.fields?.[id] ?? piece.fields.find((f) => f.id === id)?.base ?? '',
    amount: valueAt(l.amount, frame, piece.amount?.base ?? 0),
    frame: frame - (l.from ?? 0),
    letters,
    colour: l.colour ?? PIECE_COLOURS.colour,
    paper: l.paper ?? PIECE_COLOURS.paper,
    ink: l.ink ?? PIECE_COLOURS.ink,
  };
  const parts = partsOfPiece(l.piece, setting).map((p) => ({ ...p, contours: movedBy(p.contours, [0, 0], size) }));
  return { width: size * piece.aspect, height: size, parts };
}

/** A picture's place. @param aspect its width by its height */
export function pictureSize(l: PictureLayer, frame: number, aspect: number): { width: number; height: number } {
  const height = valueAt(l.size, frame, LAYER_SIZES.picture);
  return { width: height * aspect, height };
}

/** What a layer draws, but for pictures, which have no outlines. @param aspect of a picture, width by height */
export function drawnLayer(l: ContentLayer, frame: number, letters: LetterOutlines, aspect: number): Drawn {
  switch (l.kind) {
    case 'words':
      return drawnWords(l, frame, letters);
    case 'shape':
      return drawnShape(l, frame);
    case 'piece':
      return drawnPiece(l, frame, letters);
    case 'picture':
      return { ...pictureSize(l, frame, aspect), parts: [] };
  }
}

/** From a layer's own middle (heights of the content) to the content, whose upper left is the origin. @param aspect of the content */
export function layerMatrix({ x, y, turn, scale, scaleY }: Seat, aspect: number): Matrix3 {
  const a = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  return multiply([c, -s, x * aspect, s, c, y, 0, 0, 1], scaling(scale, scaleY));
}

/** The corners of a layer as it lies in the content, heights of it. */
export function layerCorners(size: { readonly width: number; readonly height: number }, m: Matrix3): Quad {
  const [w, h] = [size.width / 2, size.height / 2];
  return mapQuad(m, [
    [-w, -h],
    [w, -h],
    [w, h],
    [-w, h],
  ]);
}
