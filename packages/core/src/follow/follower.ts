/**
 * Follows one Screen through a shot, one frame at a time, in one direction from the reference frame. A follower's whole
 * memory is {@link FollowerState}, plain data: a run taken up from a stored state goes on exactly as it would have.
 *
 * ```ts
 * const follower = new Follower(setup, 90, luma(90));
 * for (let n = 91; n < end; n++) report(follower.step(n, luma(n)));
 * ```
 */
import { CoreError } from '../errors';
import type { Matrix3 } from '../geometry/matrix3';
import { IDENTITY, inverse, multiply } from '../geometry/matrix3';
import { mapPoint, normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { assertPin, isConvex, mapQuad, perspectiveCentre, signedArea } from '../geometry/quad';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { boundsOf } from '../geometry/polygon';
import type { RawLuma } from '../image/image';
import { estimateNoise } from '../image/noise';
import type { Pyramid } from '../image/pyramid';
import { buildPyramid } from '../image/pyramid';
import type { Density } from './cells';
import { DENSITIES } from './cells';
import { searchShift } from './coarse-search';
import type { KeyPicture } from './key-pictures';
import { levelsFor, makeKeyPicture, viewDifference } from './key-pictures';
import type { Motion } from './motion';
import type { Patch, Region } from './region';
import { followRegion } from './region';
import { TRUST_GRID } from './template';
import type { Alignment } from './texture-alignment';
import { alignTexture } from './texture-alignment';
import { cornerSigma, trustOf } from './trust';

/** Goes into the key of every solve; raise it whenever equal inputs would give other numbers. */
export const FOLLOWER_VERSION = 1;

export interface FollowSetup {
  readonly pin: Quad;
  readonly patches: readonly Patch[];
  readonly motion: Motion;
  readonly density: Density;
}

export interface FrameResult {
  readonly frame: number;
  /** reference frame to this frame; null when the screen was not found */
  readonly homography: readonly number[] | null;
  readonly sigma: readonly number[];
  readonly trust: number;
  readonly evidence: Readonly<Record<string, number>>;
  /** why the frame could not be vouched for, a sentence; null when it could */
  readonly reason: string | null;
}

export interface FollowerState {
  /** the last two frames found, newest first */
  readonly found: readonly { readonly frame: number; readonly corners: Quad }[];
  readonly lost: number;
  readonly trust: readonly number[];
  readonly keys: readonly { readonly frame: number; readonly homography: readonly number[]; readonly sigma: readonly number[] }[];
}

/** A view differs enough from every remembered one to be remembered itself (about 1.5 times nearer). */
const NEW_KEY = 0.75;
/** The reference is preferred while its view differs less than this. */
const STAY_WITH_REFERENCE = 0.65;
const LEAST_SUPPORT = 0.3, LEAST_AGREEING = 7, SURE_SUPPORT = 0.6;
/** What is asked of a result that no fine level confirms. */
const COARSE_SUPPORT = 0.75;
/** How fast remembered trust follows what a frame shows; and the floor from which a cell can come back. */
const TRUST_RATE = 0.35, TRUST_FLOOR = 0.05;

interface Expectation {
  readonly corners: Quad;
  /** px */
  readonly sigma: number;
}

interface Hypothesis {
  readonly pyramid: Pyramid;
  /** reference frame to frame */
  readonly start: Matrix3;
  readonly expected: Expectation;
  readonly coarsest?: number;
}

interface Attempt {
  readonly alignment: Alignment;
  readonly homography: number[];
  readonly corners: Quad;
  readonly sigma: number[];
}

export class Follower {
  private readonly region: Region;
  private readonly centre: Point;
  private readonly keys: KeyPicture[];
  private found: { frame: number; corners: Quad }[];
  private lost = 0;
  private readonly trust = new Float32Array(TRUST_GRID * TRUST_GRID).fill(1);

  /**
   * @param reference luma of the reference frame
   * @throws CoreError when the pin is degenerate, a patch is unusable, or nothing in the region can be followed
   */
  constructor(private readonly setup: FollowSetup, referenceFrame: number, reference: RawLuma) {
    assertPin(setup.pin);
    this.region = followRegion(setup.pin, setup.patches, reference.width, reference.height);
    this.centre = perspectiveCentre(setup.pin);
    const key = makeKeyPicture(referenceFrame, reference, IDENTITY, [0, 0, 0, 0], this.region, DENSITIES[setup.density]);
    const cells = key.template.levels[0]?.cells ?? 0;
    if (cells < LEAST_AGREEING && setup.motion !== 'still')
      throw new CoreError('no-evidence', `Only ${cells} cells of the outline hold enough picture to follow on the reference frame; draw a follow patch over something with texture that moves with the screen.`);
    this.keys = [key];
    this.found = [{ frame: referenceFrame, corners: setup.pin }];
  }

  get state(): FollowerState {
    return {
      found: this.found, lost: this.lost, trust: [...this.trust],
      keys: this.keys.slice(1).map(({ frame, homography, sigma }) => ({ frame, homography, sigma })),
    };
  }

  /** Takes up a stored run; `luma` gives the frames of the state's key pictures. */
  async resume(state: FollowerState, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    this.found = state.found.map((f) => ({ ...f }));
    this.lost = state.lost;
    this.trust.set(state.trust);
    for (const k of state.keys)
      this.keys.push(makeKeyPicture(k.frame, await luma(k.frame), k.homography, k.sigma, this.region, DENSITIES[this.setup.density]));
  }

  /** The reference frame's own result: exact by definition. */
  referenceResult(width: number): FrameResult {
    const sigma = [0, 0, 0, 0].map(() => cornerSigma([0, 0, 0]));
    return {
      frame: this.keys[0]!.frame, homography: normaliseHomography(IDENTITY, this.centre), sigma,
      trust: trustOf(sigma, 1, width), evidence: { texture: 1 }, reason: null,
    };
  }

  /** Where the corners would be if the last movement went on; sigma in px grows with speed and time lost. */
  private expectation(frame: number): Expectation {
    const [last, before] = this.found;
    const ahead = Math.abs(frame - last!.frame);
    if (!before) return { corners: last!.corners, sigma: 12 + 12 * ahead };
    const rate = Math.min(ahead, 3) / Math.max(1, Math.abs(last!.frame - before.frame));
    const corners = last!.corners.map(([x, y], i): Point => [
      x + rate * (x - before.corners[i]![0]), y + rate * (y - before.corners[i]![1]),
    ]) as unknown as Quad;
    const speed = Math.max(...last!.corners.map((p, i) => distance(p, before.corners[i]!)));
    const usable = isConvex(corners) && signedArea(corners) * signedArea(last!.corners) > 0;
    return { corners: usable ? corners : last!.corners, sigma: (8 + 0.5 * speed) * (1 + this.lost) };
  }

  private keyFor(h: Matrix3): KeyPicture {
    let best = this.keys[0]!, least = viewDifference(best.homography, h, this.centre);
    if (least < STAY_WITH_REFERENCE) return best;
    for (const key of this.keys) {
      const d = viewDifference(key.homography, h, this.centre);
      if (d < least) {
        best = key;
        least = d;
      }
    }
    return best;
  }

  private pyramidFor(luma: RawLuma, h: Matrix3, margin: number): Pyramid {
    const mapped = boundsOf(this.region.follow.flat().map((p) => mapPoint(h, p)));
    const window = { x0: mapped.x0 - margin, y0: mapped.y0 - margin, x1: mapped.x1 + margin, y1: mapped.y1 + margin };
    const whole = !Object.values(window).every(Number.isFinite);
    return buildPyramid(luma, levelsFor(this.region.bounds), whole ? undefined : window);
  }

  private attempt(pyramid: Pyramid, start: Matrix3, expected: Expectation, noise: number, coarsest = Infinity): Attempt | null {
    const { pin, motion } = this.setup;
    const key = this.keyFor(start);
    const alignment = alignTexture(key.template, pyramid, multiply(start, inverse(key.homography)), {
      motion, frameNoise: noise, trust: this.trust, pin: mapQuad(key.homography, pin),
      expected: expected.corners, expectedSigma: expected.sigma, coarsest,
    });
    if (!alignment) return null;
    const homography = normaliseHomography(multiply(alignment.homography, key.homography), this.centre);
    const inFront = pin.every((p) => homography[6]! * p[0] + homography[7]! * p[1] + homography[8]! > 0);
    if (!inFront || !homography.every(Number.isFinite)) return null;
    const corners = mapQuad(homography, pin);
    const area = signedArea(corners) / signedArea(this.found[0]!.corners);
    if (!isConvex(corners) || !(area > 0.4 && area < 2.5)) return null;
    return { alignment, homography, corners, sigma: alignment.cornerCovariance.map((c, i) => cornerSigma(c, key.sigma[i]!)) };
  }

  private whyNot(a: Attempt | null, width: number): string | null {
    if (!a) return 'Nothing in the picture matches what the screen looked like';
    const { support, agreeing, visible } = a.alignment;
    const percent = (v: number): string => `${Math.round(100 * v)} %`;
    if (visible < 0.12) return `Only ${percent(visible)} of the followed picture is inside the frame`;
    if (support < LEAST_SUPPORT || agreeing < LEAST_AGREEING) return `${percent(1 - support)} of the visible cells are covered or changed`;
    if (a.alignment.fit.level.level >= 2 && support < COARSE_SUPPORT) return 'The picture agrees only roughly; it may be blurred beyond use';
    const sigma = Math.sqrt(a.sigma.reduce((s, v) => s + v * v, 0) / 4) * (1920 / width);
    if (sigma > 6) return `The corners are known only to ${sigma.toFixed(0)} px; too little agreeing picture is left`;
    return null;
  }

  /** Follows into frame `n`, which must be the next one in the run's direction. */
  step(n: number, luma: RawLuma): FrameResult {
    const expected = this.expectation(n);
    const last = quadToQuad(this.setup.pin, this.found[0]!.corners);
    const forecast = quadToQuad(this.setup.pin, expected.corners);
    const margin = 40 + expected.sigma;
    const pyramid = this.pyramidFor(luma, forecast, margin);
    const noise = estimateNoise(pyramid[0]!, 4000);
    const near: Hypothesis = { pyramid, start: forecast, expected };
    const best = this.bestOf(luma, [{ ...near, coarsest: 1 }, near], last, noise);
    const reason = this.whyNot(best, luma.width);
    if (reason || !best) {
      this.lost++;
      const wide = (2 + expected.sigma) * Math.sqrt(1 + this.lost);
      return { frame: n, homography: null, sigma: [wide, wide, wide, wide], trust: 0, evidence: {}, reason: `${reason}.` };
    }
    this.remember(n, luma, best);
    const trust = trustOf(best.sigma, best.alignment.support, luma.width);
    return { frame: n, homography: best.homography, sigma: best.sigma, trust, evidence: { texture: 1 }, reason: null };
  }

  /**
   * Tries starting points from the likeliest to the most far-fetched and stops at the first that most of the visible
   * picture agrees with: the forecast at the finest levels, the forecast coarse to fine (coarse levels are misled by
   * large covers), the last position, and the best place of a wide search.
   */
  private bestOf(luma: RawLuma, near: readonly Hypothesis[], last: Matrix3, noise: number): Attempt | null {
    let best: Attempt | null = null;
    const weigh = (a: Attempt | null): number => (a ? a.alignment.support * Math.min(a.alignment.agreeing, 60) : 0);
    const tryOut = (h: Hypothesis): boolean => {
      const a = this.attempt(h.pyramid, h.start, h.expected, noise, h.coarsest);
      if (weigh(a) > weigh(best)) best = a;
      return !this.whyNot(best, luma.width) && best!.alignment.support >= SURE_SUPPORT;
    };
    if (near.some(tryOut)) return best;
    const radius = Math.min(64 * (1 + this.lost), 0.3 * luma.width);
    const pyramid = this.pyramidFor(luma, last, 40 + radius);
    const at = (start: Matrix3): Hypothesis => ({ pyramid, start, expected: { corners: mapQuad(start, this.setup.pin), sigma: 24 } });
    if (tryOut(at(last))) return best;
    const key = this.keyFor(last);
    const shifted = searchShift(key.template, pyramid, multiply(last, inverse(key.homography)), radius);
    if (shifted && shifted.score > 0.4) tryOut(at(multiply(shifted.homography, key.homography)));
    return best;
  }

  private remember(n: number, luma: RawLuma, a: Attempt): void {
    const { fit, support } = a.alignment;
    for (let c = 0; c < fit.level.cells; c++) {
      const r = fit.correlation[c]!;
      if (Number.isNaN(r)) continue;
      const place = fit.level.place[c]!;
      const target = r > 0.6 && fit.weight[c]! > 0 ? 1 : TRUST_FLOOR;
      this.trust[place]! += TRUST_RATE * (target - this.trust[place]!);
    }
    const consecutive = Math.abs(n - this.found[0]!.frame) === 1;
    const moved = consecutive ? Math.max(...a.corners.map((p, i) => distance(p, this.found[0]!.corners[i]!))) : Infinity;
    this.found = [{ frame: n, corners: a.corners }, this.found[0]!].slice(0, consecutive ? 2 : 1);
    this.lost = 0;
    if (support < 0.6 || moved > 24 || this.setup.motion === 'still') return;
    const nearest = Math.min(...this.keys.map((k) => viewDifference(k.homography, a.homography, this.centre)));
    if (nearest > NEW_KEY)
      this.keys.push(makeKeyPicture(n, luma, a.homography, a.sigma, this.region, DENSITIES[this.setup.density]));
  }
}
