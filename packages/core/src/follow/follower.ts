/**
 * Follows one Screen through a shot, one frame at a time, in one direction from the reference frame. A follower's whole
 * memory is {@link FollowerState}, plain data: a run taken up from a stored state goes on exactly as it would have.
 *
 * ```ts
 * const follower = new Follower(setup, 90, luma(90));
 * for (let n = 91; n < end; n++) report(follower.step(n, luma(n)));
 * ```
 */
import { mapPoint, normaliseHomography, quadToQuad, scaleAt } from '../geometry/homography';
import { distort, undistort } from '../geometry/lens';
import type { Matrix3 } from '../geometry/matrix3';
import { IDENTITY, inverse, multiply, scaling } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import { boundsOf } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { assertPin, farthest, isConvex, mapQuad, perspectiveCentre, signedArea } from '../geometry/quad';
import type { RawLuma } from '../image/image';
import type { PyramidLevel } from '../image/pyramid';
import { isCorrection } from '../solve/hand-bend';
import type { RigidScreen } from '../solve/rigid-screen';
import { addRigid, addRigidInformation, rigidMisfit } from '../solve/rigid-screen';
import { Stiffness } from '../solve/stiffness';
import { blurTemplate } from './blurred-template';
import { cellMap } from './cell-map';
import { cornerSigmas, everywhere, inAll } from '../geometry/corner-information';
import type { EdgeSearch, EdgeView } from './edge-fit';
import { placesOfSide } from './edge-fit';
import { nextSoftness, softened } from './softness';
import type { EdgeFit } from './edge-solver';
import { edgesAsEvidence, fitEdges, updateSpread } from './edge-solver';
import type { Equations } from '../geometry/motion-equations';
import { hypotheses } from './hypotheses';
import { isRepeat } from './repeats';
import type { KeyPicture } from './key-pictures';
import { smearOfKey } from './key-pictures';
import { motionTold, tighter } from '../geometry/motion';
import type { Followed } from './outlines';
import { followedOn } from './outlines';
import type { Gap } from './path';
import { Path } from './path';
import type { FollowSetup, FollowerState } from './follower-state';
import type { FrameResult } from '../solve/frame-result';
import { ABSENT, notFound, shares } from '../solve/frame-result';
import { triangle } from '../geometry/linear-algebra';
import type { Smear } from './shutter';
import { COMMON_SHUTTER, NO_SMEAR, bestShutter, smearBeyond } from './shutter';
import type { ShutterMemory } from './shutter-learning';
import { NO_SHUTTER_MEMORY, learnShutter } from './shutter-learning';
import { RowTimes } from './row-times';
import { Sight, assertFollowable } from './sight';
import type { SpotSight } from './spot-evidence';
import { addSpotInformation, addSpots, withinPin, solveSpots, spotShare } from './spot-evidence';
import type { SideLooks } from './side-looks';
import { firstLooks, learnLooks, likenessOf, seenAcross, smearAcross } from './side-looks';
import type { Chosen } from './side-rivals';
import { amongRivals } from './side-rivals';
import { SpotFollower } from './spots';
import { HAND_SIGMA } from '../solve/frame-result';
import type { Alignment } from './texture-alignment';
import { alignTexture } from './texture-alignment';
import { trustOf } from './trust';
import type { Expectation, Found, Hypothesis } from './verdict';
import { LEAST_AGREEING, LEAST_FOUND, LEAST_SIDES, agreesWell, carries, isSure, looksOther, whyNot } from './verdict';

/** Goes into the key of every solve; raise it whenever equal inputs would give other numbers. */
export const FOLLOWER_VERSION = 9;

const FOLLOW = {
  /**
   * Support from which nothing better is looked for after the Screen was lost: textures repeat themselves. By trial.
   */
  foundAgain: 0.9,
  /** px; slip of a cell against sure edges that is tolerated beyond what the edges know. By trial. */
  slip: 0.6,
  /** px at 1920 wide; corners less known than this by evidence alone call for what a stiff screen allows. By trial. */
  openSigma: 0.4,
  /**
   * px at 1920 wide; how near to the expectation a Screen that was lost may be taken up again by three sides. By
   * trial.
   */
  comesBack: 6,
  /** px at 1920 wide; the same where the screen's stiffness was learnt. By trial. */
  comesBackStiff: 20,
  /** px at 1920 wide; how well three sides must know the corners for that. By trial. */
  stiff: 1,
  /** Views of their own that make stiffness a judge. By trial. */
  enoughViews: 1,
  /** Standard deviations by which sides contradict the stiff screen. By trial. */
  contradicts: 2.8,
  /** px at 1920 wide; what corners may be off by whose sides contradict the stiff screen. By trial. */
  bent: 4,
  /** Share of the distance to the expectation that the rest must lie within, once a side is left out. By trial. */
  leftOut: 0.5,
  /** px; how far cells may pull the corners from where sure edges have them, beyond 1.5 of their sigma. By trial. */
  pull: 0.5,
  /** Support from which a picture that contradicts the edges is believed instead of them. By trial. */
  mostly: 0.7,
  /** Cells that must agree for that. By trial. */
  many: 40,
  /** Score that a unit of misfit across the sides costs. By trial. */
  perMisfit: 0.08,
  /** Score; by how much a way of following must beat the best so far. By trial. */
  better: 0.05,
  /** Score; by how much it must beat one that is sure. By trial. */
  clearly: 0.3,
  /** px at 1920 wide; how far from a sure one it must lie to be another. By trial. */
  elsewhere: 6,
  /** Share by which a picture that carried the last frames is asked for again. By trial. */
  pictured: 0.5,
  /** Share a frame by which that is forgotten. By trial. */
  picturedRate: 0.3,
  /** Share of the cells' weight by which a picture that agrees less than lately, or than elsewhere, is doubted. By trial. */
  lessSupport: 0.15,
  /** Share of the edges that must be found as well where the picture agrees better. By trial. */
  edgesAsWell: 0.7,
  /** px; edges that know the corners this well judge the cells. By trial. */
  judges: 2,
  /** px; what no evidence shows of its own error: resampling, compression, the reference's noise. By trial. */
  floor: 0.03,
  /** px; edges smeared by no more than this tell of the lens's bow. By trial. */
  sharp: 8,
  /** px; views smeared by no more than this tell of its focal length. By trial. */
  mostBlur: 6,
  /** px; softness that a picture seen smaller than remembered shows by itself. By trial. */
  usualSoftness: 2.2,
  /** Share of probability from which a frame teaches what lies across the sides. By trial. */
  certain: 0.9,
  /** Share of its edges that must be found for that: what covers them teaches nothing. By trial. */
  whole: 0.8,
  /** px; smear up to which it does. By trial. */
  plain: 3,
  /** px; smear that is worth predicting. By trial. */
  smear: 1.5,
  /** Share; by how much a better guess of the smear must differ to align again. By trial. */
  smearChange: 0.2,
} as const;
/** Reason of a frame that rests on the hand keys around it alone. */
const BETWEEN_HANDS = 'Nothing but the hand keys around this frame tells where the screen is.';
const FLOORS = [FOLLOW.floor, FOLLOW.floor, FOLLOW.floor, FOLLOW.floor];
/** @param doubt px, beside what the evidence knows of its own error */
function withDoubt(sigma: readonly number[], doubt: number): number[] {
  return sigma.map((s) => Math.hypot(s, doubt));
}

