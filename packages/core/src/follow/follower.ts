/**
 * Follows one Screen through a shot, one frame at a time, in one direction from the reference frame. A follower's whole
 * memory is {@link FollowerState}, plain data: a run taken up from a stored state goes on exactly as it would have.
 *
 * ```ts
 * const follower = new Follower(setup, 90, luma(90));
 * for (let n = 91; n < end; n++) report(follower.step(n, luma(n)));
 * ```
 */
import { cornerSigmas, everywhere } from '../geometry/corner-information';
import { mapPoint, normaliseHomography, quadToQuad } from '../geometry/homography';
import { undistort } from '../geometry/lens';
import { triangle } from '../geometry/linear-algebra';
import { IDENTITY } from '../geometry/matrix3';
import { motionTold, tighter } from '../geometry/motion';
import { boundsOf } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { assertPin, farthest, mapQuad, perspectiveCentre } from '../geometry/quad';
import type { RawLuma } from '../image/image';
import type { FrameResult } from '../solve/frame-result';
import { ABSENT, HAND_SIGMA, notFound } from '../solve/frame-result';
import { isCorrection } from '../solve/hand-bend';
import { bestWay, whyLost } from './frame/best-way';
import type { FollowSetup, FollowerState } from './memory/follower-state';
import type { FrameContext } from './memory/frame-context';
import { FLOOR, FLOORS, plausible, smearAt } from './memory/frame-context';
import { heldOn } from './frame/held-on';
import { FollowerMemory } from './memory';
import type { Gap } from './memory/path';
import { isRepeat } from './timing/repeats';
import { SecondLook } from './frame/second-look';
import { carriedOver } from './memory/sections';
import { assertFollowable } from './memory/sight';
import type { SpotSight } from './spots/spot-evidence';
import { addSpotInformation, solveSpots, withinPin } from './spots/spot-evidence';
import { SpotFollower } from './spots/spots';
import { knownOf, takenResult } from './frame/taken-result';
import { trustOf } from './evidence/trust';
import type { ShutterMemory } from './timing/shutter';
import type { Found } from './evidence/verdict';
import { LEAST_AGREEING, LEAST_SIDES } from './evidence/verdict';

/** Goes into the key of every solve; raise it whenever equal inputs would give other numbers. */
export const FOLLOWER_VERSION = 25;

/** px; sigma of corners that nothing but the spots told. By trial. */
const BY_SPOTS = 8;
/** Spots that make what they tell alone as trustworthy as it gets. By trial. */
const ENOUGH_SPOTS = 4;
/** px; sigma of corners where no spot was found. By trial. */
const NO_SPOT = 30;
/** Corners that lie where they were set, whatever the lens. */
const STAYS = [0, 0, 0, 0, 0, 0, 0, 0] as const;
/** Reason of a frame that rests on the hand keys around it alone. */
const BETWEEN_HANDS = 'Nothing but the hand keys around this frame tells where the screen is.';

