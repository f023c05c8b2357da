/**
 * What a covariance of the four corners says to the person: sigma per corner, and the probability that the mean corner
 * error is at most one pixel of a picture scaled to 1920 wide (errors taken as isotropic normal, so that a corner's
 * distance is Rayleigh distributed).
 */
export type Covariance = readonly [xx: number, xy: number, yy: number];

/** What alignment cannot see of itself: resampling and the reference's own noise, px per axis. */
const FLOOR = 0.03;

/** Root mean of the two axis variances, px. */
export function cornerSigma(c: Covariance, inherited = 0): number {
  return Math.sqrt((c[0] + c[2]) / 2 + FLOOR * FLOOR + inherited * inherited);
}

/** @param support share of what is seen of the screen that agrees with the remembered picture, 0 to 1 */
export function trustOf(sigma: readonly number[], support: number, width: number): number {
  const scaled = (sigma.reduce((s, v) => s + v * v, 0) / sigma.length) * (1920 / width) ** 2;
  const p = 1 - Math.exp(-1 / (2 * Math.max(scaled, 1e-9)));
  const sure = Math.min(1, Math.max(0, (support - 0.1) / 0.4));
  return p * (0.3 + 0.7 * sure);
}
