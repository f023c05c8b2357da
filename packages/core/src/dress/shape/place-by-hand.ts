/**
 * A fill that is placed by handles on the picture: what a grip that is dragged does to the numbers of its placement.
 * Everything happens in the plane in which the fill lies, so that handles keep to the perspective.
 */
import { clamp } from '../../clamp';
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply, scaling } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { valueAt } from '../base/keys';
import type { Placement, Size } from './placement';
import { frameToSlot, laidToPlate } from './placement';

/** What handles change of a placement, on one frame; see {@link Placement}. */
export interface PlacedNumbers {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
  readonly scale: number;
  readonly scaleY: number;
  readonly shear: number;
}

/** A handle, by where it sits on the fill's frame: shares of its width and height from its upper left. */
export interface Grip {
  readonly does: 'move' | 'scale' | 'turn' | 'lean';
  readonly at: Point;
}

/** How a drag is held by the keyboard. */
export interface Held {
  /** moves along one axis; scales a corner's width and height apart; turns in steps of 15 degrees */
  readonly apart?: boolean;
  /** scales about the middle instead of the opposite side */
  readonly aboutMiddle?: boolean;
  /** distance within which lines are snapped to, units of the plane; 0 for nowhere */
  readonly snap?: number;
}

/** A line that the fill was snapped to: x or y in units of the plane. */
export interface SnapLine {
  readonly axis: 0 | 1;
  readonly at: number;
}

export interface Placed {
  readonly numbers: PlacedNumbers;
  readonly lines: readonly SnapLine[];
}

/** The plane in which a fill is placed. */
export interface FillPlane {
  /** where a place of the fill's frame (shares) lies in the plane */
  frame: (n: PlacedNumbers) => Matrix3;
  /** the same fill, farther on by so many units of the plane */
  moved: (n: PlacedNumbers, by: Point) => PlacedNumbers;
  /** what a fill is snapped to, left to right and top to bottom */
  readonly lines: readonly [readonly number[], readonly number[]];
}

/** The eight places of a frame by which it is scaled: corners and middles of sides, clockwise from the upper left. */
export const SCALE_GRIPS: readonly Point[] = [
  [0, 0],
  [0.5, 0],
  [1, 0],
  [1, 0.5],
  [1, 1],
  [0.5, 1],
  [0, 1],
  [0, 0.5],
];

/** A fill is never made smaller than this by a handle: it could not be taken hold of again. */
const LEAST_SCALE = 0.02;
/** Degrees in which a turn goes by steps. */
const TURN_STEP = 15;
/** Degrees about upright and lying in which a turn stands still. By eye. */
const UPRIGHT_WITHIN = 1.2;

/** The numbers of a placement on a frame. */
export function numbersOf(p: Placement, frame: number): PlacedNumbers {
  const scale = valueAt(p.scale, frame, 1);
  return {
    x: valueAt(p.x, frame, 0),
    y: valueAt(p.y, frame, 0),
    turn: valueAt(p.turn, frame, 0),
    scale,
    scaleY: valueAt(p.scaleY, frame, scale),
    shear: valueAt(p.shear, frame, 0),
  };
}

/** The slot's plane, in heights of the slot, from its upper left. @param aspect the slot's width by its height */
export function slotPlane(p: Placement, frame: number, fill: Size, aspect: number): FillPlane {
  return {
    frame: (n) => multiply(scaling(aspect, 1), frameToSlot({ ...p, ...n }, frame, fill.width, fill.height, aspect)),
    moved: (n, [dx, dy]) => ({ ...n, x: n.x + dx / aspect, y: n.y + dy }),
    lines: [
      [0, aspect / 2, aspect],
      [0, 0.5, 1],
    ],
  };
}

/** The reference frame, px, over which a fill is laid. */
export function laidPlane(p: Placement, frame: number, fill: Size, pin: Quad, plate: Size): FillPlane {
  const box = boundsOf(pin);
  return {
    frame: (n) => multiply(laidToPlate({ ...p, ...n }, frame, fill, pin, plate), scaling(fill.width, fill.height)),
    moved: (n, by) => {
      // What is moved is scaled and turned afterwards.
      const [dx, dy] = turnedBack(by, n.turn);
      return { ...n, x: n.x + dx / n.scale / plate.width, y: n.y + dy / n.scaleY / plate.height };
    },
    lines: [
      [box.x0, (box.x0 + box.x1) / 2, box.x1],
      [box.y0, (box.y0 + box.y1) / 2, box.y1],
    ],
  };
}

