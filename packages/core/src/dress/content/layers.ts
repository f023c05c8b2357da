/**
 * Layers of made-up content: words, shapes, pictures and whole pieces (a call, a clock, a chat), each with its own place and
 * its own keys. Lengths are heights of the content, places are shares of its width and height, so that it may be made at any size.
 */
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import type { FontName } from './letters';
import type { PieceKind } from './pieces';

interface Common {
  readonly name?: string;
  readonly off?: boolean;
  /** frames between which it shows, inclusive; to either end when left out */
  readonly from?: number;
  readonly to?: number;
  /** of its middle, shares of the width and height */
  readonly x?: Animated;
  readonly y?: Animated;
  /** degrees, clockwise */
  readonly turn?: Animated;
  readonly opacity?: Animated;
  /** 1 as it is; its height alone where `scaleY` is there too */
  readonly scale?: Animated;
  readonly scaleY?: Animated;
}

export interface WordsLayer extends Common {
  readonly kind: 'words';
  /** lines are parted by line breaks */
  readonly text: string;
  readonly font?: FontName;
  /** height of the letters' body */
  readonly size?: Animated;
  readonly align?: 'left' | 'middle' | 'right';
  /** code values 0 to 1 */
  readonly colour?: Rgb;
}

export interface ShapeLayer extends Common {
  readonly kind: 'shape';
  readonly shape: 'box' | 'oval';
  readonly width?: Animated;
  readonly height?: Animated;
  /** of a box's corners, 0 to 1: half its shorter side */
  readonly round?: Animated;
  /** thickness of its line; filled where it is 0 or left out */
  readonly line?: Animated;
  readonly colour?: Rgb;
}

/** A colour that is taken out of a picture. */
export interface PictureKey {
  /** code values 0 to 1 */
  readonly colour: Rgb;
  /** strengths of the key up to which the picture stays, and from which it is gone; see `keyStrength` */
  readonly gone: number;
  readonly solid: number;
  /** how much of the key's hue is taken out of what stays, 0 to 1 */
  readonly spill?: number;
  /** by which what stays grows, or shrinks where it is negative, and width of its edge; thousandths of the content's height */
  readonly grow?: number;
  readonly softness?: number;
}

export interface PictureLayer extends Common {
  readonly kind: 'picture';
  /** content hash of a picture or clip */
  readonly media: string;
  /** 1 is as tall as the content */
  readonly size?: Animated;
  /** frame on which a clip begins */
  readonly start?: number;
  readonly key?: PictureKey;
}

export interface PieceLayer extends Common {
  readonly kind: 'piece';
  readonly piece: PieceKind;
  /** its height */
  readonly size?: Animated;
  /** what is written in it, by the names of its fields */
  readonly fields?: Readonly<Record<string, string>>;
  /** how far it is: what that means depends on the piece */
  readonly amount?: Animated;
  readonly colour?: Rgb;
  readonly paper?: Rgb;
  readonly ink?: Rgb;
}

/** What lies farthest back comes first in a list of them. */
export type ContentLayer = WordsLayer | ShapeLayer | PictureLayer | PieceLayer;

/** What is drawn at once when a layer has no number of its own. Heights of the content. */
export const LAYER_SIZES = { words: 0.1, picture: 1, piece: 0.3, shape: 0.3 } as const;

/** Whether a layer shows on a frame. */
export function isLayerShown({ off, from = -Infinity, to = Infinity }: ContentLayer, frame: number): boolean {
  return !off && frame >= from && frame <= to;
}

/** Where a layer's middle lies on a frame, and how it is turned and scaled there. */
export interface Seat {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
  readonly scale: number;
  readonly scaleY: number;
}

/** Where a layer lies on a frame. */
export function seatOf(l: ContentLayer, frame: number): Seat {
  const scale = valueAt(l.scale, frame, 1);
  return {
    x: valueAt(l.x, frame, 0.5),
    y: valueAt(l.y, frame, 0.5),
    turn: valueAt(l.turn, frame, 0),
    scale,
    scaleY: valueAt(l.scaleY, frame, scale),
  };
}
