/** A surface of the scene as its points tell it: which points lie about a place of the picture, and a rectangle on them. */
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { quantile } from '../statistics';
import type { CameraFile } from './camera-file';
import type { FileView } from './file-views';
import { seenAt } from './file-views';
import type { Vector } from '../geometry/vector3';
import { along, cross, dot, unit } from '../geometry/vector3';
import { planeOfPoints } from './points-plane';
import { flipped, placeOf } from './view-model';

/** Shares of the points between whose places a rectangle reaches: single ones may lie far off. By trial. */
const BETWEEN = [0.12, 0.88] as const;
/** Share of the distance that a side of a rectangle has at the least. By trial. */
const LEAST_SIDE = 0.02;

/** A point of the scene and where a frame shows it. */
export interface SeenPoint {
  readonly id: number;
  /** px */
  readonly at: Point;
  /** px, of the whole shot */
  readonly error: number;
}

/** The scene's points as a frame shows them, inside the picture; what hides them is not known. */
export function pointsOn(file: CameraFile, view: FileView): SeenPoint[] {
  const { width, height } = file.plate;
  return file.points.flatMap(({ id, position, error }) => {
    const at = seenAt(file, view, flipped(position));
    const isIn = at && at[0] >= 0 && at[1] >= 0 && at[0] <= width && at[1] <= height;
    return isIn ? [{ id, at, error }] : [];
  });
}

/** The points nearest to a place of the picture, px. */
export function pointsAbout(seen: readonly SeenPoint[], at: Point, count: number): number[] {
  return [...seen]
    .sort((a, b) => distance(a.at, at) - distance(b.at, at))
    .slice(0, count)
    .map((p) => p.id);
}

type Reach = readonly [number, number];

/** The largest rectangle of a ratio about the same middle. */
function ofRatio(x: Reach, y: Reach, ratio: number | undefined): readonly [Reach, Reach] {
  if (ratio === undefined) return [x, y];
  const width = Math.min(x[1] - x[0], ratio * (y[1] - y[0]));
  const about = ([low, high]: Reach, size: number): Reach => [(low + high - size) / 2, (low + high + size) / 2];
  return [about(x, width), about(y, width / ratio)];
}

/**
 * A rectangle on the plane through points, as large as they are spread, its upper side level with the picture's.
 * @param ratio of its width by its height, as large as it fits in there; as the points are spread when left out
 * @returns its corners on the frame, px, as a pin has them; null where the points tell no plane that is in view
 */
export function rectangleOn(file: CameraFile, view: FileView, ids: readonly number[], ratio?: number): Quad | null {
  const eye = placeOf(view.view);
  const found = planeOfPoints(file, ids, eye);
  if (!found) return null;
  const { n, points } = found;
  const normal = unit(n);
  const right = [...view.view.subarray(0, 3)];
  const across = unit(along(right, normal, -dot(right, normal)));
  const down = cross(normal, across);
  const middle = along(eye, normal, 1 / Math.sqrt(dot(n, n)));
  const reach = (axis: Vector): Reach => {
    const places = points.map((p) => dot(p, axis));
    const [low, high] = [quantile(places, BETWEEN[0]), quantile(places, BETWEEN[1])];
    const least = (LEAST_SIDE * Math.abs(dot(points[0]!, normal))) / 2;
    return high - low > 2 * least ? [low, high] : [(low + high) / 2 - least, (low + high) / 2 + least];
  };
  const [[x0, x1], [y0, y1]] = ofRatio(reach(across), reach(down), ratio);
  const corners = [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ].map(([x, y]) => seenAt(file, view, along(along(middle, across, x!), down, y!)));
  return corners.every((c) => c !== null) ? (corners as unknown as Quad) : null;
}
