/**
 * A lens that bows straight lines: one radial term about the picture's centre, on half the picture's width. `radial` is
 * negative where edges bow outwards (barrel). The *ideal* picture is what a lens without it would have shown.
 * Source: F. Devernay and O. Faugeras, Straight Lines Have to Be Straight, 2001 (the term from the bow of edges).
 */
import type { Point } from './point';
import type { Bounds } from './polygon';
import type { Quad } from './quad';

export interface Lens {
  readonly radial: number;
  /** of the picture, px */
  readonly width: number;
  readonly height: number;
}

/** Ideal position to the one in the real picture, px. */
export function distort({ radial, width, height }: Lens, [x, y]: Point): Point {
  const half = width / 2;
  const dx = (x - half) / half;
  const dy = (y - height / 2) / half;
  const k = radial * (dx * dx + dy * dy);
  return [x + half * dx * k, y + half * dy * k];
}

/** Position in the real picture to the ideal one, px; beyond the lens's own fold the nearest it can reach. */
export function undistort(lens: Lens, p: Point): Point {
  const half = lens.width / 2;
  const cy = lens.height / 2;
  const dx = (p[0] - half) / half;
  const dy = (p[1] - cy) / half;
  const r = Math.hypot(dx, dy);
  const { radial } = lens;
  if (radial === 0 || r === 0) return p;
  // A barrel's real radius grows up to sqrt(-1/3k) and folds back beyond it.
  const most = radial < 0 ? Math.sqrt(-1 / (3 * radial)) : Infinity;
  let u = Math.min(r, most);
  for (let i = 0; i < 20; i++) {
    const step = (u * (1 + radial * u * u) - r) / Math.max(0.05, 1 + 3 * radial * u * u);
    u = Math.min(most, u - step);
    if (Math.abs(step) < 1e-12) break;
  }
  return [half + (half * dx * u) / r, cy + (half * dy * u) / r];
}

/** Corners in the real picture as the ideal one has them, px; as they are without a lens. */
export function undistortQuad(lens: Lens | null, corners: Quad): Quad {
  return lens ? (corners.map((p) => undistort(lens, p)) as unknown as Quad) : corners;
}

/** Movement of a real point per unit of the term, px: its position times the squared radius. */
export function bowAt({ width, height }: Lens, [x, y]: Point): Point {
  const half = width / 2;
  const dx = (x - half) / half;
  const dy = (y - height / 2) / half;
  const r2 = dx * dx + dy * dy;
  return [half * dx * r2, half * dy * r2];
}

/** The part of the ideal plane that the picture shows. */
export function idealBounds(lens: Lens): Bounds {
  const { width, height } = lens;
  const [x0] = undistort(lens, [0, height / 2]);
  const [, y0] = undistort(lens, [width / 2, 0]);
  return { x0, y0, x1: width - x0, y1: height - y0 };
}