/** Whether a picture agrees clearly better with one way than with another, while the edges are there as well. */
function isBackedByPicture(f: Found, other: Found): boolean {
  if (!f.alignment || !f.edges || f.alignment.agreeing < FOLLOW.many || f.alignment.sensors.level.level > 0)
    return false;
  return (
    f.alignment.support > (other.alignment?.support ?? 0) + FOLLOW.lessSupport &&
    f.edges.found > FOLLOW.edgesAsWell * (other.edges?.found ?? 0)
  );
}

/** px that rivals of what was chosen add to its sigma; a picture that agrees knows better than lines. */
function rivalDoubt({ alignment, certainty, rival }: Found): number {
  return agreesWell(alignment) ? 0 : rival * Math.sqrt(certainty * (1 - certainty));
}

export class Follower {
  private readonly sight: Sight;
  private readonly usesTexture: boolean;
  private readonly path: Path;
  private readonly rows: RowTimes;
  private shutter: ShutterMemory = NO_SHUTTER_MEMORY;
  private readonly stiffness: Stiffness;
  /** the last frame's evidence left corners open, so that the lens and stiffness must help */
  private open = false;
  /** how far the screen's own picture carried the last frames, 0 to 1 */
  private pictured = 1;
  /** of the last frames beyond what is remembered, px: see `softness.ts` */
  private softness = 0;
  /** share of the cells' weight that agreed on the last frames */
  private support = 0;
  /** the hypothesis at hand is that what moved has stopped */
  private stopped = false;
  /** what the patches leave on the frame at hand */
  private followed: Followed | null = null;
  private readonly spots: SpotFollower[];
  /** where the spots are on the frame at hand */
  private spotted: readonly SpotSight[] = [];
  private width: number;
  /** the last frame that was looked at, and what came of it */
  private before: { readonly luma: RawLuma; readonly result: FrameResult } | null = null;
  /** what lies across the sides */
  private looks: SideLooks;

  /**
   * @param reference luma of the reference frame
   * @param placed frames on which spots were placed by hand, for spots that are matched against them
   * @throws CoreError when the pin is degenerate, a patch is unusable, or nothing in the region can be followed
   */
  constructor(
    private readonly setup: FollowSetup,
    referenceFrame: number,
    reference: RawLuma,
    placed: readonly { readonly frame: number; readonly luma: RawLuma }[] = [],
  ) {
    assertPin(setup.pin);
    this.width = reference.width;
    this.usesTexture = setup.evidence.includes('texture');
    this.spots = setup.evidence.includes('spots')
      ? (setup.spots ?? []).map(
          (q) =>
            new SpotFollower(
              q,
              referenceFrame,
              reference,
              placed,
              q.corner === undefined ? undefined : withinPin(setup.pin, q.at),
            ),
        )
      : [];
    this.stiffness = new Stiffness(reference.width, reference.height);
    this.sight = new Sight(setup, referenceFrame, reference);
    if (setup.motion !== 'still' && this.spots.length === 0 && (setup.hand ?? []).length === 0)
      assertFollowable(this.sight, LEAST_AGREEING, LEAST_SIDES);
    this.path = new Path(
      referenceFrame,
      this.sight.pin,
      new Map((setup.way ?? []).map((f) => [f.frame, this.sight.straight(f.corners)])),
    );
    this.rows = new RowTimes(this.sight, this.path, setup);
    this.looks = firstLooks(
      seenAcross(this.sight.pyramidFor(reference, IDENTITY, 40, 1)[0]!, this.sight.pin, IDENTITY, undefined),
      [0, 1, 2, 3].map((side) =>
        Math.max(0, ...this.sight.rails.filter((r) => r.side === side).map((r) => r.offset + r.look.outside)),
      ),
    );
    if (setup.way) this.sight.referenceVelocity = this.path.velocityOf(referenceFrame, this.sight.pin);
    if (setup.motion === 'perspective') this.stiffness.add(this.sight.pin, everywhere(FOLLOW.floor));
  }

  get state(): FollowerState {
    return {
      found: this.path.found,
      lost: this.path.lost,
      gap: this.path.gap,
      surprise: this.path.surprise,
      repeated: this.path.repeated,
      hasRepeats: this.path.hasRepeats,
      last: this.before?.result ?? null,
      open: this.open,
      pictured: this.pictured,
      support: this.support,
      softness: this.softness,
      ...this.sight.probation.state,
      railSpread: [...this.sight.railSpread],
      shutter: this.shutter,
      views: this.stiffness.views,
      looks: this.looks,
      spots: this.spots.map((q) => q.state),
      lens: this.sight.lensState,
      readout: this.rows.memory,
      keys: this.sight.keys.map(({ frame, homography, sigma, velocity }) => ({ frame, homography, sigma, velocity })),
    };
  }

