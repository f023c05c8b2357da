/** What the page asks of the thread that makes its pictures. */
import type { FillReading } from '@yarlop/core/dress/fill-pyramid';
import type { Rgb } from '@yarlop/core/dress/levels';
import type { MadeFill } from '@yarlop/core/dress/made-fill';
import type { Layer, Show } from '@yarlop/core/dress/render';
import type { Transfer } from '@yarlop/core/dress/transfer';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { CardKind } from '@yarlop/core/proof/proof-card';

/** A picture by its address, and how it is read; `table` names a colour table that it goes through first. */
export interface PictureFill {
  readonly url: string;
  readonly reading: FillReading;
  readonly table?: string | undefined;
}

/** A picture, or a fill that is made up for a frame at a size; the gamma of its levels bends the whole. */
export type FillRequest =
  | PictureFill
  | {
      readonly made: MadeFill;
      readonly frame: number;
      readonly size: readonly [number, number];
      readonly background: PictureFill | null;
      readonly foreground: PictureFill | null;
      readonly curve: Transfer;
      readonly gamma: Rgb;
    };

/** What is shown of a dress: as the renderer knows it, or made here from what it gives. */
export type ViewShow = Show | 'difference' | 'overlay';

/** A layer as the renderer takes it, in plate px, with its fill by address. */
export interface LayerRequest extends Pick<
  Layer,
  'pin' | 'referenceFrame' | 'dress' | 'frame' | 'frameRate' | 'others'
> {
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  readonly shutter?: number | null;
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
}
