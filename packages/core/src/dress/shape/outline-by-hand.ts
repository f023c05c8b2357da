/**
 * An outline that is shaped by hand: what a point, a handle or a grip of the frame about it does to its shape. Everything
 * is px of the plane in which it lies.
 */
import type { Handles } from '../../geometry/curve';
import { NO_HANDLES, evenHandles, handledOutline, isCorner } from '../../geometry/curve';
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Bounds } from '../../geometry/polygon';
import { boundsOf } from '../../geometry/polygon';
import type { Outline, Shape } from '../../follow/outline/outlines';
import { handlesOf, reshaped } from '../../follow/outline/outlines';

/** Which of a point's two handles: towards the point before it, or towards the one after. */
export type HandleSide = 'before' | 'after';

/** How a drag is held by the keyboard. */
export interface HeldShape {
  /** scales width and height apart; turns in steps of 15 degrees */
  readonly apart?: boolean;
  /** scales about the middle instead of the opposite side */
  readonly aboutMiddle?: boolean;
}

/** Degrees in which a turn goes by steps. */
const TURN_STEP = 15;
/** px below which a length is none: nothing is scaled by it. */
const LEAST = 1e-6;

/** The same change of where every point and handle lies; `turn` is that change without its shift. */
function mapped({ points, handles }: Shape, move: (p: Point) => Point, turn: (v: Point) => Point): Shape {
  if (!handles) return { points: points.map(move) };
  const turned = handles.map(([ix, iy, ox, oy]): Handles => [...turn([ix, iy]), ...turn([ox, oy])]);
  return { points: points.map(move), handles: turned };
}

/** Through a homography; handles go by where they end. */
export function carriedShape({ points, handles }: Shape, m: Matrix3): Shape {
  const carried = points.map((p) => mapPoint(m, p));
  if (!handles) return { points: carried };
  const end = (i: number, dx: number, dy: number): Point => {
    const [x, y] = points[i]!;
    const [ex, ey] = mapPoint(m, [x + dx, y + dy]);
    return [ex - carried[i]![0], ey - carried[i]![1]];
  };
  return {
    points: carried,
    handles: handles.map(([ix, iy, ox, oy], i): Handles => [...end(i, ix, iy), ...end(i, ox, oy)]),
  };
}

/** Moved as a whole. */
export function movedShape(shape: Shape, [dx, dy]: Point): Shape {
  return mapped(
    shape,
    ([x, y]) => [x + dx, y + dy],
    (v) => v,
  );
}

/** With one point elsewhere; its handles go along. */
export function withPointAt({ points, handles }: Shape, point: number, at: Point): Shape {
  return { points: points.with(point, at), ...(handles ? { handles } : {}) };
}

/** The rectangle about a shape and its curves. */
export function frameOf({ points, handles }: Shape): Bounds {
  return boundsOf(handles ? handledOutline(points, handles) : points);
}