  /** Share of a frame's time that the shutter is open, and how many fast frames said so. */
  get shutterEstimate(): { readonly share: number; readonly frames: number } {
    return {
      share: this.shutter.frames > 0 ? bestShutter(this.shutter.agreement) : COMMON_SHUTTER,
      frames: this.shutter.frames,
    };
  }

  /** Focal length in picture widths, once enough views have told it. */
  get focal(): number | null {
    return this.stiffness.rigid?.focal ?? null;
  }

  /** Takes up a stored run; `luma` gives the frames of the state's key pictures. */
  async resume(state: FollowerState, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    this.sight.restoreLens(state.lens);
    this.path.restore(state);
    this.open = state.open;
    this.pictured = state.pictured;
    this.support = state.support;
    this.softness = state.softness;
    this.sight.probation.restore(state);
    this.sight.railSpread.set(state.railSpread);
    this.shutter = { agreement: [...state.shutter.agreement], frames: state.shutter.frames };
    this.rows.memory = state.readout;
    this.stiffness.views = [...state.views];
    this.looks = state.looks ?? this.looks;
    for (const [i, q] of state.spots.entries()) this.spots[i]?.resume(q, await luma(q.last[0]!.frame));
    this.before = state.last && { luma: await luma(state.last.frame), result: state.last };
    this.sight.referenceVelocity = state.keys[0]!.velocity;
    for (const k of state.keys.slice(1))
      this.sight.remember(k.frame, await luma(k.frame), k.homography, k.sigma, k.velocity);
  }

  /** The reference frame's own result: exact by definition. */
  referenceResult(width: number): FrameResult {
    const texture = this.usesTexture && (this.sight.keys[0]!.template.levels[0]?.cells ?? 0) >= LEAST_AGREEING;
    return {
      frame: this.sight.keys[0]!.frame,
      homography: normaliseHomography(IDENTITY, perspectiveCentre(this.setup.pin)),
      lens: this.sight.lens.radial,
      sigma: FLOORS,
      information: triangle(everywhere(FOLLOW.floor)),
      blur: 0,
      trust: trustOf(FLOORS, 1, width),
      evidence: { [texture ? 'texture' : 'edges']: 1 },
      reason: null,
    };
  }

  private smearAt(frame: number, corners: Quad): Smear {
    return this.stopped ? NO_SMEAR : this.path.smearAt(frame, corners, this.shutterEstimate.share);
  }

  /** The quad of `h` when a screen can look like that after where it was last, or where it was seen before; else null. */
  private plausible(h: Matrix3): Quad | null {
    const { pin } = this.sight;
    if (!h.every(Number.isFinite) || !pin.every((p) => h[6]! * p[0] + h[7]! * p[1] + h[8]! > 0)) return null;
    const corners = mapQuad(h, pin);
    const change = 2.5 ** (1 + 0.3 * Math.min(this.path.lost, 6));
    const isAlike = (view: Quad): boolean => {
      const area = signedArea(corners) / signedArea(view);
      return area > 1 / change && area < change;
    };
    const likeBefore = isAlike(this.path.last.corners);
    // What was lost may have been seen so at any time.
    const likeSometime = this.path.lost > 0 && this.sight.keys.some((k) => isAlike(mapQuad(k.homography, pin)));
    return isConvex(corners) && (likeBefore || likeSometime) ? corners : null;
  }

  /** What the lens and a stiff screen allow, where the evidence leaves corners open. */
  private get rigid(): RigidScreen | null {
    return this.open && this.setup.motion === 'perspective' ? this.stiffness.rigid : null;
  }

  /**
   * What is known beside the picture and the edges, for equations whose map to px of level 0 is that of `scale` times
   * smaller px.
   */
  private beside(
    speed: number,
    scale = 1,
  ): ((eq: Equations, h: Matrix3, u: readonly number[], v: readonly number[]) => void) | undefined {
    const { rigid, spotted } = this;
    if (!rigid && spotted.length === 0) return undefined;
    return (eq, h, u, v) => {
      const m = scale === 1 ? h : h.map((x, i) => (i < 6 ? x * scale : x));
      addSpots(eq, spotted, this.sight.pin, m, u, v);
      if (rigid) addRigid(eq, rigid, m, u, v, speed);
    };
  }

