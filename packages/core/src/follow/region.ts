/**
 * Where on the reference frame the picture is followed: the follow patches minus the ignore patches, or the pin and a
 * narrow margin around it when no follow patch is drawn.
 */
import { CoreError } from '../errors';
import type { Point } from '../geometry/point';
import type { Bounds } from '../geometry/polygon';
import { boundsOf, clipToRectangle, insidePolygon } from '../geometry/polygon';
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { signedArea } from '../geometry/quad';

export interface Patch {
  readonly kind: 'follow' | 'ignore';
  readonly points: readonly Point[];
}

export interface Region {
  readonly follow: readonly (readonly Point[])[];
  readonly ignore: readonly (readonly Point[])[];
  readonly bounds: Bounds;
}

/** The margin around the pin that is followed when no patch is drawn, as a share of the pin: takes in the bezel. */
const AUTOMATIC_MARGIN = 0.04;

/** @throws CoreError `invalid` when a patch has no area or nothing of the region lies inside the picture */
export function followRegion(pin: Quad, patches: readonly Patch[], width: number, height: number): Region {
  for (const [i, patch] of patches.entries()) {
    if (patch.points.length < 3)
      throw new CoreError('invalid', `Patch ${i + 1} has ${patch.points.length} points; an outline needs at least three.`);
    const b = boundsOf(patch.points);
    if (Math.abs(signedArea(patch.points)) < 64 && patch.kind === 'follow')
      throw new CoreError('invalid', `Patch ${i + 1} is smaller than 8x8 px (${(b.x1 - b.x0).toFixed(1)} x ${(b.y1 - b.y0).toFixed(1)}); draw it larger.`);
  }
  const drawn = patches.filter((p) => p.kind === 'follow').map((p) => p.points);
  const m = AUTOMATIC_MARGIN;
  const square = unitSquareToQuad(pin);
  const around = ([[-m, -m], [1 + m, -m], [1 + m, 1 + m], [-m, 1 + m]] as Point[]).map((p) => mapPoint(square, p));
  const follow = drawn.length > 0 ? drawn : [around];
  const frame: Bounds = { x0: 0, y0: 0, x1: width, y1: height };
  const inside = follow.flatMap((p) => clipToRectangle(p, frame));
  if (inside.length === 0)
    throw new CoreError('invalid', 'The outline to follow lies wholly outside the picture on the reference frame; move it over the picture.');
  return { follow, ignore: patches.filter((p) => p.kind === 'ignore').map((p) => p.points), bounds: boundsOf(inside) };
}

/** 1 where a pixel's centre is followed; `scale` is the px of the frame that one mask pixel covers. */
export function rasterise(region: Region, x0: number, y0: number, width: number, height: number, scale: number): Uint8Array {
  const mask = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p: Point = [(x0 + x + 0.5) * scale, (y0 + y + 0.5) * scale];
      if (region.follow.some((f) => insidePolygon(p, f)) && !region.ignore.some((f) => insidePolygon(p, f)))
        mask[y * width + x] = 1;
    }
  return mask;
}
