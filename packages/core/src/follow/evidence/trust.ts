/**
 * Trust of a frame: the probability that its mean corner error is at most 1 px at 1920 wide, as far as the evidence can
 * tell: corners' sigmas scaled to 1920 wide (errors taken as isotropic normal, so that a corner's distance is Rayleigh
 * distributed), lowered when little of what is seen of the screen agrees.
 */
import { clamp } from '../../clamp';
/** Trust, 0 to 1, from sigma per corner (px of a picture `width` wide) and the share of the evidence that agrees, 0 to 1. */
export function trustOf(sigma: readonly number[], support: number, width: number): number {
  const scaled = (sigma.reduce((s, v) => s + v * v, 0) / sigma.length) * (1920 / width) ** 2;
  const p = 1 - Math.exp(-1 / (2 * Math.max(scaled, 1e-9)));
  const sure = clamp((support - 0.1) / 0.4, 0, 1);
  return p * (0.3 + 0.7 * sure);
}