  private align(
    frame: number,
    h: Hypothesis,
    start: Matrix3,
    edges: EdgeFit | null,
    coarsest: number,
    slipLimit: number | undefined,
  ): { alignment: Alignment; homography: number[]; key: KeyPicture; smear: Smear } | null {
    if (!this.usesTexture) return null;
    const { pin } = this.sight;
    const { motion } = this.setup;
    const key = this.sight.keyFor(start);
    const fromKey = multiply(start, inverse(key.homography));
    const beyond = Math.sqrt(Math.max(0, this.softness ** 2 - FOLLOW.usualSoftness ** 2));
    const template = softened(key.template, beyond / scaleAt(fromKey, key.template.centre));
    const prior = this.beside(h.expected.speed);
    const toReference = inverse(key.homography);
    const ownSmear = smearOfKey(key, pin, this.shutterEstimate.share);
    let smear = this.smearAt(frame, mapQuad(start, pin));
    let from = fromKey;
    let level = coarsest;
    let offset = this.rows.offsetAt(frame, mapQuad(start, pin), key, fromKey);
    for (let again = 0; ; again++) {
      const used =
        smear.length > FOLLOW.smear
          ? blurTemplate(template, level, smearBeyond(smear.inTemplate(from), ownSmear.inFrame))
          : template;
      const alignment = alignTexture(used, h.pyramid, from, {
        motion,
        ...(this.setup.levels ? { levels: this.setup.levels } : {}),
        frameNoise: h.noise,
        trust: this.sight.probation.trust,
        proven: this.sight.probation.proven,
        pin: mapQuad(key.homography, pin),
        expected: h.expected.corners,
        expectedSigma: h.expected.sigma,
        coarsest: level,
        floor: key.sigma.map((s) => Math.hypot(FOLLOW.floor, s)),
        ...(slipLimit === undefined ? {} : { slipLimit }),
        ...(prior ? { prior } : {}),
        offset,
        followed: this.followed
          ? (p) => this.followed!.picture(distort(this.sight.lens, mapPoint(toReference, p)))
          : undefined,
        ...(edges
          ? {
              other: edgesAsEvidence(edges.hits, edges.terms, (p) => {
                const q = mapPoint(key.homography, p);
                return [
                  (q[0] - template.centre[0]) / template.halfSize,
                  (q[1] - template.centre[1]) / template.halfSize,
                ];
              }),
            }
          : {}),
      });
      if (!alignment) return null;
      const homography = normaliseHomography(multiply(alignment.homography, key.homography), this.sight.centre);
      const corners = this.plausible(homography);
      if (!corners) return null;
      const better = this.smearAt(frame, corners);
      if (
        again > 0 ||
        Math.max(better.length, smear.length) < FOLLOW.smear ||
        Math.abs(better.length - smear.length) < Math.max(FOLLOW.smear, FOLLOW.smearChange * smear.length)
      )
        return { alignment, homography, key, smear };
      offset = this.rows.offsetAt(frame, corners, key, alignment.homography);
      [smear, from, level] = [better, alignment.homography, Math.max(1, Math.ceil(Math.log2(better.length / 3)))];
    }
  }

  /** What moves and hides edges around a start, on a picture that is `k` times smaller. */
  private edgeSearch(n: number, start: Matrix3, k: number): Omit<EdgeSearch, 'reach' | 'enough'> {
    const there = mapQuad(start, this.sight.pin);
    const smear = this.smearAt(n, there);
    const offset = this.rows.offsetAt(n, there, this.sight.keys[0]!, start);
    const smaller = ([x, y]: Point): Point => [x / k, y / k];
    const larger = ([x, y]: Point): Point => [x * k, y * k];
    return {
      blur: (p) => smaller(smear.inFrame(larger(p))),
      softness: this.softness / k,
      unforeseen: this.path.hasRepeats,
      offset: offset && ((site, at) => smaller(offset(site, larger(at)))),
      followed: this.followed ? (p) => this.followed!.edges(distort(this.sight.lens, p)) : undefined,
    };
  }

  private edgeView(n: number, image: PyramidLevel, start: Matrix3): EdgeView {
    const search = { ...this.edgeSearch(n, start, 1), reach: 0 };
    return { rails: this.sight.rails, image, search, spread: this.sight.railSpread };
  }

  private seenAcross(n: number, h: Hypothesis, e: EdgeFit): Float64Array {
    return seenAcross(h.pyramid[0]!, this.sight.pin, e.homography, this.edgeSearch(n, e.homography, 1).followed);
  }

  private smearAcross(n: number, e: EdgeFit): number[] {
    const soft = this.softness / scaleAt(e.homography, this.sight.centre);
    return smearAcross(this.sight.pin, e.homography, this.edgeSearch(n, e.homography, 1).blur).map((s) =>
      Math.hypot(s, soft),
    );
  }

  /** How soft the frame is, from how well lines agree with their softened looks. */
  private learnSoftness(n: number, luma: RawLuma, f: Found): void {
    const { homography, edges, smear } = f;
    if (!edges || smear.length > FOLLOW.plain || looksOther(f) || edges.found < FOLLOW.pictured) return;
    const [image] = this.sight.pyramidFor(luma, homography, 24, 1);
    const view = this.edgeView(n, image!, homography);
    this.softness = nextSoftness(this.softness, (softness) => {
      const softer = { ...view, search: { ...view.search, softness, reach: 2, enough: 20 } };
      const sides = [0, 1, 2, 3].flatMap((side) => placesOfSide(side, softer, homography, Infinity) ?? []);
      return (
        sides.reduce((sum, q) => sum + q.here, 0) /
        Math.max(
          1,
          sides.reduce((sum, q) => sum + q.most, 0),
        )
      );
    });
  }

  /** The likeliest of a fit to the edges and of those with sides on lines beside theirs. */
  private chosen(n: number, h: Hypothesis, fit: EdgeFit): Chosen {
    const image = h.pyramid[0]!;
    const { rigid, views } = this.stiffness;
    const isJudge = this.setup.motion === 'perspective' && rigid !== null && views.length >= FOLLOW.enoughViews;
    return amongRivals(
      fit,
      this.edgeView(n, image, fit.homography),
      {
        pin: this.sight.pin,
        expected: h.expected.corners,
        expectedSigma: h.expected.sigma,
        misfit: (e) =>
          isJudge && e.sides === 4
            ? rigidMisfit(e.information, rigid, mapQuad(e.homography, this.sight.pin), h.expected.speed)
            : 0,
        across: (e) => likenessOf(this.looks, this.seenAcross(n, h, e), this.smearAcross(n, e)),
      },
      (start) => {
        const there = { ...h.expected, corners: mapQuad(start, this.sight.pin), sigma: 3 };
        const other = this.edgesFrom(n, h, start, there, 2);
        return this.carries(other) ? other : null;
      },
    );
  }

