/**
 * Where a fill lies in its slot. The slot is the pin's rectangle, 0 to 1 from its top-left corner, as wide as `aspect`
 * for each unit of its height; every placement is a projective map within the plane, so that one matrix takes a pixel
 * of the plate to a pixel of the fill.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, inverse, multiply, scaling, translation } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import { poseOf, projectCorners, USUAL_FOCAL } from '../../geometry/pose';
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import type { Quad } from '../../geometry/quad';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';

/** px. */
export interface Size {
  readonly width: number;
  readonly height: number;
}

/** The fill is stretched to the slot, shown whole inside it, or covers it and is cut. */
export type Fit = 'stretch' | 'contain' | 'cover';

export interface Placement {
  /**
   * `pin` (when left out) squeezes the fill into the pin; `plate` lays it unsquashed over the reference frame, as large
   * as covers it, from where the plane carries it
   */
  readonly lay?: 'pin' | 'plate';
  /**
   * where a fill that is laid over the plate ends: at the pin (when left out), or at an outline, px of the reference
   * frame
   */
  readonly cut?: readonly Point[];
  /** distance above the glass along its normal, heights of the slot, by the fitted pose; negative lies behind it */
  readonly lift?: Animated;
  /** focal length by which the pose is fitted, picture widths; a usual lens when left out */
  readonly focal?: number;
  readonly fit?: Fit;
  /** width by height of the Screen itself; as its pin looks when left out */
  readonly proportions?: number;
  /** of the fill, clockwise */
  readonly quarterTurns?: number;
  readonly mirror?: boolean;
  /** px of the fill that are cut off: left, top, right, bottom */
  readonly crop?: readonly number[];
  /** shares of the slot's width and height, to the right and down */
  readonly x?: Animated;
  readonly y?: Animated;
  /** degrees, clockwise */
  readonly turn?: Animated;
  /** factors, 1 as fitted; `scaleY` follows `scale` when left out */
  readonly scale?: Animated;
  readonly scaleY?: Animated;
  /** by how much of its height the fill's upper edge leans to the right */
  readonly shear?: Animated;
  /** by how much the fill's right (lower) side is farther away, as a share */
  readonly keystoneX?: Animated;
  readonly keystoneY?: Animated;
}

/** Width by height of the slot: as it was told, or as its pin looks. */
export function slotAspect(pin: Quad, placement?: Pick<Placement, 'proportions'>): number {
  if (placement?.proportions !== undefined) return placement.proportions;
  return (
    (distance(pin[0], pin[1]) + distance(pin[3], pin[2])) /
    Math.max(1e-6, distance(pin[0], pin[3]) + distance(pin[1], pin[2]))
  );
}

/**
 * Share by which the proportions of a fill may differ from those of a Screen for which it was made: a pin seen through an
 * unknown lens tells them no better. By trial.
 */
const MADE_FOR = 0.08;

/**
 * How a fill is laid at first, so that it keeps its proportions: as large as covers the Screen. Both by width and height.
 * @returns null where it was made for such a Screen and lies in it as it is
 */
export function keptProportions(fill: number, screen: number): Placement | null {
  if (Math.abs(Math.log(fill / screen)) <= Math.log(1 + MADE_FOR)) return null;
  return { fit: 'cover', proportions: Number(screen.toFixed(3)) };
}

const about = (m: Matrix3): number[] => multiply(translation(0.5, 0.5), multiply(m, translation(-0.5, -0.5)));

/** Unit square to unit square, for a turn by quarters and a mirror. */
function turned(quarters: number, mirror: boolean): number[] {
  const q = ((Math.round(quarters) % 4) + 4) % 4;
  const c = [1, 0, -1, 0][q]!;
  const s = [0, 1, 0, -1][q]!;
  return about(multiply([c, -s, 0, s, c, 0, 0, 0, 1], mirror ? scaling(-1, 1) : IDENTITY));
}

/** px of a fill that are left of it, and where they begin. */
function windowOf({ crop = [] }: Placement, width: number, height: number): { at: Point; w: number; h: number } {
  const [left = 0, top = 0, right = 0, bottom = 0] = crop;
  return { at: [left, top], w: Math.max(1, width - left - right), h: Math.max(1, height - top - bottom) };
}

/**
 * From what shows of a fill of width x height px, as a unit square that is upright as it lies in the slot (quarter turns
 * and mirror stay within it), to the slot (0 to 1).
 * @param aspect of the slot, its width by its height
 */