const middleOf = (b: Bounds): Point => [(b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2];

/** A place of a frame, shares of its width and height from its upper left. */
function placeIn(b: Bounds, [u, v]: Point): Point {
  return [b.x0 + u * (b.x1 - b.x0), b.y0 + v * (b.y1 - b.y0)];
}

const ratio = (now: number, was: number): number => (Math.abs(was) < LEAST ? 1 : now / was);

/**
 * Scaled by a grip of its frame; what is opposite the grip stays.
 * @param grip shares of the frame: 0, a half or 1 each
 * @param by how far the grip was dragged
 */
export function scaledShape(shape: Shape, grip: Point, by: Point, held: HeldShape = {}): Shape {
  const b = frameOf(shape);
  const [ax, ay] = held.aboutMiddle ? middleOf(b) : placeIn(b, [1 - grip[0], 1 - grip[1]]);
  const [gx, gy] = placeIn(b, grip);
  const was: Point = [gx - ax, gy - ay];
  const now: Point = [was[0] + by[0], was[1] + by[1]];
  let k: Point = [grip[0] === 0.5 ? 1 : ratio(now[0], was[0]), grip[1] === 0.5 ? 1 : ratio(now[1], was[1])];
  if (grip[0] !== 0.5 && grip[1] !== 0.5 && !held.apart) {
    // Along the line from what stays to the corner.
    const along = ratio(now[0] * was[0] + now[1] * was[1], was[0] ** 2 + was[1] ** 2);
    k = [along, along];
  }
  return mapped(
    shape,
    ([x, y]) => [ax + k[0] * (x - ax), ay + k[1] * (y - ay)],
    ([x, y]) => [k[0] * x, k[1] * y],
  );
}

/** Turned about the middle of its frame by degrees, clockwise. */
export function turnedShape(shape: Shape, degrees: number): Shape {
  const [mx, my] = middleOf(frameOf(shape));
  const c = Math.cos((degrees * Math.PI) / 180);
  const s = Math.sin((degrees * Math.PI) / 180);
  const turn = ([x, y]: Point): Point => [c * x - s * y, s * x + c * y];
  return mapped(
    shape,
    ([x, y]) => {
      const [u, v] = turn([x - mx, y - my]);
      return [mx + u, my + v];
    },
    turn,
  );
}

/** By how many degrees a drag about the middle of its frame turns a shape. */
export function turnBetween(shape: Shape, from: Point, to: Point, { apart = false }: HeldShape = {}): number {
  const [mx, my] = middleOf(frameOf(shape));
  const angle = ([x, y]: Point): number => (Math.atan2(y - my, x - mx) * 180) / Math.PI;
  const degrees = angle(to) - angle(from);
  return apart ? TURN_STEP * Math.round(degrees / TURN_STEP) : degrees;
}

/**
 * With a handle drawn to a place. The other one of its point turns along, so that the curve passes evenly, unless
 * `isApart`.
 */
export function withHandleAt(shape: Shape, point: number, side: HandleSide, at: Point, isApart = false): Shape {
  const handles = handlesOf(shape);
  const [x, y] = shape.points[point]!;
  const [ix, iy, ox, oy] = handles[point]!;
  const own: Point = [at[0] - x, at[1] - y];
  const other: Point = side === 'before' ? [ox, oy] : [ix, iy];
  const length = Math.hypot(...own);
  const k = length < LEAST ? 0 : -Math.hypot(...other) / length;
  const led: Point = isApart ? other : [k * own[0], k * own[1]];
  const next: Handles = side === 'before' ? [...own, ...led] : [...led, ...own];
  return { points: shape.points, handles: handles.with(point, next) };
}

/** One point as a corner, or with the curve passing evenly through it; in every shape of the outline. */
export function withCurveAt<T extends Outline>(outline: T, point: number, isOn: boolean): T {
  return reshaped(ledByHandles(outline), (shape) => ({
    points: shape.points,
    handles: handlesOf(shape).with(point, isOn ? evenHandles(shape.points, point) : NO_HANDLES),
  }));
}

/** Whether the curve passes evenly through a point, rather than turning a corner there. */
export function isCurvedAt(shape: Shape, point: number): boolean {
  return !isCorner(handlesOf(shape)[point]!);
}

/** Whether any of it is curved. */
export function isCurved(outline: Outline): boolean {
  return outline.handles ? outline.points.some((_, i) => isCurvedAt(outline, i)) : (outline.smooth ?? false);
}

/** Every point as a corner, or as part of a curve; in every shape. */
export function withCurves<T extends Outline>(outline: T, isOn: boolean): T {
  const { smooth: _smooth, ...rest } = outline;
  return reshaped(rest as T, ({ points }) => ({
    points,
    handles: points.map((_, i) => (isOn ? evenHandles(points, i) : NO_HANDLES)),
  }));
}

/** With handles of its own, where it was straight or a curve through its points. */
export function ledByHandles<T extends Outline>(outline: T): T {
  return outline.handles ? outline : withCurves(outline, outline.smooth ?? false);
}

/** What of an outline changes when it takes a shape from a frame on: a key there, its own on the reference frame. */
export function withShapeOn(
  { keys = [] }: Outline,
  frame: number,
  reference: number,
  { points, handles }: Shape,
): Pick<Outline, 'points' | 'handles'> | Pick<Outline, 'keys'> {
  const shape = { points, ...(handles ? { handles } : {}) };
  if (frame === reference) return shape;
  const was = keys.find((k) => k.frame === frame);
  const rest = keys.filter((k) => k.frame !== frame);
  return { keys: [...rest, { ...was, frame, ...shape }].sort((a, b) => a.frame - b.frame) };
}

/** px of the plane from a shape's frame to its farthest point, by which keys scale and turn it. */
export function reachOfShape(shape: Shape): number {
  const middle = middleOf(frameOf(shape));
  return Math.max(...shape.points.map((p) => distance(p, middle)));
}