  /** Edges around one start; wide searches look at a smaller picture first. */
  private edgesFrom(
    n: number,
    h: Hypothesis,
    start: Matrix3,
    expected: Expectation,
    reach: number,
    level = 0,
  ): EdgeFit | null {
    const k = 1 << level;
    const image = h.pyramid[level];
    if (!image || this.sight.rails.length === 0) return null;
    const prior = this.beside(expected.speed, k);
    const fit = fitEdges(this.sight.rails, image, level === 0 ? start : multiply(scaling(1 / k), start), {
      pin: this.sight.pin,
      motion: this.setup.motion,
      expected: expected.corners.map(([x, y]): Point => [x / k, y / k]) as unknown as Quad,
      expectedSigma: expected.sigma / k,
      spread: this.sight.railSpread,
      reach,
      ...this.edgeSearch(n, start, k),
      floor: FLOORS,
      ...(prior ? { prior } : {}),
    });
    if (!fit || level === 0) return fit;
    const up = multiply(scaling(k), fit.homography);
    return fit.found > LEAST_FOUND && this.plausible(up) ? this.edgesFrom(n, h, up, expected, 3) : null;
  }

  /** Of the least known corner, px, with what the lens and stiffness add. */
  private edgeSigma(e: EdgeFit, { expected }: Hypothesis): number {
    const information = e.information.slice();
    if (this.rigid) addRigidInformation(information, this.rigid, mapQuad(e.homography, this.sight.pin), expected.speed);
    return Math.max(...cornerSigmas(information, expected.sigma));
  }

  /** How far two maps put the corners from each other at the most, px. */
  private apart(a: Matrix3, b: Matrix3): number {
    return farthest(mapQuad(a, this.sight.pin), mapQuad(b, this.sight.pin));
  }

  private carries(e: EdgeFit | null): e is EdgeFit {
    return carries(e) && this.plausible(e.homography) !== null;
  }

  /** Edges first, since they belong to the plane for certain; then the picture, judged by them; then both together. */
  private test(n: number, h: Hypothesis): Found | null {
    const first = h.pictureFirst ? null : this.edgesFrom(n, h, h.start, h.expected, h.reach, h.edgeLevel);
    const chosen = this.carries(first) ? this.chosen(n, h, first) : null;
    const edges = chosen?.fit ?? first;
    const found = this.withStiffness(n, h, edges);
    if (!found || !chosen || !found.edges) return found;
    const { certainty, rival, misfit } = chosen;
    const score = found.score - FOLLOW.perMisfit * Math.max(0, misfit - 1);
    return { ...found, score, certainty, rival, misfit, across: this.seenAcross(n, h, found.edges) };
  }

  private withStiffness(n: number, h: Hypothesis, first: EdgeFit | null): Found | null {
    let edges = first;
    const { rigid } = this.stiffness;
    if (!edges || !rigid || this.setup.motion !== 'perspective') return this.weigh(n, h, edges);
    const falseSide = edges.sides === 4 ? this.falseSide(n, h, edges) : null;
    const { open } = this;
    if (falseSide === null && (open || edges.sides >= Math.min(4, this.sight.sides))) return this.weigh(n, h, edges);
    // A side is missing here: what the lens and stiffness allow must stand in for it at once.
    this.open = true;
    edges = falseSide ?? this.edgesFrom(n, h, edges.homography, h.expected, Math.min(h.reach, 4)) ?? edges;
    const found = this.weigh(n, h, edges);
    this.open = open;
    return found;
  }

  /**
   * Four sides that contradict a stiff screen: one of them is the edge of something else that passes by.
   * @returns the fit without it, when that one lies far nearer to where the screen was expected; else null
   */
  private falseSide(n: number, h: Hypothesis, edges: EdgeFit): EdgeFit | null {
    const { rigid, views } = this.stiffness;
    const far = (e: EdgeFit): number => farthest(mapQuad(e.homography, this.sight.pin), h.expected.corners);
    if (
      views.length < FOLLOW.enoughViews ||
      rigidMisfit(edges.information, rigid!, mapQuad(edges.homography, this.sight.pin), h.expected.speed) <
        FOLLOW.contradicts
    )
      return null;
    const start = quadToQuad(this.sight.pin, h.expected.corners);
    const whole = far(edges);
    const { railSpread } = this.sight;
    const { open } = this;
    let best: EdgeFit | null = null;
    this.open = true;
    for (let side = 0; side < 4; side++) {
      this.sight.railSpread = railSpread.map((v, k) => (this.sight.rails[k]!.side === side ? Infinity : v));
      const e = this.edgesFrom(n, h, start, h.expected, Math.min(h.reach, 4));
      if (this.carries(e) && far(e) < FOLLOW.leftOut * whole && (!best || far(e) < far(best))) best = e;
    }
    this.sight.railSpread = railSpread;
    this.open = open;
    return best;
  }

