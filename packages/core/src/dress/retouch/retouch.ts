/**
 * Retouching of the plate within outlines: a region whose colours or sharpness are changed, or a mark that is painted
 * out. The plate is retouched before anything is laid over it, so that keys, light of the glass and rims are taken from
 * the retouched plate; a graded region may also lie over the dressed picture.
 */
import { inverse, multiply } from '../../geometry/matrix3';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import type { Raster } from '../../image/image';
import { polygonAt } from '../../follow/outline/outlines';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Region } from '../base/region';
import { regionOfBounds } from '../base/region';
import type { Levels } from '../colour/levels';
import type { Transfer } from '../colour/transfer';
import type { MeasuredGrain } from '../light/grain';
import type { PlaneMoments, PlaneOf, RidingOutline } from '../shape/outline-matte';
import { rideOf } from '../shape/outline-matte';
import { blurReach } from '../shape/softness';

interface Common extends RidingOutline {
  readonly off?: boolean;
  /** width of the edge, px of the frame */
  readonly softness?: Animated;
}

/** A region whose colours or sharpness are changed. */
export interface Graded extends Common {
  readonly kind: 'grade';
  /** over the dressed picture instead of the plate under it */
  readonly after?: boolean;
  /** black, white and what was measured are for fills */
  readonly levels?: Levels;
  /** sigma, px of the reference frame */
  readonly blur?: Animated;
}

/** A mark that is painted out: from what surrounds it, from a place beside it, or from another frame of the plate. */
export interface PaintedOut extends Common {
  readonly kind: 'paint-out';
  readonly from: 'around' | 'beside' | 'frame';
  /** to where the picture is taken from beside it, px of the plane */
  readonly offset?: Point;
  /** what is taken is turned over left to right, or top to bottom */
  readonly mirror?: 'across' | 'down';
  /** the frame from which it is taken */
  readonly frame?: number;
}

export type Retouch = Graded | PaintedOut;

/** Another frame of the plate, of the same size, and where planes are on it. */
export interface Still {
  readonly picture: Raster;
  readonly planeOf: PlaneOf;
}

export interface RetouchTask {
  readonly retouch: Retouch;
  readonly frame: number;
  readonly frameRate: number;
  readonly at: PlaneMoments;
  /** what may change, and all that is read */
  readonly region: Region;
  /** px of the frame */
  readonly softness: number;
  readonly blur: number;
  readonly transfer: Transfer;
  /** noise of the plate, where it was measured */
  readonly grain: MeasuredGrain | null;
  /** picture px a plate px */
  readonly pixel: number;
  /** px of the frame to the px that is shown there instead: of the same frame, or of `still` */
  readonly source: Matrix3 | null;
  readonly still: Raster | null;
}

/** What a layer's retouches are laid out by. */
export interface RetouchPlace {
  readonly frame: number;
  readonly frameRate: number;
  readonly referenceFrame: number;
  readonly planeOf: PlaneOf;
  readonly stills: Readonly<Record<number, Still>> | undefined;
  readonly transfer: Transfer;
  readonly grain: MeasuredGrain | null;
  readonly pixel: number;
  readonly picture: { readonly width: number; readonly height: number };
}

/** px around a mark from which it is filled, and by which the plate's noise is judged. By trial. */
const SURROUNDINGS = 24;

/** The plane in the middle of the exposure. */
const middle = ({ planes }: PlaneMoments): Matrix3 => planes[planes.length >> 1]!;

/** On the plane, from a place to the one beside it whose picture it shows. */
function toSource(r: PaintedOut, polygon: readonly Point[]): Matrix3 {
  const [dx, dy] = r.offset ?? [0, 0];
  const b = boundsOf(polygon);
  if (r.mirror === 'across') return [-1, 0, b.x0 + b.x1 + dx, 0, 1, dy, 0, 0, 1];
  if (r.mirror === 'down') return [1, 0, dx, 0, -1, b.y0 + b.y1 + dy, 0, 0, 1];
  return [1, 0, dx, 0, 1, dy, 0, 0, 1];
}

/** @returns null where nothing is to be taken from elsewhere, or it is not there */
function sourceOf(
  r: Retouch,
  at: PlaneMoments,
  polygon: readonly Point[],
  p: RetouchPlace,
): Pick<RetouchTask, 'source' | 'still'> | null {
  if (r.kind === 'grade' || r.from === 'around') return { source: null, still: null };
  const back = inverse(middle(at));
  if (r.from === 'beside') return { source: multiply(middle(at), multiply(toSource(r, polygon), back)), still: null };
  const still = r.frame === undefined ? undefined : p.stills?.[r.frame];
  const there = still && rideOf(r, { ...p, planeOf: still.planeOf });
  return still && there ? { source: multiply(middle(there), back), still: still.picture } : null;
}

/** @returns null where it changes nothing on the frame */
function planOne(r: Retouch, p: RetouchPlace): RetouchTask | null {
  const at = rideOf(r, p);
  if (r.off || !at) return null;
  const polygon = polygonAt(r, p.frame, at.referenceFrame);
  const source = sourceOf(r, at, polygon, p);
  if (!source) return null;
  const softness = p.pixel * valueAt(r.softness, p.frame, 0);
  const blur = r.kind === 'grade' ? at.scale * valueAt(r.blur, p.frame, 0) : 0;
  const seen = at.planes.flatMap((plane) => polygon.map((q) => mapPoint(plane, q)));
  const beside = source.source && !source.still ? seen.map((q) => mapPoint(source.source!, q)) : [];
  const around = r.kind === 'paint-out' ? SURROUNDINGS * p.pixel : 0;
  const soft = (Math.max(0, ...(r.soft ?? [])) * at.scale) / 2;
  const margin = 2 + soft + 2 * softness + blurReach(blur, 'gaussian') + around;
  const region = regionOfBounds(boundsOf([...seen, ...beside]), margin, p.picture);
  return region && { ...p, ...source, retouch: r, at, region, softness, blur };
}

/** What is to be done to the plate, or over the dressed picture, on a frame; in the order of the list. */
export function planRetouches(
  list: readonly Retouch[] | undefined,
  after: boolean,
  place: RetouchPlace,
): RetouchTask[] {
  return (list ?? []).flatMap((r) => {
    if ((r.kind === 'grade' && (r.after ?? false)) !== after) return [];
    return planOne(r, place) ?? [];
  });
}
