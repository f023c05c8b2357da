import type { Quad } from '@yarlop/core/geometry/quad';
import type { TrackFrame } from '@yarlop/core/track';

/** What is told of a Screen's track. */
export interface TrackView {
  readonly solveId: number | null;
  /** some of it was followed otherwise than the recipe says by now */
  readonly outdated: boolean;
  /** the frames that were, as far as some were not: ranges with both ends inclusive */
  readonly stale: readonly { readonly from: number; readonly to: number }[];
  /** four corners on the reference frame that were followed; the pin rides on their plane */
  readonly area: Quad | null;
  readonly frames: readonly (TrackFrame & { readonly blur: number; readonly reason: string | null })[];
  /**
   * radial term of the lens, as far as it was learnt; share of a frame that the shutter is open, and the fast frames
   * that told it
   */
  readonly lens: number;
  readonly shutter: { readonly share: number; readonly frames: number } | null;
  /**
   * of a Screen that rests on the shot's camera: what is to be said of that, and its corners in the scene (null where it
   * could not be used); null for others
   */
  readonly scene: {
    readonly note: string | null;
    readonly corners: readonly (readonly [number, number, number])[] | null;
  } | null;
  /** the frames next to the ends at which following halted, with the reason */
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
}