  private weigh(n: number, h: Hypothesis, first: EdgeFit | null): Found | null {
    let edges = first;
    const carried = this.carries(edges);
    if (edges && !carried && edges.found < 0.25) edges = null;
    const sure = carried ? this.edgeSigma(edges!, h) : Infinity;
    const slip = sure < FOLLOW.judges ? FOLLOW.slip + 3 * sure : undefined;
    let a = this.align(
      n,
      h,
      carried ? edges!.homography : h.start,
      edges,
      carried && slip !== undefined && slip < 2 ? 1 : h.coarsest,
      slip,
    );
    if (a && !carried && this.sight.rails.length > 0) {
      const better = this.edgesFrom(
        n,
        h,
        a.homography,
        { ...h.expected, corners: mapQuad(a.homography, this.sight.pin), sigma: 3 },
        2,
      );
      if (better && better.found > 0.3 && better.found > (edges?.found ?? 0)) {
        edges = better;
        a = this.align(n, h, a.homography, edges, 0, undefined) ?? a;
      }
    }
    // Cells that pull the corners farther than sure edges allow show something else that moves nearly like the screen,
    // unless they are most of a picture.
    let contradicts =
      a !== null && sure < FOLLOW.judges && this.apart(a.homography, edges!.homography) >= FOLLOW.pull + 1.5 * sure;
    if (
      contradicts &&
      this.sight.hasPicture &&
      a!.alignment.support >= FOLLOW.mostly &&
      a!.alignment.agreeing >= FOLLOW.many
    ) {
      const alone = this.align(n, h, a!.homography, null, 0, undefined);
      if (alone && alone.alignment.support >= FOLLOW.mostly) {
        const again = this.edgesFrom(
          n,
          h,
          alone.homography,
          { ...h.expected, corners: mapQuad(alone.homography, this.sight.pin), sigma: 2 },
          1.5,
        );
        const agrees =
          again !== null &&
          this.apart(alone.homography, again.homography) < FOLLOW.pull + 1.5 * this.edgeSigma(again, h);
        edges = agrees ? again : null;
        a = agrees ? (this.align(n, h, alone.homography, again, 0, undefined) ?? alone) : alone;
        contradicts = false;
      }
    }
    const own = a && a.alignment.agreeing >= LEAST_AGREEING && !contradicts ? a : null;
    const homography = own?.homography ?? (this.carries(edges) ? edges.homography : a?.homography);
    if (!homography) return null;
    const corners = this.plausible(homography);
    if (!corners) return null;
    const information = own || !edges ? a!.alignment.information.slice() : edges.information.slice();
    addSpotInformation(information, this.spotted, this.sight.pin, homography);
    const freeSigma = Math.max(...cornerSigmas(information, 50));
    if (this.rigid) addRigidInformation(information, this.rigid, corners, h.expected.speed);
    const alignment = own?.alignment ?? (this.carries(edges) ? null : a!.alignment);
    const fitting = this.carries(edges) ? edges : null;
    const support = Math.max(alignment?.support ?? 0, fitting ? fitting.found : 0);
    const score =
      (alignment ? (alignment.support * Math.min(alignment.agreeing, 40)) / 40 : 0) +
      (edges ? (1.5 * edges.found * (0.3 + 0.7 * edges.alike) * edges.sides) / 4 : 0);
    const found = {
      homography,
      corners,
      information,
      alignment,
      key: a?.key ?? this.sight.keyFor(homography),
      edges,
      edgeSigma: fitting ? this.edgeSigma(fitting, h) : Infinity,
      smear: own?.smear ?? this.smearAt(n, corners),
      support,
      score,
      freeSigma,
      stopped: this.stopped,
      certainty: 1,
      rival: 0,
      misfit: 0,
      across: null,
    };
    return { ...found, reason: whyNot(found, this.carries(found.edges), this.width) };
  }

  /** Follows into frame `n`, which must be the next one in the run's direction. */
  step(n: number, luma: RawLuma): FrameResult {
    if (this.setup.motion === 'still') return { ...this.referenceResult(luma.width), frame: n };
    const hand = this.setup.hand?.find((k) => k.frame === n);
    const sightings = this.spots.map((f) => f.step(n, luma));
    const spots = sightings.map((q) => q.at && ([...q.at, q.likeness] as const));
    this.spotted = sightings.flatMap((q, i) => {
      const spot = this.setup.spots![i]!;
      return q.at
        ? [
            {
              site: spot.corner === undefined ? undistort(this.sight.lens, spot.at) : this.sight.pin[spot.corner]!,
              at: undistort(this.sight.lens, q.at),
              sigma: q.sigma,
            },
          ]
        : [];
    });
    const result = hand ? this.byHand(n, luma, hand.corners) : this.follow(n, luma);
    return spots.length > 0 ? { ...result, spots } : result;
  }

  /** The result of a frame that shows the picture before once more; null for every other. */
  private repeat(n: number, luma: RawLuma): FrameResult | null {
    const { before } = this;
    if (
      !before?.result.homography ||
      before.result.frame !== this.path.last.frame ||
      !this.path.follows(n) ||
      this.path.lost > 0
    )
      return null;
    const { corners, speed } = this.path.expectation(n);
    if (!isRepeat(before.luma, luma, boundsOf([...corners, ...this.path.last.corners]), speed)) return null;
    this.path.takeUpRepeated(n);
    return { ...before.result, frame: n };
  }

  private follow(n: number, luma: RawLuma): FrameResult {
    const result = this.repeat(n, luma) ?? this.look(n, luma);
    const { cells: _cells, ...rest } = result;
    this.before = { luma, result: rest };
    return result;
  }

  private look(n: number, luma: RawLuma): FrameResult {
    if (!this.usesTexture && !this.setup.evidence.includes('edges'))
      return this.spots.length > 0 ? this.bySpots(n, luma) : { ...this.absent(n), reason: BETWEEN_HANDS };
    const { expected, found } = this.search(n, luma);
    const reason = this.whyLost(found, expected);
    if (!found || reason) return this.lose(n, expected, reason!);
    const corners = this.rows.seen(n, found.corners);
    const lens = this.sight.lens.radial;
    const information = inAll(found.information, found.stopped ? [] : this.path.velocityOf(n, found.corners));
    const bent = this.contradictsStiffness(found, expected.speed) || looksOther(found);
    const doubt = Math.hypot(bent ? FOLLOW.bent * (this.width / 1920) : 0, rivalDoubt(found));
    const sigma = withDoubt(cornerSigmas(information, expected.sigma), doubt);
    this.remember(n, luma, found, cornerSigmas(information, 10), {
      surprise: farthest(found.corners, expected.corners),
      bent,
    });
    const texture = found.alignment?.shares.texture ?? 0;
    const edges = found.alignment ? found.alignment.shares.edges : 1;
    const spots = spotShare(this.spotted, this.sight.pin, found.homography, found.information);
    return {
      frame: n,
      homography: this.sight.delivered(corners),
      lens,
      sigma,
      information: triangle(information),
      blur: found.smear.length,
      trust: trustOf(sigma, found.support, luma.width),
      cells: cellMap(found.alignment, found.key, found.edges),
      evidence: shares({
        texture: (1 - spots) * texture,
        edges: (1 - spots) * edges,
        spots: spots * (texture + edges),
      }),
      reason: null,
    };
  }

