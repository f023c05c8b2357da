/** What the renderer is given: a Screen on a frame, and what of it is to be seen. */
import type { Lens } from '../../geometry/lens';
import { mapQuad } from '../../geometry/quad';
import type { Quad } from '../../geometry/quad';
import { quadToQuad } from '../../geometry/homography';
import type { Pass } from './compose';
import { PASSES } from './compose';
import type { FillPyramid } from '../fill/fill-pyramid';
import { valueAt } from '../base/keys';
import type { Size } from '../shape/placement';
import { boxOf, lifted, slotAspect } from '../shape/placement';
import type { DressRecipe } from './recipe';
import type { Transfer } from '../colour/transfer';

/** Where a Screen's plane is on a frame; neighbours null where they are not known. */
export interface PlaneOn {
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  /** the pin on the reference frame, plate px */
  readonly pin: Quad;
  readonly referenceFrame: number;
}

/** One Screen on one frame. */
export interface Layer {
  readonly fill: FillPyramid;
  /** of the pin on this frame and its neighbours, picture px; neighbours null where they are not known */
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  /** the pin on the reference frame, plate px: lengths of the recipe are measured by it */
  readonly pin?: Quad;
  readonly referenceFrame?: number;
  /** other Screens of the shot by name, on whose planes outlines may ride */
  readonly others?: Readonly<Record<string, PlaneOn>>;
  readonly dress?: DressRecipe;
  readonly frame?: number;
  readonly frameRate?: number;
  /** share of a frame's time that the plate's shutter is open, where it was estimated */
  readonly shutter?: number;
  /** the lens that bows the picture, its size in picture px */
  readonly lens?: Lens | null;
}

/**
 * What is shown: the whole, the element with straight alpha, how much of the fill shows, the plate as cleaned of spill,
 * or one of the passes that add up to the whole.
 */
export type Show = 'dressed' | 'element' | 'matte' | 'clean' | Pass;

/** Whether a name is that of a pass that can be delivered alone. */
export function isPass(show: string): show is Pass {
  return (PASSES as readonly string[]).includes(show);
}

export interface RenderOptions {
  readonly transfer?: Transfer;
  /** picture px a plate px: below 1 for proxies */
  readonly pixel?: number;
  readonly show?: Show;
}

/**
 * The plane in which the fill lies: the pin's, lifted off the glass, or widened to the outline at which a laid fill
 * ends.
 */
export function laidOn(l: Omit<Layer, 'fill'>, picture: Size): PlaneOn {
  const { corners, before = null, after = null, pin = corners, referenceFrame = 0, frame = 0 } = l;
  const p = l.dress?.placement ?? {};
  const lift = valueAt(p.lift, frame, 0);
  const box = p.lay === 'plate' && p.cut ? boxOf(p.cut) : null;
  const aspect = slotAspect(pin, p);
  const carried = (q: Quad | null, n: number): Quad | null => {
    if (!q) return null;
    const high = lifted(q, n === 0 ? lift : valueAt(p.lift, frame + n, 0), aspect, picture, p.focal);
    return box ? mapQuad(quadToQuad(pin, high), box) : high;
  };
  return {
    corners: carried(corners, 0)!,
    before: carried(before, -1),
    after: carried(after, 1),
    pin: box ?? pin,
    referenceFrame,
  };
}
