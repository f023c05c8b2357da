/** A position in pixels; origin at the top-left corner of the top-left pixel, x right, y down. */
export type Point = readonly [x: number, y: number];

/** How far two points lie apart. */
export function distance(a: Point, b: Point): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1]);
}
