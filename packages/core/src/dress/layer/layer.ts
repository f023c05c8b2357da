/** What the renderer is given: a Screen on a frame, and what of it is to be seen. */
import type { Lens } from '../../geometry/lens';
import type { Raster } from '../../image/image';
import { mapQuad, signedArea } from '../../geometry/quad';
import type { Quad } from '../../geometry/quad';
import { quadToQuad } from '../../geometry/homography';
import type { Pass } from './compose';
import { PASSES } from './compose';
import type { FillPyramid } from '../fill/fill-pyramid';
import { valueAt } from '../base/keys';
import type { Still } from '../retouch/retouch';
import { moments } from '../shape/motion-blur';
import type { PlaneMoments, PlaneOf } from '../shape/outline-matte';
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

/** Another frame of the plate, as large as the picture. */
export interface StillOn {
  readonly picture: Raster;
  /** the Screen's own plane there, null where it is not known; and others' by name */
  readonly own: PlaneOn | null;
  readonly others?: Readonly<Record<string, PlaneOn>>;
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
  /** other frames of the plate from which marks are painted out, and where planes are on them */
  readonly stills?: Readonly<Record<number, StillOn>>;
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

/** Where a plane lies while the shutter is open. @param share of the frame's time that it is */
function momentsOf(on: PlaneOn, share: number): PlaneMoments {
  const path = share > 0 ? moments(on.before ?? null, on.corners, on.after ?? null, share) : [on.corners];
  return {
    planes: path.map((q) => quadToQuad(on.pin, q)),
    referenceFrame: on.referenceFrame,
    scale: Math.sqrt(Math.abs(signedArea(on.corners) / signedArea(on.pin))),
  };
}

function planeBy(own: PlaneOn | null, others: Layer['others'], share: number): PlaneOf {
  return (screen) => {
    const on = screen === undefined ? own : others?.[screen];
    return on ? momentsOf(on, share) : null;
  };
}

/** The planes on which a layer's outlines may ride, on its frame. */
export function planesOf(layer: Omit<Layer, 'fill'>, pin: Quad, share: number): PlaneOf {
  const { corners, before = null, after = null, referenceFrame = 0, others } = layer;
  return planeBy({ corners, before, after, pin, referenceFrame }, others, share);
}

/** Other frames of the plate with the planes on them, which are taken as they stand in the middle of the exposure. */
export function stillsOf(stills: NonNullable<Layer['stills']>): Readonly<Record<number, Still>> {
  const all = Object.entries(stills);
  return Object.fromEntries(
    all.map(([frame, { picture, own, others }]) => [frame, { picture, planeOf: planeBy(own, others, 0) }]),
  );
}