  /** Why a frame counts as lost, without its full stop; null when it is taken. */
  private whyLost(found: Found | null, expected: Expectation): string | null {
    if (!found) return 'Nothing in the picture matches what the screen looked like';
    if (found.reason) return found.reason;
    const unsure = this.path.lost > 0 && !this.sure(found) && !this.asExpected(found, expected);
    return unsure ? 'What was found again is too little to be sure of' : null;
  }

  private lose(n: number, expected: Expectation, reason: string): FrameResult {
    this.path.lost++;
    this.open = true;
    this.softness = 0;
    const wide = (2 + expected.sigma) * Math.sqrt(1 + this.path.lost);
    return notFound(n, this.sight.lens.radial, wide, `${reason}.`, this.smearAt(n, expected.corners).length);
  }

  /** Somebody placed the pin here: it is taken as it is, and the frame is remembered for what comes after it. */
  private byHand(n: number, luma: RawLuma, real: Quad): FrameResult {
    const corners = this.sight.straight(real);
    const homography = quadToQuad(this.sight.pin, corners);
    const sigma = [HAND_SIGMA, HAND_SIGMA, HAND_SIGMA, HAND_SIGMA];
    const information = everywhere(HAND_SIGMA);
    const own = this.opinion(n, luma);
    const blur = this.smearAt(n, corners).length;
    const velocity = this.path.velocityOf(n, corners);
    // A correction is laid over what is followed (see `solve/hand-bend.ts`); a place far from it is where following
    // begins anew.
    if (own && isCorrection(mapQuad(own, this.setup.pin), real))
      this.path.takeUp(n, this.sight.straight(mapQuad(own, this.setup.pin)));
    else {
      this.path.takeUp(n, corners);
      this.sight.remember(n, luma, homography, sigma, velocity);
    }
    return {
      frame: n,
      homography: this.sight.delivered(real),
      lens: this.sight.lens.radial,
      sigma,
      information: triangle(information),
      blur,
      trust: trustOf(sigma, 1, luma.width),
      evidence: { hand: 1 },
      own,
      reason: null,
    };
  }

  /** What following makes of a frame, without learning from it; reference frame to frame. */
  private opinion(n: number, luma: RawLuma): readonly number[] | null {
    if (!this.usesTexture && !this.setup.evidence.includes('edges')) return null;
    const { found } = this.search(n, luma);
    return found && !found.reason ? this.sight.delivered(this.rows.seen(n, found.corners)) : null;
  }

  /** Spots alone: as free a motion as their number allows. */
  private bySpots(n: number, luma: RawLuma): FrameResult {
    const { motion } = this.setup;
    const count = this.spotted.length;
    const able = tighter(motion, motionTold(count));
    const homography =
      count > 0
        ? solveSpots(this.spotted, this.sight.pin, quadToQuad(this.sight.pin, this.path.last.corners), able)
        : null;
    const corners = homography && this.plausible(homography);
    if (!corners) {
      this.path.lost++;
      return notFound(n, this.sight.lens.radial, 30, 'No spot was found here.');
    }
    const information = new Float64Array(64);
    const blur = this.smearAt(n, corners).length;
    addSpotInformation(information, this.spotted, this.sight.pin, homography);
    const sigma = cornerSigmas(information, 8);
    this.path.takeUp(n, corners);
    return {
      frame: n,
      homography: this.sight.delivered(this.sight.bowed(corners)),
      lens: this.sight.lens.radial,
      sigma,
      information: triangle(information),
      blur,
      trust: trustOf(sigma, Math.min(1, count / 4), luma.width),
      evidence: { spots: 1 },
      reason: null,
    };
  }

  /** See {@link Path.takeGap}; corners as the picture shows them. */
  takeGap(last: boolean): Gap | null {
    const gap = this.path.takeGap(last);
    return gap && { ...gap, beyond: gap.beyond.map((f) => ({ ...f, corners: this.sight.bowed(f.corners) })) };
  }

  /** The Screen is not in the shot on this frame; it has to be found again after it. */
  absent(n: number): FrameResult {
    this.path.lost = Math.max(this.path.lost, 1);
    return notFound(n, this.sight.lens.radial, this.width / 2, ABSENT);
  }

  /** Begins at solved frames instead of the reference: newest first, corners as the picture shows them. */
  startFrom(frames: readonly { readonly frame: number; readonly corners: Quad }[]): void {
    const [now] = frames;
    if (!now) return;
    this.path.startFrom(frames.map((f) => ({ frame: f.frame, corners: this.sight.straight(f.corners) })));
    const h = quadToQuad(this.setup.pin, now.corners);
    const places = this.setup.spots ?? [];
    for (const [i, q] of this.spots.entries())
      q.startAt(
        now.frame,
        places[i]!.corner === undefined ? mapPoint(h, places[i]!.at) : now.corners[places[i]!.corner!]!,
      );
  }

  private search(n: number, luma: RawLuma): { expected: Expectation; found: Found | null } {
    const expected = this.path.expectation(n);
    this.followed = followedOn(this.setup.patches, n, this.sight.keys[0]!.frame);
    return { expected, found: this.bestOf(n, luma, expected) };
  }

  /** Tries one start after another until most of what can be seen agrees with one. */
  private bestOf(n: number, luma: RawLuma, expected: Expectation): Found | null {
    let best: Found | null = null;
    for (const h of hypotheses({
      sight: this.sight,
      path: this.path,
      usesTexture: this.usesTexture,
      luma,
      expected,
      smear: this.smearAt(n, expected.corners).length,
      views: this.stiffness.views.map((q) => q.corners),
    })) {
      const certain = best !== null && best.reason === null && this.sure(best);
      // Doubt alone is not worth searching far and wide.
      if (certain && h.farFetched && this.path.lost === 0) return best;
      this.stopped = h.stopped ?? false;
      const f = this.test(n, h);
      this.stopped = false;
      if (f && !(f.stopped && !agreesWell(f.alignment)) && (!best || this.better(f, best))) best = f;
      if (
        best &&
        best.reason === null &&
        this.sure(best) &&
        !this.doubted(best) &&
        (this.path.lost === 0 || best.support > FOLLOW.foundAgain)
      )
        return best;
    }
    return best;
  }