/** A step of the plane as the fill sees it, which is turned by so many degrees. */
function turnedBack([x, y]: Point, degrees: number): Point {
  const a = (degrees * Math.PI) / 180;
  return [Math.cos(a) * x + Math.sin(a) * y, Math.cos(a) * y - Math.sin(a) * x];
}

/** The same along the fill's own sides. */
const alongSides = (step: Point, n: PlacedNumbers): Point => {
  const [x, y] = turnedBack(step, n.turn);
  return [x + n.shear * y, y];
};

const between = (from: Point, to: Point): Point => [to[0] - from[0], to[1] - from[1]];

/** The nearest of `lines` to any of `places`, if one is near enough: by how much, and which. */
function nearestLine(
  places: readonly number[],
  lines: readonly number[],
  within: number,
): readonly [number, number] | null {
  let best: readonly [number, number] | null = null;
  for (const place of places)
    for (const line of lines) {
      const by = line - place;
      if (Math.abs(by) <= Math.min(within, Math.abs(best?.[0] ?? Infinity))) best = [by, line];
    }
  return best;
}

function move(plane: FillPlane, n: PlacedNumbers, step: Point, { apart = false, snap = 0 }: Held): Placed {
  const isAcross = Math.abs(step[0]) >= Math.abs(step[1]);
  const held: Point = isAcross ? [step[0], 0] : [0, step[1]];
  const free = plane.moved(n, apart ? held : step);
  const frame = plane.frame(free);
  const box = boundsOf([0, 2, 4, 6].map((i) => mapPoint(frame, SCALE_GRIPS[i]!)));
  const found = [
    nearestLine([box.x0, (box.x0 + box.x1) / 2, box.x1], plane.lines[0], snap),
    nearestLine([box.y0, (box.y0 + box.y1) / 2, box.y1], plane.lines[1], snap),
  ] as const;
  return {
    numbers: plane.moved(free, [found[0]?.[0] ?? 0, found[1]?.[0] ?? 0]),
    lines: found.flatMap((f, axis) => (f ? [{ axis: axis as 0 | 1, at: f[1] }] : [])),
  };
}

/** Where a grip is dragged to, held to the lines of the plane that it comes near. */
function snapped(plane: FillPlane, to: Point, { at }: Grip, snap: number): { to: Point; lines: readonly SnapLine[] } {
  const found = ([0, 1] as const).map((axis) =>
    at[axis] === 0.5 ? null : nearestLine([to[axis]], plane.lines[axis], snap),
  );
  return {
    to: [to[0] + (found[0]?.[0] ?? 0), to[1] + (found[1]?.[0] ?? 0)],
    lines: found.flatMap((f, axis) => (f ? [{ axis: axis as 0 | 1, at: f[1] }] : [])),
  };
}

/** Factors by which width and height grow, so that `was` comes to lie at `is`; both along the fill's sides, from what stays. */
function growth(was: Point, is: Point, { at }: Grip, isApart: boolean, lines: readonly SnapLine[]): Point {
  const across = at[0] === 0.5 ? 1 : is[0] / was[0];
  const down = at[1] === 0.5 ? 1 : is[1] / was[1];
  const isCorner = at[0] !== 0.5 && at[1] !== 0.5;
  if (!isCorner || isApart) return [across, down];
  // Width and height together: by the line that was met, or by how far the pointer came along the diagonal.
  if (lines.length > 0) return lines[0]!.axis === 0 ? [across, across] : [down, down];
  const both = (was[0] * is[0] + was[1] * is[1]) / (was[0] ** 2 + was[1] ** 2);
  return [both, both];
}

