/** How strong a key is over a Screen, as a histogram: where to put "gone below" and "solid above". */
import { boundsOf, insidePolygon } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { keyStrength } from './holdout';

/** Strength at the histogram's end: the key's own colour has 1. */
export const STRONGEST = 1.2;
/** px that are counted; more look the same. By trial. */
const MOST_SAMPLES = 40_000;

/** @returns counts by strength from 0 to {@link STRONGEST}, of the picture's places inside the corners */
export function keyHistogram(
  picture: Raster,
  corners: Quad,
  colours: readonly (readonly number[])[],
  bins: number,
): number[] {
  const b = boundsOf(corners);
  const x0 = Math.max(0, Math.floor(b.x0));
  const x1 = Math.min(picture.width, Math.ceil(b.x1));
  const y0 = Math.max(0, Math.floor(b.y0));
  const y1 = Math.min(picture.height, Math.ceil(b.y1));
  const out = new Array<number>(bins).fill(0);
  const unit = 1 / maxOf(picture);
  const step = Math.max(1, Math.round(Math.sqrt(Math.max(0, (x1 - x0) * (y1 - y0)) / MOST_SAMPLES)));
  for (let y = y0; y < y1; y += step)
    for (let x = x0; x < x1; x += step) {
      if (!insidePolygon([x + 0.5, y + 0.5], corners)) continue;
      const k = (y * picture.width + x) * picture.channels;
      const strength = Math.max(
        ...colours.map((c) =>
          keyStrength(c, picture.data[k]! * unit, picture.data[k + 1]! * unit, picture.data[k + 2]! * unit),
        ),
      );
      out[Math.min(bins - 1, Math.floor((strength / STRONGEST) * bins))]!++;
    }
  return out;
}
