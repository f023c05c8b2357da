/** What the page asks of the thread that makes its pictures. */
import type { FillReading } from '@yarlop/core/dress/fill/fill-pyramid';
import type { Rgb } from '@yarlop/core/dress/colour/levels';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import type { Layer, PlaneOn, Show } from '@yarlop/core/dress/render';
import type { Transfer } from '@yarlop/core/dress/colour/transfer';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { FlatArea } from '@yarlop/core/proof/flat-view';
import type { CardKind } from '@yarlop/core/proof/proof-card';

/** A picture by its address, and how it is read; `table` names a colour table that it goes through first. */
export interface PictureFill {
  readonly url: string;
  readonly reading: FillReading;
  readonly table?: string | undefined;
}

/** A fill that is made up for a frame at a size; the gamma of its levels bends the whole. */
export interface MadeRequest {
  readonly made: MadeFill;
  readonly frame: number;
  readonly size: readonly [number, number];
  readonly background: PictureFill | null;
  readonly foreground: PictureFill | null;
  /** of the layers, each in its layer's place */
  readonly layers: readonly (PictureFill | null)[];
  readonly curve: Transfer;
  readonly gamma: Rgb;
}

/** A picture, nothing, or what is made up. */
export type FillRequest = PictureFill | { readonly nothing: true } | MadeRequest;

/** What is shown of a dress: as the renderer knows it, or made here from what it gives. */
export type ViewShow = Show | 'difference' | 'overlay';

export interface StillRequest {
  readonly frame: number;
  readonly own: PlaneOn | null;
  readonly others: Readonly<Record<string, PlaneOn>>;
}

/** A layer as the renderer takes it, in plate px, with its fill by address. */
export interface LayerRequest extends Pick<
  Layer,
  'pin' | 'referenceFrame' | 'dress' | 'frame' | 'frameRate' | 'others'
> {
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  readonly shutter?: number | null;
  /** other frames of the plate from which marks are painted out, and planes on them, in plate px */
  readonly stills?: readonly StillRequest[];
  /** radial term, on half the picture's width */
  readonly lens?: number;
  /** a picture's address, or a proof card of this many px */
  readonly fill:
    FillRequest | { readonly card: readonly [number, number]; readonly kind: CardKind; readonly opacity: number };
}

export interface PictureRequest {
  readonly url: string;
  /** plate px a picture px: proxies are smaller than the plate */
  readonly plateWidth: number;
  readonly layers: readonly LayerRequest[];
  /**
   * px of width that are enough: while something is dragged, a small picture at once is worth more than a large one
   * late
   */
  readonly most?: number;
  readonly transfer: Transfer;
  readonly show: ViewShow;
  /** a colour table that everything is looked at through */
  readonly table?: string | null;
  /** this part of the plate alone, in full pixels; the whole picture when left out */
  readonly window?: Rectangle;
  /** instead of the window, a Screen in it laid flat, from its corners in plate px */
  readonly flat?: { readonly area: FlatArea; readonly corners: Quad };
}

/** Whole px of the plate. */
export interface Rectangle {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** The plate's own pixels in a rectangle of a frame. */
export interface CutOut extends Rectangle {
  /** RGB, row-major */
  readonly data: Uint8Array;
  /** px of the whole plate */
  readonly of: readonly [width: number, height: number];
}

/** A rectangle of the picture in which something is laid over the plate, with its place in picture px. */
export interface Patch {
  readonly bitmap: ImageBitmap;
  readonly x: number;
  readonly y: number;
}

/** A picture as it is kept: the plate, and what changes of it; null where there is none. */
export interface PictureParts {
  readonly plate: ImageBitmap | null;
  readonly patch: Patch | null;
}

/** Which of a picture's parts are asked for. */
export interface WantedParts {
  readonly plate: boolean;
  readonly patch: boolean;
}

/** Whether every pixel of what is shown differs from the plate's, so that the patch is the whole picture. */
export function isAllPatch({ layers, show, table, window }: PictureRequest): boolean {
  const isRedrawn = show === 'difference' || show === 'element' || show === 'overlay';
  return Boolean(table) || window !== undefined || (isRedrawn && layers.length > 0);
}

/** Whether a picture is more than the plate. */
export function hasPatch({ layers, table, window }: PictureRequest): boolean {
  return layers.length > 0 || Boolean(table) || window !== undefined;
}

/** The picture that stands in the view; its canvas is drawn on again for the next. */
export interface SeenPicture {
  readonly frame: number;
  readonly canvas: OffscreenCanvas;
  /** whether anything is laid over the plate; and the plate by itself, where that is not the same and is there */
  readonly isLaidOver: boolean;
  readonly plate: ImageBitmap | null;
  /** what of the plate it shows */
  readonly at: Rectangle;
}
