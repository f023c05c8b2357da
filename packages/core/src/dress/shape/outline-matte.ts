/**
 * The matte of an outline: how much of every pixel it covers, with a softness of its own at each point, averaged over
 * the moments of an exposure.
 */
import { clamp } from '../../clamp';
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Bounds } from '../../geometry/polygon';
import { boundsOf, fillOutline, insidePolygon } from '../../geometry/polygon';
import { IDENTITY, scaling } from '../../geometry/matrix3';
import type { Outline } from '../../follow/outline/outlines';
import { polygonAt } from '../../follow/outline/outlines';
import type { Region } from '../base/region';

/** Rows and columns into which a pixel is cut to know how far a sharp outline covers it. By trial. */
const PARTS = 4;
const smooth = (t: number): number => t * t * (3 - 2 * t);

/** The px of a region that lie within some px of an outline. */
function boxAbout(region: Region, outline: readonly Point[], px: number): Bounds {
  const b = boundsOf(outline);
  return {
    x0: Math.max(region.x, Math.floor(b.x0 - px)),
    x1: Math.min(region.x + region.width, Math.ceil(b.x1 + px)),
    y0: Math.max(region.y, Math.floor(b.y0 - px)),
    y1: Math.min(region.y + region.height, Math.ceil(b.y1 + px)),
  };
}

/** Adds `share` times the cover of a sharp outline. */
function addSharp(out: Float32Array, region: Region, outline: readonly Point[], share: number): void {
  const { x0, y0, x1, y1 } = boxAbout(region, outline, 0);
  if (x1 <= x0 || y1 <= y0) return;
  const row = (x1 - x0) * PARTS;
  const rows = (y1 - y0) * PARTS;
  const fine = new Uint8Array(row * rows);
  const part = share / (PARTS * PARTS);
  fillOutline(fine, { x0: x0 * PARTS, y0: y0 * PARTS, width: row, height: rows, scale: 1 / PARTS }, outline, 1);
  for (let y = 0, i = 0; y < rows; y++) {
    const at = (y0 - region.y + (y >> 2)) * region.width + x0 - region.x;
    for (let x = 0; x < row; x++, i++) if (fine[i]) out[at + (x >> 2)]! += part;
  }
}

/** Adds `share` times the cover of an outline whose edge is `soft` px wide at each vertex, half to each side. */
function addSoft(
  out: Float32Array,
  region: Region,
  outline: readonly Point[],
  soft: readonly number[],
  share: number,
): void {
  const most = Math.max(...soft) / 2 + 1;
  const n = outline.length;
  const { x0, y0, x1, y1 } = boxAbout(region, outline, most);
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const px = x + 0.5;
      const py = y + 0.5;
      let nearest = Infinity;
      let width = 0;
      for (let i = 0; i < n; i++) {
        const a = outline[i]!;
        const c = outline[(i + 1) % n]!;
        const dx = c[0] - a[0];
        const dy = c[1] - a[1];
        const t = clamp(((px - a[0]) * dx + (py - a[1]) * dy) / (dx * dx + dy * dy || 1), 0, 1);
        const ex = px - a[0] - t * dx;
        const ey = py - a[1] - t * dy;
        const d = ex * ex + ey * ey;
        if (d < nearest) [nearest, width] = [d, soft[i]! + t * (soft[(i + 1) % n]! - soft[i]!)];
      }
      const far = Math.sqrt(nearest) * (insidePolygon([px, py], outline) ? 1 : -1);
      const k = clamp(far / Math.max(1, width) + 0.5, 0, 1);
      if (k > 0) out[(y - region.y) * region.width + x - region.x]! += share * (width > 1 ? smooth(k) : k);
    }
}

/**
 * @param polygon px of the reference frame; `soft` px of the reference frame at each of its vertices, null for a sharp
 * edge
 * @param planes reference frame to the frame, at each moment of the exposure; `scale` px of the frame a px of the
 * reference
 * @returns 0 to 1 a pixel of the region
 */
export function outlineCover(
  region: Region,
  polygon: readonly Point[],
  soft: readonly number[] | null,
  planes: readonly Matrix3[],
  scale: number,
): Float32Array {
  const out = new Float32Array(region.width * region.height);
  if (polygon.length < 3) return out;
  for (const plane of planes) {
    const there = polygon.map((p) => mapPoint(plane, p));
    if (soft)
      addSoft(
        out,
        region,
        there,
        soft.map((v) => v * scale),
        1 / planes.length,
      );
    else addSharp(out, region, there, 1 / planes.length);
  }
  return out;
}

/** Where a plane is while the shutter is open. */
export interface PlaneMoments {
  /** its reference frame to the frame, at each moment of the exposure */
  readonly planes: readonly Matrix3[];
  readonly referenceFrame: number;
  /** px of the frame a px of the reference */
  readonly scale: number;
}

/** An outline that rides on a plane, or stays on the picture. */
export interface RidingOutline extends Outline {
  /** name of the Screen on whose plane it rides; the Screen's own when left out */
  readonly plane?: string;
  /** its points are px of the picture itself: only its own keys move it */
  readonly onPicture?: boolean;
}

/** The Screen's own plane on a frame, or another's by its name; null where that one is not there. */
export type PlaneOf = (screen: string | undefined) => PlaneMoments | null;

/** @param pixel picture px a plate px @returns null where the plane is not on the frame */
export function rideOf(
  { plane, onPicture }: RidingOutline,
  {
    planeOf,
    pixel,
    referenceFrame,
  }: { readonly planeOf: PlaneOf; readonly pixel: number; readonly referenceFrame: number },
): PlaneMoments | null {
  if (!onPicture) return planeOf(plane);
  return { planes: [pixel === 1 ? IDENTITY : scaling(pixel)], referenceFrame, scale: pixel };
}

/** The softness at each vertex of an outline's polygon: between two points it goes over evenly; null where it is sharp. */
function softnessOn({ points, soft }: Outline, vertices: number): number[] | null {
  const n = points.length;
  if (soft?.length !== n || !soft.some((v) => v > 0)) return null;
  const each = vertices / n;
  return Array.from({ length: vertices }, (_, i) => {
    const k = Math.floor(i / each);
    const t = i / each - k;
    return soft[k]! + t * (soft[(k + 1) % n]! - soft[k]!);
  });
}

/** How far an outline covers each pixel of a region on a frame, 0 to 1. */
export function ridingCover(region: Region, outline: RidingOutline, frame: number, at: PlaneMoments): Float32Array {
  const polygon = polygonAt(outline, frame, at.referenceFrame);
  const cover = outlineCover(region, polygon, softnessOn(outline, polygon.length), at.planes, at.scale);
  for (let i = 0; i < cover.length; i++) cover[i] = Math.min(1, cover[i]!);
  return cover;
}
