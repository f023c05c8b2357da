/** Closed outlines of plain shapes, and outlines moved about. y goes down; what is filled runs clockwise. */
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Rgb } from '../colour/levels';

export type Contours = readonly (readonly Point[])[];

/** Something of one colour that is drawn: code values 0 to 1. */
export interface Part {
  readonly contours: Contours;
  readonly colour: Rgb;
  readonly opacity: number;
}

/** Straight pieces of a quarter of a round. By eye: a thousandth of its radius is left of the curve. */
const PIECES = 16;

function quarter([cx, cy]: Point, rx: number, ry: number, from: number): Point[] {
  return Array.from({ length: PIECES + 1 }, (_, i): Point => {
    const a = from + (i / PIECES) * (Math.PI / 2);
    return [cx + rx * Math.cos(a), cy + ry * Math.sin(a)];
  });
}

/** About the origin. @param radius of its corners */
export function boxContour(width: number, height: number, radius: number): Point[] {
  const [w, h] = [width / 2, height / 2];
  const r = Math.min(radius, w, h);
  if (!(r > 0)) return [[-w, -h], [w, -h], [w, h], [-w, h]]; // prettier-ignore
  return [
    ...quarter([w - r, h - r], r, r, 0),
    ...quarter([r - w, h - r], r, r, Math.PI / 2),
    ...quarter([r - w, r - h], r, r, Math.PI),
    ...quarter([w - r, r - h], r, r, 1.5 * Math.PI),
  ];
}

/** About the origin. */
export function ovalContour(width: number, height: number): Point[] {
  return [0, 1, 2, 3].flatMap((k) => quarter([0, 0], width / 2, height / 2, (k * Math.PI) / 2));
}

/** An outline with another one left out of it. */
export function ring(outer: readonly Point[], inner: readonly Point[]): Contours {
  return [outer, [...inner].reverse()];
}

/** Outlines scaled about the origin by `k`, then moved. */
export function movedBy(contours: Contours, [dx, dy]: Point, k = 1): Contours {
  return contours.map((c) => c.map(([x, y]): Point => [dx + k * x, dy + k * y]));
}

/** Outlines seen through a map. */
export function mapped(contours: Contours, m: Matrix3): Contours {
  return contours.map((c) => c.map((p) => mapPoint(m, p)));
}
