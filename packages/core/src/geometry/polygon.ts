import type { Point } from './point';

/** Even-odd rule; the outline closes itself. */
export function insidePolygon(p: Point, polygon: readonly Point[]): boolean {
  const x = p[0];
  const y = p[1];
  let inside = false;
  let before = polygon[polygon.length - 1];
  for (const corner of polygon) {
    const isCrossed = corner[1] > y !== before![1] > y;
    if (isCrossed && x < ((before![0] - corner[0]) * (y - corner[1])) / (before![1] - corner[1]) + corner[0])
      inside = !inside;
    before = corner;
  }
  return inside;
}

export interface Bounds {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

/** The least upright rectangle around points; nothing but infinities around none. */
export function boundsOf(points: readonly Point[]): Bounds {
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (const [x, y] of points) {
    x0 = Math.min(x0, x);
    y0 = Math.min(y0, y);
    x1 = Math.max(x1, x);
    y1 = Math.max(y1, y);
  }
  return { x0, y0, x1, y1 };
}

/** Clips a polygon to a rectangle (Sutherland and Hodgman 1974); empty when nothing is left. */
export function clipToRectangle(polygon: readonly Point[], r: Bounds): Point[] {
  const edges: [axis: 0 | 1, limit: number, keepAbove: boolean][] = [
    [0, r.x0, true],
    [0, r.x1, false],
    [1, r.y0, true],
    [1, r.y1, false],
  ];
  let out = [...polygon];
  for (const [axis, limit, above] of edges) {
    const input = out;
    out = [];
    for (const [i, b] of input.entries()) {
      const a = input[(i + input.length - 1) % input.length]!;
      const aIn = above ? a[axis] >= limit : a[axis] <= limit;
      const bIn = above ? b[axis] >= limit : b[axis] <= limit;
      if (aIn !== bIn) {
        const t = (limit - a[axis]) / (b[axis] - a[axis]);
        out.push([a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])]);
      }
      if (bIn) out.push(b);
    }
  }
  return out;
}

/** Where a mask lies on a picture: `width*height` px of it, each `scale` px of the picture, from (x0, y0) on, mask px. */
export interface MaskWindow {
  readonly x0: number;
  readonly y0: number;
  readonly width: number;
  readonly height: number;
  readonly scale: number;
}

/**
 * Writes `value` into `mask` wherever a pixel's centre lies inside the outline (px of the picture) by the even-odd rule.
 */
export function fillOutline(mask: Uint8Array, window: MaskWindow, outline: readonly Point[], value: number): void {
  const { x0, y0, width, height, scale } = window;
  const crossings: number[] = [];
  for (let row = 0; row < height; row++) {
    const y = (y0 + row + 0.5) * scale;
    crossings.length = 0;
    for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
      const [xi, yi] = outline[i]!;
      const [xj, yj] = outline[j]!;
      if (yi > y !== yj > y) crossings.push(((xj - xi) * (y - yi)) / (yj - yi) + xi);
    }
    crossings.sort((a, b) => a - b);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const from = Math.max(0, Math.ceil(crossings[k]! / scale - x0 - 0.5));
      const to = Math.min(width, Math.ceil(crossings[k + 1]! / scale - x0 - 0.5));
      if (to > from) mask.fill(value, row * width + from, row * width + to);
    }
  }
}
