/**
 * A real display's look over the fill: its pixels' grid at the device's own pitch, a darkening with the angle of view, and a trace
 * of tint. The grid fades before the plate's pixels could no longer carry it (at two plate px a period it would alias: H.
 * Nyquist), so that it never beats.
 */
import type { Quad } from '../geometry/quad';
import { unitSquareToQuad } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Animated } from './keys';
import type { Region } from './region';

export interface DisplayLook {
  /** strength of the grid, 0 to 1 */
  readonly grid?: Animated;
  /** pixels of the device across the slot and down */
  readonly resolution?: readonly [number, number];
  /** darkening towards the slot's corners, 0 to 1 */
  readonly vignette?: Animated;
}

/** Plate px a period at which the grid is gone, and at which it is full. */
const GONE = 2.5, FULL = 4;

/** Share of a grid's strength that a pitch of so many plate px can carry. */
export function gridFade(pitch: number): number {
  const t = Math.min(1, Math.max(0, (pitch - GONE) / (FULL - GONE)));
  return t * t * (3 - 2 * t);
}

/** Multiplies the element's light in place; alpha stays. The grid keeps the mean. */
export function applyLook(element: Float32Array, region: Region, corners: Quad, grid: number, [across, down]: readonly [number, number], vignette: number): void {
  const m = inverse(unitSquareToQuad(corners)), tau = 2 * Math.PI;
  for (let y = 0, k = 0; y < region.height; y++)
    for (let x = 0; x < region.width; x++, k += 4) {
      if (element[k + 3] === 0) continue;
      const px = region.x + x + 0.5, py = region.y + y + 0.5, w = 1 / (m[6]! * px + m[7]! * py + m[8]!), s = (m[0]! * px + m[1]! * py + m[2]!) * w, t = (m[3]! * px + m[4]! * py + m[5]!) * w;
      const ps = 1 / (across * Math.hypot((m[0]! - s * m[6]!) * w, (m[1]! - s * m[7]!) * w)), pt = 1 / (down * Math.hypot((m[3]! - t * m[6]!) * w, (m[4]! - t * m[7]!) * w));
      const lines = 1 + 0.5 * grid * (gridFade(ps) * Math.cos(tau * s * across) + gridFade(pt) * Math.cos(tau * t * down)), r = 2 * ((s - 0.5) ** 2 + (t - 0.5) ** 2), f = lines * (1 - vignette * Math.min(1, r));
      element[k]! *= f;
      element[k + 1]! *= f;
      element[k + 2]! *= f;
    }
}
