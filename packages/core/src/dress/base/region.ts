/** A piece of a picture in scene-linear light, as the renderer works on it. */
import type { Quad } from '../../geometry/quad';
import type { Bounds } from '../../geometry/polygon';
import { boundsOf } from '../../geometry/polygon';

/** Whole pixels of a picture. */
export interface Region {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** The pixels that a rectangle touches, widened by `margin` px and cut to the picture; null when nothing is left. */
export function regionOfBounds(b: Bounds, margin: number, { width, height }: Size): Region | null {
  const x = Math.max(0, Math.floor(b.x0 - margin));
  const y = Math.max(0, Math.floor(b.y0 - margin));
  const x1 = Math.min(width, Math.ceil(b.x1 + margin));
  const y1 = Math.min(height, Math.ceil(b.y1 + margin));
  return x < x1 && y < y1 ? { x, y, width: x1 - x, height: y1 - y } : null;
}

/** The pixels that quads touch, widened by `margin` px and cut to the picture; null when nothing is left. */
export function regionAround(quads: readonly Quad[], margin: number, picture: Size): Region | null {
  return regionOfBounds(boundsOf(quads.flat()), margin, picture);
}

/** The smallest region that holds both. */
function hull(a: Region, b: Region): Region {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}

/** The smallest region that holds all; null without any. */
export function hullOf(regions: readonly Region[]): Region | null {
  return regions.length > 0 ? regions.reduce(hull) : null;
}