/** Follows one Screen from frame to frame in one direction. */
export class Follower {
  private readonly memory: FollowerMemory;
  private readonly usesTexture: boolean;
  private readonly usesEdges: boolean;
  private readonly spots: SpotFollower[];
  /** the last frame that was looked at, and what came of it */
  private before: { readonly luma: RawLuma; readonly result: FrameResult } | null = null;

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
    this.usesTexture = setup.evidence.includes('texture');
    this.usesEdges = setup.evidence.includes('edges');
    const spots = setup.evidence.includes('spots') ? (setup.spots ?? []) : [];
    this.spots = spots.map((q) => {
      const within = q.corner === undefined ? undefined : withinPin(setup.pin, q.at);
      return new SpotFollower(q, referenceFrame, reference, placed, within);
    });
    this.memory = new FollowerMemory(setup, referenceFrame, reference);
    if (setup.motion !== 'still' && this.spots.length === 0 && (setup.hand ?? []).length === 0)
      assertFollowable(this.memory.sight, LEAST_AGREEING, LEAST_SIDES);
  }

  get state(): FollowerState {
    return {
      ...this.memory.state,
      last: this.before?.result ?? null,
      spots: this.spots.map((q) => q.state),
    };
  }

  /** See {@link FollowerMemory.shutterEstimate}. */
  get shutterEstimate(): { readonly share: number; readonly frames: number } {
    return this.memory.shutterEstimate;
  }

  /** See {@link FollowerMemory.knowsShutter}. */
  get knowsShutter(): boolean {
    return this.memory.knowsShutter;
  }

  /** See {@link FollowerMemory.knowShutter}. */
  knowShutter(told: ShutterMemory): void {
    this.memory.knowShutter(told);
  }

  /** Focal length in picture widths, once enough views have told it. */
  get focal(): number | null {
    return this.memory.focal;
  }

  /** Takes up a stored run; `luma` gives the frames of the state's key pictures. */
  async resume(state: FollowerState, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    for (const [i, q] of state.spots.entries()) this.spots[i]?.resume(q, await luma(q.last[0]!.frame));
    this.before = state.last && { luma: await luma(state.last.frame), result: state.last };
    await this.memory.restore(state, luma);
  }

  /** Goes on where another follower of the same shot stands. `luma` as for {@link Follower.resume}. */
  async takeOver(other: Follower, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    await this.resume(carriedOver(this.state, other.state, this.setup, other.setup), luma);
    const { path, sight } = other.memory;
    this.startFrom(path.found.map(({ frame, corners }) => ({ frame, corners: sight.bowed(corners) })));
  }

  /** The reference frame's own result: exact by definition. */
  referenceResult(width: number): FrameResult {
    const { sight } = this.memory;
    const texture = this.usesTexture && (sight.keys[0]!.template.levels[0]?.cells ?? 0) >= LEAST_AGREEING;
    return {
      frame: sight.keys[0]!.frame,
      homography: normaliseHomography(IDENTITY, perspectiveCentre(this.setup.pin)),
      lens: sight.lens.radial,
      bow: STAYS,
      sigma: FLOORS,
      information: triangle(everywhere(FLOOR)),
      blur: 0,
      trust: trustOf(FLOORS, 1, width),
      evidence: { [texture ? 'texture' : 'edges']: 1 },
      reason: null,
    };
  }

  /** Follows into frame `n`, which must be the next one in the run's direction. */
  step(n: number, luma: RawLuma): FrameResult {
    if (this.setup.motion === 'still') return { ...this.referenceResult(luma.width), frame: n };
    const hand = this.setup.hand?.find((k) => k.frame === n);
    const sightings = this.spots.map((f) => f.step(n, luma));
    const spotted = sightings.flatMap((q, i) => (q.at ? [this.asEvidence(i, q.at, q.sigma)] : []));
    const result = hand ? this.byHand(n, luma, hand.corners, spotted) : this.follow(n, luma, spotted);
    if (sightings.length === 0) return result;
    return { ...result, spots: sightings.map((q) => q.at && ([...q.at, q.likeness] as const)) };
  }

  /** The sighting of a spot in the ideal picture. */
  private asEvidence(i: number, at: SpotSight['at'], sigma: number): SpotSight {
    const { sight } = this.memory;
    const spot = this.setup.spots![i]!;
    return {
      site: spot.corner === undefined ? undistort(sight.lens, spot.at) : sight.pin[spot.corner]!,
      at: undistort(sight.lens, at),
      sigma,
    };
  }

  /** The result of a frame that shows the picture before once more; null for every other. */
  private repeat(n: number, luma: RawLuma): FrameResult | null {
    const { before } = this;
    const { path } = this.memory;
    if (!before?.result.homography || before.result.frame !== path.last.frame || !path.follows(n) || path.lost > 0)
      return null;
    const { corners, speed } = path.expectation(n);
    if (!isRepeat(before.luma, luma, boundsOf([...corners, ...path.last.corners]), speed)) return null;
    path.takeUpRepeated(n);
    return { ...before.result, frame: n };
  }

  private follow(n: number, luma: RawLuma, spotted: readonly SpotSight[]): FrameResult {
    const repeated = this.repeat(n, luma);
    if (repeated) this.note(repeated, this.memory.path.last.corners, 0);
    const result = repeated ?? this.look(n, luma, spotted);
    const { cells: _cells, ...rest } = result;
    this.before = { luma, result: rest };
    return result;
  }

  private look(n: number, luma: RawLuma, spotted: readonly SpotSight[]): FrameResult {
    if (!this.usesTexture && !this.usesEdges)
      return this.spots.length > 0 ? this.bySpots(n, spotted) : { ...this.absent(n), reason: BETWEEN_HANDS };
    const c = this.memory.contextOf(n, spotted);
    const found = bestWay(c, luma);
    const reason = whyLost(c, found);
    if (found && !reason) return this.take(c, luma, found);
    const held = this.setup.halts ? null : heldOn(c, luma);
    return held ? this.holdOn(c, held) : this.lose(c, reason!);
  }

  /** A frame that shows too little of the Screen to be taken, where it goes on as it did. */
  private holdOn(c: FrameContext, held: Found): FrameResult {
    const result = takenResult(c, held, knownOf(c, held));
    this.note(result, null, 0);
    this.memory.path.holdOn(c.frame, held.corners);
    this.memory.lose();
    return result;
  }

  private take(c: FrameContext, luma: RawLuma, found: Found): FrameResult {
    const known = knownOf(c, found);
    const result = takenResult(c, found, known);
    const surprise = farthest(found.corners, c.expected.corners);
    this.note(result, found.corners, surprise);
    this.memory.remember(c, luma, found, {
      told: cornerSigmas(known.information, 10),
      surprise,
      isBent: known.isBent,
      response: known.response,
    });
    return result;
  }

  private lose(c: FrameContext, reason: string): FrameResult {
    this.memory.lose();
    const { path, sight } = this.memory;
    const wide = (2 + c.expected.sigma) * Math.sqrt(1 + path.lost);
    const result = notFound(c.frame, sight.lens.radial, wide, `${reason}.`, smearAt(c, c.expected.corners).length);
    this.note(result, null, 0);
    return result;
  }

  /** @param surprise px that it lay from where it was expected */
  private note({ frame, trust }: Pick<FrameResult, 'frame' | 'trust'>, corners: Quad | null, surprise: number): void {
    const { memory } = this;
    const scale = memory.sight.lens.width / 1920;
    memory.doubts.note({ frame, corners, trust, surprise: surprise / scale });
  }

  /** Somebody placed the pin here: it is taken as it is, and the frame is remembered for what comes after it. */
  private byHand(n: number, luma: RawLuma, real: Quad, spotted: readonly SpotSight[]): FrameResult {
    const { sight, path } = this.memory;
    const corners = sight.straight(real);
    const homography = quadToQuad(sight.pin, corners);
    const sigma = [HAND_SIGMA, HAND_SIGMA, HAND_SIGMA, HAND_SIGMA];
    const c = this.memory.contextOf(n, spotted);
    const own = this.opinion(c, luma);
    const blur = smearAt(c, corners).length;
    const velocity = path.velocityOf(n, corners);
    // A correction is laid over what is followed (see `solve/hand-bend.ts`); a place far from it is where following
    // begins anew.
    if (own && isCorrection(mapQuad(own, this.setup.pin), real))
      path.takeUp(n, sight.straight(mapQuad(own, this.setup.pin)));
    else {
      path.takeUp(n, corners);
      sight.remembered.add({ frame: n, luma, homography, kept: { sigma, velocity } });
    }
    this.note({ frame: n, trust: 1 }, path.last.corners, 0);
    return {
      frame: n,
      homography: sight.delivered(real),
      lens: sight.lens.radial,
      bow: STAYS,
      sigma,
      information: triangle(everywhere(HAND_SIGMA)),
      blur,
      trust: trustOf(sigma, 1, luma.width),
      evidence: { hand: 1 },
      own,
      reason: null,
    };
  }

  /** What following makes of a frame, without learning from it; reference frame to frame. */
  private opinion(c: FrameContext, luma: RawLuma): readonly number[] | null {
    if (!this.usesTexture && !this.usesEdges) return null;
    const found = bestWay(c, luma);
    const { sight, rows } = this.memory;
    return found && !found.reason ? sight.delivered(rows.seen(c.frame, found.corners)) : null;
  }

  /** Spots alone: as free a motion as their number allows. */
  private bySpots(n: number, spotted: readonly SpotSight[]): FrameResult {
    const { sight, path } = this.memory;
    const c = this.memory.contextOf(n, spotted);
    const count = spotted.length;
    const able = tighter(this.setup.motion, motionTold(count));
    const start = quadToQuad(sight.pin, path.last.corners);
    const homography = count > 0 ? solveSpots(spotted, sight.pin, start, able) : null;
    const corners = homography && plausible(c, homography);
    if (!corners) {
      path.lost++;
      return notFound(n, sight.lens.radial, NO_SPOT, 'No spot was found here.');
    }
    const information = new Float64Array(64);
    const blur = smearAt(c, corners).length;
    addSpotInformation(information, spotted, sight.pin, homography);
    const sigma = cornerSigmas(information, BY_SPOTS);
    path.takeUp(n, corners);
    return {
      frame: n,
      homography: sight.delivered(sight.bowed(corners)),
      lens: sight.lens.radial,
      sigma,
      information: triangle(information),
      blur,
      trust: trustOf(sigma, Math.min(1, count / ENOUGH_SPOTS), sight.lens.width),
      evidence: { spots: 1 },
      reason: null,
    };
  }

  /** See `Path.takeGap`; corners as the picture shows them. */
  takeGap(last: boolean): Gap | null {
    const { sight, path } = this.memory;
    const gap = path.takeGap(last);
    return gap && { ...gap, beyond: gap.beyond.map((f) => ({ ...f, corners: sight.bowed(f.corners) })) };
  }

  /** A frame of the run that was followed again from elsewhere. */
  amend({ frame, homography, trust }: FrameResult): void {
    const { memory } = this;
    if (!homography) return;
    const corners = memory.sight.straight(mapQuad(homography, this.setup.pin));
    memory.doubts.amend(frame, corners, trust);
  }

  /**
   * The last doubtful frames wait for a second look from now on, if what lies beyond them is known.
   * @param last no further frame will tell more
   */
  closeStretch(last: boolean): void {
    this.memory.doubts.close(last);
  }

  /** A second look at the doubtful frames that have waited longest for it; null when none do. Each stretch is told once. */
  takeStretch(): SecondLook | null {
    const { memory } = this;
    const stretch = memory.doubts.take();
    return stretch && new SecondLook(stretch, this.setup, (n) => memory.contextOf(n, []));
  }

  /** The Screen is not in the shot on this frame; it has to be found again after it. */
  absent(n: number): FrameResult {
    const { sight, path } = this.memory;
    path.lost = Math.max(path.lost, 1);
    this.memory.doubts.beginAnew([]);
    return notFound(n, sight.lens.radial, sight.lens.width / 2, ABSENT);
  }

  /** Begins at solved frames instead of the reference: newest first, corners as the picture shows them. */
  startFrom(frames: readonly { readonly frame: number; readonly corners: Quad }[]): void {
    const [now] = frames;
    if (!now) return;
    const { sight, path } = this.memory;
    const known = frames.map((f) => ({ frame: f.frame, corners: sight.straight(f.corners) }));
    path.startFrom(known);
    this.memory.doubts.beginAnew([...known].reverse());
    const h = quadToQuad(this.setup.pin, now.corners);
    const places = this.setup.spots ?? [];
    for (const [i, q] of this.spots.entries()) {
      const { corner, at } = places[i]!;
      q.startAt(now.frame, corner === undefined ? mapPoint(h, at) : now.corners[corner]!);
    }
  }
}
