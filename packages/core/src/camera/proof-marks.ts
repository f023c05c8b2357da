/**
 * Things that stand in the scene for the eye to judge a camera by: cones that must stay where they stand, and a ruling on
 * the ground that must not slide.
 */
import type { Point } from '../geometry/point';
import type { CameraFile } from './camera-file';
import type { FileView } from './file-views';
import { seenAt } from './file-views';
import type { Vector } from '../geometry/vector3';
import { along, cross, dot, middleOf, unit } from '../geometry/vector3';
import { planeOfPoints } from './points-plane';
import { flipped } from './view-model';

/** Corners of a cone's foot. */
const FOOT = 20;
/** Lines of the ruling on each side of its middle. */
const LINES = 5;
/** Of a cone's height: the width of its foot. */
const FOOT_WIDTH = 0.3;

/** A cone as a frame shows it, px. */
export interface Cone {
  readonly foot: readonly Point[];
  readonly tip: Point;
}

/** The surface that things stand on, in the axes here: a place on it, and three directions. */
export interface Stand {
  readonly at: Vector;
  readonly up: Vector;
  readonly right: Vector;
  readonly ahead: Vector;
}

/** The ground through points; null where they tell none. */
export function standOn(file: CameraFile, ids: readonly number[]): Stand | null {
  const eye = flipped(file.frames[0]!.position);
  const plane = planeOfPoints(file, ids, eye);
  if (!plane) return null;
  const up = unit(plane.n).map((v) => -v);
  const helper = Math.abs(up[0]!) < 0.8 ? [1, 0, 0] : [0, 0, 1];
  const right = unit(along(helper, up, -dot(helper, up)));
  const at = along(eye, middleOf(plane.points), 1);
  return { at, up, right, ahead: cross(up, right) };
}

/** A cone of a height, units, that stands on a place of the scene; null where it is not in view. */
export function coneOn(
  file: CameraFile,
  view: FileView,
  { up, right, ahead }: Stand,
  at: Vector,
  height: number,
): Cone | null {
  const radius = (FOOT_WIDTH * height) / 2;
  const foot = Array.from({ length: FOOT }, (_, i) => {
    const a = (2 * Math.PI * i) / FOOT;
    return seenAt(file, view, along(along(at, right, radius * Math.cos(a)), ahead, radius * Math.sin(a)));
  });
  const tip = seenAt(file, view, along(at, up, height));
  return tip && foot.every((p) => p !== null) ? { foot: foot as Point[], tip } : null;
}

/** Lines of a ruling on the ground, px; what lies behind the camera is left out. @param step units between two lines */
export function rulingOn(file: CameraFile, view: FileView, stand: Stand, step: number): Point[][] {
  const { at, right, ahead } = stand;
  const line = (d: Vector, across: Vector, k: number): Point[] => {
    const middle = along(at, across, k * step);
    // Bowed and cut by what is in view: in pieces.
    const pieces = Array.from({ length: 4 * LINES + 1 }, (_, i) => (i / 2 - LINES) * step);
    return pieces.flatMap((s) => {
      const p = seenAt(file, view, along(middle, d, s));
      return p ? [p] : [];
    });
  };
  const ks = Array.from({ length: 2 * LINES + 1 }, (_, i) => i - LINES);
  return [...ks.map((k) => line(right, ahead, k)), ...ks.map((k) => line(ahead, right, k))].filter((l) => l.length > 1);
}
