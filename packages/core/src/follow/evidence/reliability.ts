/**
 * What is told of frames in the end: how far off they are by experience. The covariance of a frame's evidence knows its noise;
 * lines of something else, a wall beside the glass, a reflection that agrees are no noise, and the less a frame rests on,
 * the more of that there is.
 *
 * Measured on 24 shots thrown by dice (seeds 2001 to 2024, 1,643 frames) that nothing else had been chosen by; checked on later
 * seeds, see `docs/benchmarks-dice.md`.
 */
import { distance } from '../../geometry/point';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import { trustOf } from './trust';
import type { FrameResult } from '../../solve/frame-result';

const RELIABILITY = {
  /** Times that corners are farther off than their evidence says, where it says much. Measured as said above. */
  noise: 1.2,
  /** px at 1920 wide that are added at a sigma of one px, growing with its square up to there. Measured as said above. */
  lean: 0.7,
  /** px at 1920 wide; sigma at which half of the frames lie within a px. Measured as said above. */
  even: 0.75,
  /** Power by which the share of those within a px falls with sigma. Measured as said above. */
  falls: 4,
  /** px at 1920 wide that a frame may lie beside the way of the frames around it: sudden movement has as much. By trial. */
  sudden: 24,
  /** px a px beyond that by which its corners are doubted. By trial. */
  perSudden: 0.1,
} as const;

/** Sigma of a corner by experience, px at 1920 wide. @param sigma by its evidence, px at 1920 wide */
export function experiencedSigma(sigma: number): number {
  return RELIABILITY.noise * sigma + RELIABILITY.lean * Math.min(sigma, 1) ** 2;
}

/** Share of the frames of such a sigma that lie within a px. @param sigma by experience, px at 1920 wide */
export function shareWithinOne(sigma: number): number {
  return 1 / (1 + (sigma / RELIABILITY.even) ** RELIABILITY.falls);
}

/**
 * px by which the corners lie beside the smooth way through the two frames before and the two behind; 0 where one of them is
 * missing. The cubic through four equidistant places, at their middle.
 */
function besideTheWay(around: readonly (Quad | null)[]): number {
  const [a, b, at, d, e] = around;
  if (!a || !b || !at || !d || !e) return 0;
  const off = at.map((p, i) => {
    const expected = [0, 1].map((k) => (4 * (b[i]![k]! + d[i]![k]!) - a[i]![k]! - e[i]![k]!) / 6) as unknown as Point;
    return distance(p, expected);
  });
  return off.reduce((s, v) => s + v, 0) / off.length;
}

/**
 * The same frames with what is known of them by experience.
 * @param results of consecutive frames, solved together
 * @param o frames that stay as they are: the reference, and those that somebody placed by hand; the pin that was followed;
 *   width of the plate, px
 */
export function asExperienced<F extends Pick<FrameResult, 'frame' | 'homography' | 'sigma' | 'trust' | 'evidence'>>(
  results: readonly F[],
  o: { readonly exact: ReadonlySet<number>; readonly pin: Quad; readonly width: number },
): F[] {
  const scale = o.width / 1920;
  const corners = results.map((r) => r.homography && mapQuad(r.homography, o.pin));
  return results.map((r, i) => {
    if (o.exact.has(r.frame) || !(r.evidence['texture'] || r.evidence['edges'])) return r;
    const beside = besideTheWay([-2, -1, 0, 1, 2].map((k) => corners[i + k] ?? null)) / scale;
    const doubt = RELIABILITY.perSudden * Math.max(0, beside - RELIABILITY.sudden);
    const told = r.sigma.map((s) => Math.hypot(experiencedSigma(s / scale), doubt));
    // How much of what is seen agrees stands in the trust as it was.
    const agreed = Math.min(1, r.trust / Math.max(trustOf(r.sigma, 1, o.width), Number.MIN_VALUE));
    const mean = Math.sqrt(told.reduce((sum, v) => sum + v * v, 0) / told.length);
    return { ...r, sigma: told.map((s) => s * scale), trust: agreed * shareWithinOne(mean) };
  });
}