function scale(plane: FillPlane, n: PlacedNumbers, grip: Grip, dragged: Point, held: Held): Placed {
  const stays: Point = held.aboutMiddle ? [0.5, 0.5] : [1 - grip.at[0], 1 - grip.at[1]];
  const anchor = mapPoint(plane.frame(n), stays);
  // Lines are those of the plane: a fill that is turned has no side along them.
  const isStraight = n.shear === 0 && Math.abs(n.turn % 90) < 1e-6;
  const { to, lines } = snapped(plane, dragged, grip, isStraight ? (held.snap ?? 0) : 0);
  const was = alongSides(between(anchor, mapPoint(plane.frame(n), grip.at)), n);
  const is = alongSides(between(anchor, to), n);
  const [kx, ky] = growth(was, is, grip, held.apart ?? false, lines);
  const grown = {
    ...n,
    scale: Math.max(LEAST_SCALE, n.scale * kx),
    scaleY: Math.max(LEAST_SCALE, n.scaleY * ky),
  };
  return { numbers: plane.moved(grown, between(mapPoint(plane.frame(grown), stays), anchor)), lines };
}

const degreesOf = ([x, y]: Point): number => (Math.atan2(y, x) * 180) / Math.PI;

function turn(plane: FillPlane, n: PlacedNumbers, grip: Grip, to: Point, { apart = false, snap = 0 }: Held): Placed {
  const middle = mapPoint(plane.frame(n), [0.5, 0.5]);
  const by = degreesOf(between(middle, to)) - degreesOf(between(middle, mapPoint(plane.frame(n), grip.at)));
  const free = n.turn + by;
  const upright = 90 * Math.round(free / 90);
  let degrees = free;
  if (apart) degrees = TURN_STEP * Math.round(free / TURN_STEP);
  else if (snap > 0 && Math.abs(free - upright) < UPRIGHT_WITHIN) degrees = upright;
  const turned = { ...n, turn: degrees - 360 * Math.round(degrees / 360) };
  return { numbers: plane.moved(turned, between(mapPoint(plane.frame(turned), [0.5, 0.5]), middle)), lines: [] };
}

function lean(plane: FillPlane, n: PlacedNumbers, grip: Grip, to: Point): Placed {
  const middle = mapPoint(plane.frame(n), [0.5, 0.5]);
  const was = turnedBack(between(middle, mapPoint(plane.frame(n), grip.at)), n.turn);
  const is = turnedBack(between(middle, to), n.turn);
  return { numbers: { ...n, shear: clamp(n.shear - (is[0] - was[0]) / was[1], -1, 1) }, lines: [] };
}

/**
 * The numbers after a handle was dragged from where the pointer took it to where that is now, units of the plane: the handle
 * keeps its distance from the pointer.
 */
export function placed(
  plane: FillPlane,
  n: PlacedNumbers,
  grip: Grip,
  [from, to]: readonly [from: Point, to: Point],
  held: Held = {},
): Placed {
  const step = between(from, to);
  const own = mapPoint(plane.frame(n), grip.at);
  const dragged: Point = [own[0] + step[0], own[1] + step[1]];
  switch (grip.does) {
    case 'move':
      return move(plane, n, step, held);
    case 'scale':
      return scale(plane, n, grip, dragged, held);
    case 'turn':
      return turn(plane, n, grip, dragged, held);
    case 'lean':
      return lean(plane, n, grip, dragged);
  }
}

/** Units of the plane that are as long as `px` of the picture, about the middle of the fill. @param toPicture from the plane */
export function unitsOf(plane: FillPlane, n: PlacedNumbers, toPicture: Matrix3, px: number): number {
  const middle = mapPoint(plane.frame(n), [0.5, 0.5]);
  const [x, y] = mapPoint(toPicture, middle);
  const back = inverse(toPicture);
  return distance(mapPoint(back, [x + px, y]), middle) / 2 + distance(mapPoint(back, [x, y + px]), middle) / 2;
}

/** The fill moved by px of the picture, as its middle lies there. @param toPicture from the plane */
export function nudged(plane: FillPlane, n: PlacedNumbers, toPicture: Matrix3, [dx, dy]: Point): PlacedNumbers {
  const middle = mapPoint(plane.frame(n), [0.5, 0.5]);
  const [x, y] = mapPoint(toPicture, middle);
  return plane.moved(n, between(middle, mapPoint(inverse(toPicture), [x + dx, y + dy])));
}
