/**
 * Follow and ignore patches over time. An outline lies in the Screen's plane, in px of the reference frame, and rides
 * with it; it may be reshaped from a frame on, and changes between the frames on which it was.
 */
import { smoothOutline } from '../../geometry/curve';
import { distanceToSegment } from '../../geometry/line';
import type { Point } from '../../geometry/point';
import { insidePolygon } from '../../geometry/polygon';

export interface OutlineKey {
  readonly frame: number;
  /** as many as the outline itself has, in px of the reference frame */
  readonly points: readonly Point[];
}

export type Change = 'linear' | 'eased' | 'hold';

/** A closed outline that may change over time. */
export interface Outline {
  readonly points: readonly Point[];
  /** a curve through the points instead of straight sides */
  readonly smooth?: boolean | undefined;
  readonly change?: Change | undefined;
  readonly keys?: readonly OutlineKey[] | undefined;
}

export interface Patch extends Outline {
  readonly kind: 'follow' | 'ignore';
}

/** Smoothstep: starts and ends at rest. */
const eased = (t: number): number => t * t * (3 - 2 * t);

/** The outline's own points on a frame; before the first key and after the last they hold. */
export function shapeAt(patch: Outline, frame: number, reference: number): readonly Point[] {
  if (!patch.keys || patch.keys.length === 0) return patch.points;
  const keys = [
    ...patch.keys.filter((k) => k.frame !== reference && k.points.length === patch.points.length),
    { frame: reference, points: patch.points },
  ].sort((a, b) => a.frame - b.frame);
  const after = keys.findIndex((k) => k.frame > frame);
  if (after === 0) return keys[0]!.points;
  if (after < 0) return keys.at(-1)!.points;
  const a = keys[after - 1]!;
  const b = keys[after]!;
  const t = (frame - a.frame) / (b.frame - a.frame);
  const how = patch.change ?? 'linear';
  let k: number;
  if (how === 'hold') k = 0;
  else if (how === 'eased') k = eased(t);
  else k = t;
  return a.points.map(([x, y], i): Point => [x + k * (b.points[i]![0] - x), y + k * (b.points[i]![1] - y)]);
}

/** The same change of every shape that an outline has. */
function reshaped<T extends Outline>(outline: T, change: (points: readonly Point[]) => Point[]): T {
  const { points, keys } = outline;
  return {
    ...outline,
    points: change(points),
    ...(keys ? { keys: keys.map((k) => ({ ...k, points: change(k.points) })) } : {}),
  };
}

/** With a point more, halfway along a side, in every shape. @param side from point `side` to the next one */
export function withPoint<T extends Outline>(outline: T, side: number): T {
  return reshaped(outline, (points) => {
    const [a, b] = [points[side]!, points[(side + 1) % points.length]!];
    return [...points.slice(0, side + 1), [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], ...points.slice(side + 1)];
  });
}

/** Without one of its points, in every shape; an outline of three stays as it is. */
export function withoutPoint<T extends Outline>(outline: T, point: number): T {
  if (outline.points.length <= 3) return outline;
  return reshaped(outline, (points) => points.filter((_, i) => i !== point));
}

/** The outline as a polygon. */
export function polygonOf(patch: Outline, points: readonly Point[]): readonly Point[] {
  return patch.smooth ? smoothOutline(points) : points;
}

/** Every shape that the outline ever has at a key, as polygons. */
export function allShapes(patch: Outline): (readonly Point[])[] {
  return [patch.points, ...(patch.keys ?? []).map((k) => k.points)].map((p) => polygonOf(patch, p));
}

export interface Followed {
  /** whether a place of the plane, px of the reference frame, is followed by its picture; by its edges */
  readonly picture: (p: Point) => boolean;
  readonly edges: (p: Point) => boolean;
}

/** What passes in front, frame by frame: outlines in px of the picture. */
export type Passing = readonly { readonly frame: number; readonly points: readonly Point[] }[];

/** px; what passes in front is blurred at its edge, and lies a little aside of where the plane is expected. By trial. */
const MARGIN = 4;

/** Whether a place lies in an outline or just beside it. */
function isCovered(p: Point, polygon: readonly Point[]): boolean {
  if (insidePolygon(p, polygon)) return true;
  return polygon.some((a, i) => distanceToSegment(p, a, polygon[(i + 1) % polygon.length]!) < MARGIN);
}

/**
 * What is followed on a frame.
 * @param toPlane from px of the picture to px of the plane, as far as that is known before the frame is solved
 * @returns null when no outline ever changes, so that the region says it all
 */
export function followedOn(
  { patches, passing = [] }: { readonly patches: readonly Patch[]; readonly passing?: readonly Passing[] | undefined },
  [frame, reference]: readonly [frame: number, reference: number],
  toPlane: (p: Point) => Point,
): Followed | null {
  const front = passing.flatMap((p) => p.filter((f) => f.frame === frame).map((f) => f.points.map(toPlane)));
  if (front.length === 0 && !patches.some((p) => p.keys && p.keys.length > 0)) return null;
  const shapes = patches.map((p) => ({ kind: p.kind, polygon: polygonOf(p, shapeAt(p, frame, reference)) }));
  const follow = shapes.filter((s) => s.kind === 'follow');
  const ignore = shapes.filter((s) => s.kind === 'ignore');
  const edges = (p: Point): boolean =>
    !ignore.some((s) => insidePolygon(p, s.polygon)) && !front.some((polygon) => isCovered(p, polygon));
  return {
    edges,
    picture: (p) => edges(p) && (follow.length === 0 || follow.some((s) => insidePolygon(p, s.polygon))),
  };
}
