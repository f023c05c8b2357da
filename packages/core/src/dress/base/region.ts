/** A piece of a picture in scene-linear light, as the renderer works on it. */
import type { Quad } from '../../geometry/quad';
import { boundsOf } from '../../geometry/polygon';

/** Whole pixels of a picture. */
export interface Region {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** The pixels that quads touch, widened by `margin` px and cut to the picture; null when nothing is left. */
export function regionAround(quads: readonly Quad[], margin: number, width: number, height: number): Region | null {
  const b = boundsOf(quads.flat());
  const x = Math.max(0, Math.floor(b.x0 - margin));
  const y = Math.max(0, Math.floor(b.y0 - margin));
  const x1 = Math.min(width, Math.ceil(b.x1 + margin));
  const y1 = Math.min(height, Math.ceil(b.y1 + margin));
  return x < x1 && y < y1 ? { x, y, width: x1 - x, height: y1 - y } : null;
}

/** The smallest region that holds both. */
export function hull(a: Region, b: Region): Region {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}
