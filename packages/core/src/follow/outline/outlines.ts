/**
 * Follow and ignore patches over time. An outline lies in the Screen's plane, in px of the reference frame, and rides
 * with it; it may be reshaped from a frame on, and changes between the frames on which it was.
 */
import type { Handles } from '../../geometry/curve';
import { NO_HANDLES, handledOutline, smoothOutline, splitSide } from '../../geometry/curve';
import { distanceToSegment } from '../../geometry/line';
import type { Point } from '../../geometry/point';
import { insidePolygon } from '../../geometry/polygon';

/** What an outline is on a frame. */
export interface Shape {
  /** px of the reference frame */
  readonly points: readonly Point[];
  /** as many as points; left out where the sides are straight, or a curve goes through the points by itself */
  readonly handles?: readonly Handles[] | undefined;
}

export interface OutlineKey extends Shape {
  readonly frame: number;
  /** how the shape goes on to the next key; as the outline says where left out */
  readonly ease?: Change | undefined;
}

export type Change = 'linear' | 'eased' | 'hold';

/** A closed outline that may change over time; every shape has as many points. */
export interface Outline extends Shape {
  /** a curve through the points instead of straight sides; handles go before it */
  readonly smooth?: boolean | undefined;
  /** width of a matte's edge at each point, px of the reference frame; sharp where left out */
  readonly soft?: readonly number[] | undefined;
  readonly change?: Change | undefined;
  readonly keys?: readonly OutlineKey[] | undefined;
}

export interface Patch extends Outline {
  readonly kind: 'follow' | 'ignore';
}

/** Smoothstep: starts and ends at rest. */
const eased = (t: number): number => t * t * (3 - 2 * t);

/** The handles of a shape, corners where it has none. */
export function handlesOf({ points, handles }: Shape): readonly Handles[] {
  return handles?.length === points.length ? handles : points.map(() => NO_HANDLES);
}

/** How far the way between two keys has come. @param t 0 to 1, share of the frames */
function share(t: number, how: Change): number {
  if (how === 'hold') return 0;
  return how === 'eased' ? eased(t) : t;
}

function between(a: Shape, b: Shape, k: number, isLed: boolean): Shape {
  const points = a.points.map(([x, y], i): Point => [x + k * (b.points[i]![0] - x), y + k * (b.points[i]![1] - y)]);
  if (!isLed) return { points };
  const to = handlesOf(b);
  const handles = handlesOf(a).map((h, i) => h.map((v, j) => v + k * (to[i]![j]! - v)) as unknown as Handles);
  return { points, handles };
}

/** The outline's own shape on a frame; before the first key and after the last it holds. */
export function shapeOn(patch: Outline, frame: number, reference: number): Shape {
  if (!patch.keys || patch.keys.length === 0) return patch;
  const keys: OutlineKey[] = [
    ...patch.keys.filter((k) => k.frame !== reference && k.points.length === patch.points.length),
    { frame: reference, points: patch.points, handles: patch.handles },
  ].sort((a, b) => a.frame - b.frame);
  const after = keys.findIndex((k) => k.frame > frame);
  if (after === 0) return keys[0]!;
  if (after < 0) return keys.at(-1)!;
  const a = keys[after - 1]!;
  const b = keys[after]!;
  const t = (frame - a.frame) / (b.frame - a.frame);
  return between(a, b, share(t, a.ease ?? patch.change ?? 'linear'), patch.handles !== undefined);
}

/** The points of {@link shapeOn}. */
export function shapeAt(patch: Outline, frame: number, reference: number): readonly Point[] {
  return shapeOn(patch, frame, reference).points;
}

/** The same change of every shape that an outline has. */
export function reshaped<T extends Outline>(outline: T, change: (shape: Shape) => Shape): T {
  const { keys } = outline;
  return {
    ...outline,
    ...change(outline),
    ...(keys ? { keys: keys.map((k) => ({ ...k, ...change(k) })) } : {}),
  };
}

/** With a point more, halfway along a side, in every shape. @param side from point `side` to the next one */
export function withPoint<T extends Outline>(outline: T, side: number): T {
  const { soft } = outline;
  const next = (side + 1) % outline.points.length;
  const more = reshaped(outline, (shape) => {
    const { points, handles } = splitSide(shape.points, handlesOf(shape), side);
    return outline.handles ? { points, handles } : { points };
  });
  return soft ? { ...more, soft: soft.toSpliced(side + 1, 0, (soft[side]! + soft[next]!) / 2) } : more;
}

/** Without one of its points, in every shape; an outline of three stays as it is. */
export function withoutPoint<T extends Outline>(outline: T, point: number): T {
  if (outline.points.length <= 3) return outline;
  const rest = <V>(list: readonly V[]): V[] => list.filter((_, i) => i !== point);
  const less = reshaped(outline, ({ points, handles }) => ({
    points: rest(points),
    ...(handles ? { handles: rest(handles) } : {}),
  }));
  return outline.soft ? { ...less, soft: rest(outline.soft) } : less;
}

/** A shape of the outline as a polygon, with as many vertices from each point to the next. */
export function polygonOf(patch: Outline, { points, handles }: Shape): readonly Point[] {
  if (patch.handles) return handledOutline(points, handlesOf({ points, handles }));
  return patch.smooth ? smoothOutline(points) : points;
}

/** The outline on a frame as a polygon. */
export function polygonAt(patch: Outline, frame: number, reference: number): readonly Point[] {
  return polygonOf(patch, shapeOn(patch, frame, reference));
}

/** Every shape that the outline ever has at a key, as polygons. */
export function allShapes(patch: Outline): (readonly Point[])[] {
  return [patch, ...(patch.keys ?? [])].map((shape) => polygonOf(patch, shape));
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
  const shapes = patches.map((p) => ({ kind: p.kind, polygon: polygonAt(p, frame, reference) }));
  const follow = shapes.filter((s) => s.kind === 'follow');
  const ignore = shapes.filter((s) => s.kind === 'ignore');
  const edges = (p: Point): boolean =>
    !ignore.some((s) => insidePolygon(p, s.polygon)) && !front.some((polygon) => isCovered(p, polygon));
  return {
    edges,
    picture: (p) => edges(p) && (follow.length === 0 || follow.some((s) => insidePolygon(p, s.polygon))),
  };
}