export function frameToSlot(p: Placement, frame: number, width: number, height: number, aspect: number): number[] {
  const { w, h } = windowOf(p, width, height);
  const lying = Math.round(p.quarterTurns ?? 0) % 2 !== 0;
  const ratio = lying ? h / w : w / h;
  const fit = p.fit ?? 'stretch';
  const wide = ratio > aspect === (fit === 'cover');
  let [fw, fh] = [aspect, 1];
  if (fit !== 'stretch') [fw, fh] = wide ? [ratio, 1] : [aspect, aspect / ratio];
  const a = (valueAt(p.turn, frame, 0) * Math.PI) / 180;
  const sx = valueAt(p.scale, frame, 1);
  const sy = valueAt(p.scaleY, frame, sx);
  const shear = valueAt(p.shear, frame, 0);
  const kx = valueAt(p.keystoneX, frame, 0) / fw;
  const ky = valueAt(p.keystoneY, frame, 0) / fh;
  // From the fill, as a unit square, to the slot in units of its height with its middle at 0, and on to the slot's own
  // square.
  const inPlane = multiply(
    [1, 0, 0, 0, 1, 0, kx, ky, 1],
    multiply(scaling(fw * nonZero(sx), fh * nonZero(sy)), translation(-0.5, -0.5)),
  );
  const leant = multiply([1, -shear, 0, 0, 1, 0, 0, 0, 1], inPlane);
  const rotated = multiply([Math.cos(a), -Math.sin(a), 0, Math.sin(a), Math.cos(a), 0, 0, 0, 1], leant);
  const moved = multiply(translation(valueAt(p.x, frame, 0) * aspect, valueAt(p.y, frame, 0)), rotated);
  return multiply(multiply(translation(0.5, 0.5), scaling(1 / aspect, 1)), moved);
}

/**
 * From the slot (0 to 1) to px of a fill of width x height.
 * @param aspect of the slot, its width by its height
 */
export function slotToFill(p: Placement, frame: number, width: number, height: number, aspect: number): number[] {
  const { at, w, h } = windowOf(p, width, height);
  const toSlot = multiply(frameToSlot(p, frame, width, height, aspect), turned(p.quarterTurns ?? 0, p.mirror ?? false));
  return multiply(multiply(translation(...at), scaling(w, h)), inverse(toSlot));
}

/** A scale of nothing would leave nothing to sample. */
function nonZero(s: number): number {
  return Math.abs(s) < 1e-4 ? 1e-4 : s;
}

/** The rectangle about an outline, as a pin of its own. */
export function boxOf(outline: readonly Point[]): Quad {
  const b = boundsOf(outline);
  return [
    [b.x0, b.y0],
    [b.x1, b.y0],
    [b.x1, b.y1],
    [b.x0, b.y1],
  ];
}

/**
 * From px of a fill that lies unsquashed over the reference frame to px of that frame: as large as covers it, then
 * moved, scaled and turned about the pin's own middle, moves in shares of the plate's size.
 */
export function laidToPlate(p: Placement, frame: number, { width, height }: Size, pin: Quad, plate: Size): number[] {
  const cover = Math.max(plate.width / width, plate.height / height);
  const a = (valueAt(p.turn, frame, 0) * Math.PI) / 180;
  const sx = cover * nonZero(valueAt(p.scale, frame, 1));
  const sy = cover * nonZero(valueAt(p.scaleY, frame, valueAt(p.scale, frame, 1)));
  const [mx, my] = mapPoint(unitSquareToQuad(pin), [0.5, 0.5]);
  const x = plate.width / 2 + valueAt(p.x, frame, 0) * plate.width;
  const y = plate.height / 2 + valueAt(p.y, frame, 0) * plate.height;
  // The fill's middle on the plate's, then about the pin's middle, so that scaling keeps what shows through it in
  // place.
  const scaled = multiply(
    translation(mx, my),
    multiply(
      [Math.cos(a), -Math.sin(a), 0, Math.sin(a), Math.cos(a), 0, 0, 0, 1],
      multiply(scaling(sx / cover, sy / cover), translation(-mx, -my)),
    ),
  );
  return multiply(scaled, multiply(translation(x, y), multiply(scaling(cover), translation(-width / 2, -height / 2))));
}

/** From the slot of `pin` to px of a fill that is laid over the plate; see {@link laidToPlate}. */
export function slotToLaidFill(p: Placement, frame: number, fill: Size, pin: Quad, plate: Size): number[] {
  return multiply(inverse(laidToPlate(p, frame, fill, pin, plate)), unitSquareToQuad(pin));
}

/**
 * The corners `lift` slot heights above the glass, by the pose that fits the corners best; the corners themselves for
 * none.
 */
export function lifted(corners: Quad, lift: number, aspect: number, picture: Size, focal = USUAL_FOCAL): Quad {
  if (lift === 0) return corners;
  const camera = { ...picture, focal };
  const { pose } = poseOf(camera, corners, aspect);
  const on = projectCorners(camera, pose, aspect);
  const above = projectCorners(camera, pose, aspect, lift);
  // What the pose cannot explain stays, so that a lift of nothing is nothing.
  return corners.map((c, i): Point => [
    c[0] + above[i]![0] - on[i]![0],
    c[1] + above[i]![1] - on[i]![1],
  ]) as unknown as Quad;
}
