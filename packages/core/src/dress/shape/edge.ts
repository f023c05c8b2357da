/** The fill's outline: its sides drawn in or softened each by itself, and its corners rounded. */
import { clamp } from '../../clamp';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';

export interface Edge {
  /** px of the reference frame by which sides are drawn in, all or top, right, bottom, left; negative makes the fill larger */
  readonly inset?: Animated | { readonly sides: readonly Animated[] };
  /** px of the reference frame over which the fill fades in from its side: all sides, or top, right, bottom, left */
  readonly feather?: Animated | { readonly sides: readonly Animated[] };
  /** of corners, shares of the slot's shorter side: all, or TL, TR, BR, BL */
  readonly radius?: Animated | { readonly corners: readonly Animated[] };
  /** light of the plate that creeps over the edge, 0 to 1, and how far, px of the reference frame */
  readonly wrap?: Animated;
  readonly wrapReach?: Animated;
}

/** {@link Edge} on a frame. */
export interface EdgeShape {
  /** px of the frame: top, right, bottom, left */
  readonly inset: readonly number[];
  readonly feather: readonly number[];
  /** slot heights: TL, TR, BR, BL */
  readonly radius: readonly number[];
  readonly wrap: number;
  readonly wrapReach: number;
}

const four = (v: unknown, list: readonly Animated[] | undefined, frame: number): number[] =>
  list
    ? [0, 1, 2, 3].map((i) => valueAt(list[i], frame, 0))
    : new Array<number>(4).fill(valueAt(v as Animated | undefined, frame, 0));

/** @param scale px of the frame a px of the reference frame; `aspect` of the slot */
export function edgeAt(e: Edge, frame: number, scale: number, aspect: number): EdgeShape {
  const sides = (v: Edge['feather']): readonly Animated[] | undefined =>
    typeof v === 'object' && 'sides' in v ? v.sides : undefined;
  const radius = typeof e.radius === 'object' && 'corners' in e.radius ? e.radius.corners : undefined;
  return {
    inset: four(e.inset, sides(e.inset), frame).map((v) => v * scale),
    feather: four(e.feather, sides(e.feather), frame).map((v) => Math.max(0, v) * scale),
    radius: four(e.radius, radius, frame).map((v) => clamp(v, 0, 0.5) * Math.min(1, aspect)),
    wrap: valueAt(e.wrap, frame, 0),
    wrapReach: valueAt(e.wrapReach, frame, 4) * scale,
  };
}

/**
 * Share of a pixel that the outline covers, from its place in the slot and what a px to the right (sx, tx) and down
 * (sy, ty) changes of it: a side's distance in px is the place's by its gradient, so that it holds under perspective
 * and bend.
 */
export function coverageAt(
  e: EdgeShape,
  aspect: number,
  s: number,
  t: number,
  sx: number,
  sy: number,
  tx: number,
  ty: number,
): number {
  const gs = 1 / Math.sqrt(sx * sx + sy * sy);
  const gt = 1 / Math.sqrt(tx * tx + ty * ty);
  const { inset, feather, radius } = e;
  let c = ramp(t * gt - inset[0]!, feather[0]!);
  if (c === 0) return 0;
  c *= ramp((1 - s) * gs - inset[1]!, feather[1]!);
  if (c === 0) return 0;
  c *= ramp((1 - t) * gt - inset[2]!, feather[2]!) * ramp(s * gs - inset[3]!, feather[3]!);
  if (c === 0) return 0;
  const right = s > 0.5;
  const low = t > 0.5;
  const upper = right ? 1 : 0;
  const lower = right ? 2 : 3;
  const r = radius[low ? lower : upper]!;
  if (r === 0) return c;
  // Beyond both sides of the corner's own square the distance is to its arc.
  const dx = (right ? 1 - s : s) * aspect - (inset[right ? 1 : 3]! / gs) * aspect;
  const dy = (low ? 1 - t : t) - inset[low ? 2 : 0]! / gt;
  const ox = r - dx;
  const oy = r - dy;
  if (ox <= 0 || oy <= 0) return c;
  const l = Math.hypot(ox, oy);
  const nx = (ox / l) * (right ? 1 : -1);
  const ny = (oy / l) * (low ? 1 : -1);
  const px = Math.hypot(nx * aspect * sx + ny * tx, nx * aspect * sy + ny * ty);
  return Math.min(c, ramp((r - l) / px, Math.max(feather[low ? 2 : 0]!, feather[right ? 1 : 3]!)));
}

/** 0 to 1 over a px about the side, or over the feather from half a px outside it on. */
function ramp(distance: number, feather: number): number {
  const d = distance + 0.5;
  if (d <= 0) return 0;
  if (d >= 1 + feather) return 1;
  if (feather === 0) return d;
  return smooth(d / (1 + feather));
}

function smooth(t: number): number {
  return t * t * (3 - 2 * t);
}