  private better(f: Found, best: Found): boolean {
    if ((f.reason === null) !== (best.reason === null)) return f.reason === null;
    if (isBackedByPicture(f, best)) return true;
    if (isBackedByPicture(best, f)) return false;
    if (!this.sure(best)) return f.score > best.score + FOLLOW.better;
    return (
      f.score > best.score + FOLLOW.clearly &&
      this.apart(f.homography, best.homography) * (1920 / this.width) > FOLLOW.elsewhere
    );
  }

  /** After a loss: at least three sides where the screen was to come back. */
  private asExpected(f: Found, expected: Expectation): boolean {
    const off = farthest(f.corners, expected.corners);
    const scale = this.width / 1920;
    const near = f.edgeSigma < FOLLOW.stiff * scale ? FOLLOW.comesBackStiff : FOLLOW.comesBack;
    return this.carries(f.edges) && f.edges.alike > 0.8 && off < Math.min(expected.sigma, near * scale);
  }

  /** Four sides that no stiff screen shows so: one of them is a line beside the side's own, and nothing tells which. */
  private contradictsStiffness({ edges, corners }: Found, speed: number): boolean {
    const { rigid, views } = this.stiffness;
    if (this.setup.motion !== 'perspective' || edges?.sides !== 4 || !rigid || views.length < FOLLOW.enoughViews)
      return false;
    return rigidMisfit(edges.information, rigid, corners, speed) > FOLLOW.contradicts;
  }

  private sure(f: Found): boolean {
    const { rails, sides, hasPicture } = this.sight;
    return isSure(f, { rails: rails.length, sides, hasPicture, sigma: f.edgeSigma * (1920 / this.width) });
  }

  /**
   * Sure edges that the picture does not follow, though it carried the frames before: they may be lines of something
   * else.
   */
  private doubted(f: Found): boolean {
    if (!this.sight.hasPicture || this.pictured <= FOLLOW.pictured) return false;
    return !agreesWell(f.alignment) || f.alignment.support < this.support - FOLLOW.lessSupport;
  }

  /** @param told sigma per corner with all that the model leaves out, px */
  private remember(
    n: number,
    luma: RawLuma,
    f: Found,
    told: readonly number[],
    { surprise, bent }: { readonly surprise: number; readonly bent: boolean },
  ): void {
    const sigma = Math.max(...cornerSigmas(f.information, 50));
    const isPlain = !bent && f.certainty > FOLLOW.certain && f.smear.length < FOLLOW.plain;
    const isWhole = f.edges !== null && f.edges.sides === f.edges.available && f.edges.found > FOLLOW.whole;
    if (f.across && isPlain && isWhole && sigma < FOLLOW.judges) this.looks = learnLooks(this.looks, f.across);
    if (f.alignment) this.sight.probation.judge(f.alignment, f.key, f.homography, sigma);
    if (f.edges)
      updateSpread(
        this.sight.railSpread,
        this.sight.rails,
        f.edges,
        f.edges.sides === 4 ? f.edges.homography : f.homography,
        this.sight.pin,
        this.setup.motion,
      );
    const consecutive = this.path.follows(n);
    if (f.smear.length > 0 && f.alignment && consecutive)
      this.shutter = learnShutter(
        this.shutter,
        f,
        this.path.found.map((q) => q.corners),
        this.sight,
        () => this.sight.pyramidFor(luma, f.homography, 16, 2),
      );
    if (!f.stopped) this.rows.learn(n, f);
    const velocity = this.path.velocityOf(n, f.corners);
    const moved = consecutive ? farthest(f.corners, this.path.last.corners) : Infinity;
    if (consecutive && this.path.last.frame === this.sight.keys[0]!.frame && !this.setup.way)
      this.sight.referenceVelocity = velocity;
    this.path.takeUp(n, f.corners);
    this.open = f.freeSigma * (1920 / this.width) > FOLLOW.openSigma;
    this.path.surprised(surprise);
    this.support += FOLLOW.picturedRate * ((f.alignment?.support ?? 0) - this.support);
    this.pictured += FOLLOW.picturedRate * ((agreesWell(f.alignment) ? 1 : 0) - this.pictured);
    if (
      this.setup.motion === 'perspective' &&
      !bent &&
      f.smear.length <= FOLLOW.mostBlur &&
      (f.edges?.sides === 4 || (f.alignment?.support ?? 0) > 0.6)
    )
      this.stiffness.add(f.corners, f.information);
    if (this.setup.keyFrames?.includes(n)) this.sight.remember(n, luma, f.homography, told, velocity);
    else if (f.alignment && f.alignment.support >= 0.6 && moved <= 24 && sigma <= 1)
      this.sight.rememberNew(n, luma, f.homography, told, velocity);
    this.learnFromBow(f);
    this.learnSoftness(n, luma, f);
  }

  private learnFromBow(f: Found): void {
    if (this.setup.lens !== undefined || this.setup.motion !== 'perspective' || f.smear.length > FOLLOW.sharp) return;
    const moved = this.sight.learnLens(f.edges, f.alignment && { alignment: f.alignment, key: f.key }, [
      ...this.path.found.map((q) => q.corners),
      ...this.stiffness.views.map((q) => q.corners),
    ]);
    if (!moved) return;
    const { found } = this.path;
    const { length } = found;
    this.path.found = found.map((q, i) => ({ ...q, corners: moved[i]! }));
    this.stiffness.views = this.stiffness.views.map((q, i) => ({ ...q, corners: moved[length + i]! }));
  }
}
