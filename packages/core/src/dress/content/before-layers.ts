/** What was made up in a slot before there were layers: lines of words, and one clip before the background. */
import type { Animated } from '../base/keys';
import type { Rgb } from '../colour/levels';
import type { PictureLayer } from './layers';
import type { FontName } from './letters';

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

export interface TextLine extends Standing {
  readonly text: string;
  readonly font?: FontName;
  /** height of the letters' body, shares of the fill's height */
  readonly size?: Animated;
  readonly align?: 'left' | 'middle' | 'right';
  /** code values 0 to 1 */
  readonly colour?: Rgb;
}

/** The clip before the background, as a layer. */
export function clipLayer({ scale = 1, ...picture }: Foreground): PictureLayer {
  return { kind: 'picture', ...picture, size: scale };
}

/** A picture that covers the content, cut evenly at both ends. @param aspects width by height, of the picture and of the content */
export function coveringPicture(
  media: string,
  aspects: { readonly picture: number; readonly content: number },
): PictureLayer {
  return { kind: 'picture', media, size: Math.max(1, aspects.content / aspects.picture) };
}
