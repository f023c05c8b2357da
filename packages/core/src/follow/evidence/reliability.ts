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
import { ABSENT } from '../../solve/frame-result';

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
  /**
   * px at 1920 wide; a frame that is smeared more shares the causes of the frames beside it. Measured on 22 shots thrown by dice
   * (7301 to 7313 and 7332 to 7340), see `docs/following.md`.
   */
  smeared: 10,
  /** Frames to each side that count as beside it. Measured there. */
  beside: 2,
  /** Trust below which a frame beside it could not be vouched for. Measured there. */
  unsure: 0.1,
  /** Trust of a smeared frame beside such a one, at the most. Measured there. */
  shared: 0.45,
} as const;

/** Sigma of a corner by experience, px at 1920 wide. @param sigma by its evidence, px at 1920 wide */
export function experiencedSigma(sigma: number): number {
  return RELIABILITY.noise * sigma + RELIABILITY.lean * Math.min(sigma, 1) ** 2;
}

/** Share of the frames of such a sigma that lie within a px. @param sigma by experience, px at 1920 wide */
export function shareWithinOne(sigma: number): number {
  return 1 / (1 + (sigma / RELIABILITY.even) ** RELIABILITY.falls);
}

/** Sigma at which such a share of the frames lie within a px, px at 1920 wide. @param share 0 to 1, neither of them */
export function sigmaOfShare(share: number): number {
  return RELIABILITY.even * (1 / share - 1) ** (1 / RELIABILITY.falls);
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

type Told = Pick<FrameResult, 'frame' | 'homography' | 'sigma' | 'trust' | 'evidence' | 'blur' | 'reason'>;

interface Known {
  /** frames that stay as they are: the reference, and those that somebody placed by hand */
  readonly exact: ReadonlySet<number>;
  /** what was followed, px of the reference frame */
  readonly pin: Quad;
  /** of the plate, px */
  readonly width: number;
}

/**
 * The same frames with what is known of them by experience: sigma in px, trust from 0 to 1.
 * @param results of consecutive frames, solved together
 */
export function asExperienced<F extends Told>(results: readonly F[], o: Known): F[] {
  return withNeighbours(eachAsExperienced(results, o), o);
}

/** A frame that moves fast is followed by what its smear leaves: what misled the frames beside it may have misled it too. */
function withNeighbours<F extends Told>(results: readonly F[], o: Known): F[] {
  const { smeared, beside, unsure, shared } = RELIABILITY;
  const scale = o.width / 1920;
  const isUnsure = results.map((r) => !o.exact.has(r.frame) && r.trust < unsure && r.reason !== ABSENT);
  const least = scale * sigmaOfShare(shared);
  return results.map((r, i) => {
    const isBesideOne = isUnsure.slice(Math.max(0, i - beside), i + beside + 1).some(Boolean);
    if (o.exact.has(r.frame) || r.blur <= smeared * scale || r.trust <= shared || !isBesideOne) return r;
    return { ...r, trust: shared, sigma: r.sigma.map((v) => Math.max(v, least)) };
  });
}

function eachAsExperienced<F extends Told>(results: readonly F[], o: Known): F[] {
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
