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
import { IDENTITY, inverse, multiply, scaling } from '../geometry/matrix3';
import { mapPoint, normaliseHomography, quadToQuad, scaleAt } from '../geometry/homography';
import type { Lens } from '../geometry/lens';
import { distort, undistort } from '../geometry/lens';
import type { Quad } from '../geometry/quad';
import { assertPin, isConvex, mapQuad, perspectiveCentre, signedArea } from '../geometry/quad';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { boundsOf, insidePolygon } from '../geometry/polygon';
import type { RawLuma } from '../image/image';
import { estimateNoise } from '../image/noise';
import type { Pyramid } from '../image/pyramid';
import { buildPyramid } from '../image/pyramid';
import type { RigidScreen } from '../solve/rigid-screen';
import { addRigid, addRigidInformation, calibrate } from '../solve/rigid-screen';
import { blurTemplate } from './blurred-template';
import { DENSITIES } from './cells';
import { searchShift } from './coarse-search';
import { cornerSigmas } from './corner-information';
import type { EdgeFit } from './edge-solver';
import { edgesAsEvidence, firstSpread, fitEdges, updateSpread } from './edge-solver';
import type { Equations } from './equations';
import type { KeyPicture } from './key-pictures';
import { levelsFor, makeKeyPicture, viewDifference } from './key-pictures';
import { NO_LENS_MEMORY, betterLens, learnLens } from './lens-evidence';
import { Probation } from './probation';
import type { Rail } from './rails';
import { findRails } from './rails';
import type { Region } from './region';
import { followRegion } from './region';
import type { FollowSetup, FollowerState, FrameResult } from './results';
import { fromTriangle, triangle } from './results';
import type { Smear } from './shutter';
import { COMMON_SHUTTER, NO_SMEAR, SHUTTERS, bestShutter, smearOf, velocityAt } from './shutter';
import type { Alignment } from './texture-alignment';
import { alignTexture } from './texture-alignment';
import { trustOf } from './trust';

/** Goes into the key of every solve; raise it whenever equal inputs would give other numbers. */
export const FOLLOWER_VERSION = 3;

/** A view differs enough from every remembered one to be remembered itself (about 1.5 times nearer). */
const NEW_KEY = 0.75;
/** The reference is preferred while its view differs less than this. */
const STAY_WITH_REFERENCE = 0.65;
const LEAST_SUPPORT = 0.3, LEAST_AGREEING = 7, SURE_SUPPORT = 0.6;
/** Support from which nothing better is looked for after the screen was lost: textures repeat themselves. */
const FOUND_AGAIN = 0.9;
/** What is asked of a result that no fine level confirms. */
const COARSE_SUPPORT = 0.75;
/** Sides and share of sites from which edges alone carry a frame; and from which nothing better is looked for. */
const LEAST_SIDES = 3, LEAST_FOUND = 0.4, SURE_FOUND = 0.7, SURE_ALIKE = 0.8, SURE_SIGMA = 0.6;
/** Slip of a cell against sure edges that is tolerated beyond what the edges know, px. */
const SLIP = 0.6;
/** Corners less known than this by evidence alone (px at 1920 wide) call for what a stiff screen allows. */
const OPEN_SIGMA = 0.4;
/** Edges that know the corners this well judge the cells, px. */
const JUDGES = 2;
/** What no evidence shows of its own error, px: resampling, compression, the reference's noise. */
const FLOOR = 0.03, FLOORS = [FLOOR, FLOOR, FLOOR, FLOOR];
/** Edges smeared by no more than this, px, tell of the lens. */
const SHARP = 8;
/** Smear that is worth predicting, px; and by how much a better guess of it must differ to align again. */
const SMEAR = 1.5, SMEAR_CHANGE = 0.2;
/** Surprise (px) before anything was followed, how fast it is forgotten, and below which movement counts as steady. */
const FIRST_SURPRISE = 12, SURPRISE_RATE = 0.4, STEADY = 6;
/** Fast frames that are enough to know the shutter; how fast they must be, px a frame. */
const SHUTTER_FRAMES = 10, SHUTTER_SPEED = [8, 90] as const;
/** Corners known this well (px at 1920 wide) make a view that helps to know the lens; how many are kept. */
const VIEW_SIGMA = 0.4, MOST_VIEWS = 48, VIEW_SPACING = 0.012;

interface Expectation {
  readonly corners: Quad;
  /** px */
  readonly sigma: number;
  /** of the fastest corner, px a frame */
  readonly speed: number;
}

interface Hypothesis {
  readonly pyramid: Pyramid;
  /** reference frame to frame */
  readonly start: Matrix3;
  readonly expected: Expectation;
  /** px in which edges are looked for around the start, on which level first */
  readonly reach: number;
  readonly edgeLevel?: number;
  readonly coarsest: number;
  /** leave the edges out until the picture is aligned */
  readonly pictureFirst?: boolean;
}

/** What a hypothesis came to, whatever it rests on. */
interface Found {
  readonly homography: readonly number[];
  readonly corners: Quad;
  readonly information: Float64Array;
  readonly alignment: Alignment | null;
  readonly key: KeyPicture;
  readonly edges: EdgeFit | null;
  /** px, see {@link Follower.edgeSigma} */
  readonly edgeSigma: number;
  readonly smear: Smear;
  readonly support: number;
  readonly score: number;
  /** of the least known corner by evidence alone, px */
  readonly freeSigma: number;
  readonly reason: string | null;
}

const percent = (v: number): string => `${Math.round(100 * v)} %`;

export class Follower {
  /** what the picture is seen through: everything below is in px of the ideal picture behind it */
  private lens: Lens;
  private lensMemory = NO_LENS_MEMORY;
  private pin: Quad;
  private region: Region;
  private centre: Point;
  private keys: KeyPicture[];
  private rails: readonly Rail[];
  private railSpread: Float32Array;
  /** of the pin, on which rails were found */
  private sides: number;
  private readonly probation: Probation;
  private readonly usesTexture: boolean;
  /** enough cells that need no proof */
  private hasPicture: boolean;
  private found: { frame: number; corners: Quad }[];
  private lost = 0;
  /** how far frames lately lay from where they were expected, px */
  private surprise = FIRST_SURPRISE;
  private shutter = { agreement: SHUTTERS.map(() => 0), frames: 0 };
  private views: { corners: Quad; information: readonly number[] }[] = [];
  private rigid: RigidScreen | null = null;
  /** the last frame's evidence left corners open, so that the lens and stiffness must help */
  private open = false;
  private width: number;
  private height: number;

  /**
   * @param reference luma of the reference frame
   * @throws CoreError when the pin is degenerate, a patch is unusable, or nothing in the region can be followed
   */
  constructor(private readonly setup: FollowSetup, referenceFrame: number, reference: RawLuma) {
    assertPin(setup.pin);
    this.width = reference.width;
    this.height = reference.height;
    this.usesTexture = setup.evidence.includes('texture');
    this.probation = new Probation(reference.width, (corners, mean) => this.region.surroundings !== null && (corners.some((p) => !insidePolygon(p, this.pin)) || (this.sides === 4 && mean < DARK)));
    this.lens = { radial: setup.lens ?? 0, width: reference.width, height: reference.height };
    this.pin = setup.pin;
    this.region = followRegion(setup.pin, setup.patches, this.lens);
    this.keys = [];
    this.rails = [];
    this.centre = perspectiveCentre(setup.pin);
    this.railSpread = new Float32Array(0);
    this.sides = 0;
    this.hasPicture = false;
    this.see(this.lens.radial, referenceFrame, reference, []);
    const cells = this.ownCells();
    if (cells < LEAST_AGREEING && this.sides < LEAST_SIDES && setup.motion !== 'still')
      throw new CoreError('no-evidence', `Only ${cells} cells of the outline hold enough picture to follow on the reference frame, and edges were found on only ${this.sides} of the pin's sides; draw a follow patch over something with texture that moves with the screen, or lay the pin onto the glass edges.`);
    this.found = [{ frame: referenceFrame, corners: this.pin }];
    this.addView(this.pin, referenceInformation(), 0);
  }

  /** Cells that need no proof. */
  private ownCells(): number {
    return this.usesTexture ? this.keys[0]!.template.levels[0]?.probation.reduce((s, p) => s + (p ? 0 : 1), 0) ?? 0 : 0;
  }

  /** Looks at the reference and the other key pictures (corners in the real picture) through a lens. */
  private see(radial: number, referenceFrame: number, reference: RawLuma, others: readonly { frame: number; luma: RawLuma; corners: Quad; sigma: readonly number[] }[]): void {
    this.lens = { ...this.lens, radial };
    this.pin = this.straight(this.setup.pin);
    this.region = followRegion(this.setup.pin, this.setup.patches, this.lens);
    this.centre = perspectiveCentre(this.pin);
    const rails = this.setup.evidence.includes('edges') ? this.findRails(reference) : [];
    if (rails.length !== this.rails.length || rails.some((r, i) => r.side !== this.rails[i]!.side)) this.railSpread = firstSpread(rails);
    this.rails = rails;
    this.sides = new Set(rails.map((r) => r.side)).size;
    this.keys = [this.keyPicture(referenceFrame, reference, IDENTITY, [0, 0, 0, 0])];
    for (const k of others) this.keys.push(this.keyPicture(k.frame, k.luma, quadToQuad(this.pin, this.straight(k.corners)), k.sigma));
    this.hasPicture = this.ownCells() >= 24;
  }

  private keyPicture(frame: number, luma: RawLuma, h: Matrix3, sigma: readonly number[]): KeyPicture {
    return makeKeyPicture(frame, luma, h, sigma, this.region, DENSITIES[this.setup.density], this.probation.rule, this.lens);
  }

  private straight(corners: Quad): Quad {
    return corners.map((p) => undistort(this.lens, p)) as unknown as Quad;
  }

  private bowed(corners: Quad): Quad {
    return corners.map((p) => distort(this.lens, p)) as unknown as Quad;
  }

  /** Everything remembered is moved over to a better lens. */
  private changeLens(radial: number): void {
    const [reference, ...others] = this.keys, kept = others.map((k) => ({ ...k, corners: this.bowed(mapQuad(k.homography, this.pin)) }));
    const found = this.found.map((f) => this.bowed(f.corners)), views = this.views.map((v) => this.bowed(v.corners));
    this.see(radial, reference!.frame, reference!.luma, kept);
    this.found = this.found.map((f, i) => ({ ...f, corners: this.straight(found[i]!) }));
    this.views = this.views.map((v, i) => ({ ...v, corners: this.straight(views[i]!) }));
    this.learnRigid();
  }

  private findRails(reference: RawLuma): Rail[] {
    const b = boundsOf(this.pin), m = 60;
    const [image] = buildPyramid(reference, 1, { x0: b.x0 - m, y0: b.y0 - m, x1: b.x1 + m, y1: b.y1 + m }, this.lens);
    return findRails(this.pin, image!, this.region.ignore);
  }

  get state(): FollowerState {
    return {
      found: this.found, lost: this.lost, surprise: this.surprise, open: this.open, ...this.probation.state, railSpread: [...this.railSpread], shutter: this.shutter, views: this.views, lens: { radial: this.lens.radial, ...this.lensMemory },
      keys: this.keys.slice(1).map(({ frame, homography, sigma }) => ({ frame, homography, sigma })),
    };
  }

  /** Share of a frame's time that the shutter is open, and how many fast frames said so. */
  get shutterEstimate(): { readonly share: number; readonly frames: number } {
    return { share: this.shutter.frames > 0 ? bestShutter(this.shutter.agreement) : COMMON_SHUTTER, frames: this.shutter.frames };
  }

  /** Focal length in picture widths, once enough views have told it. */
  get focal(): number | null {
    return this.rigid?.focal ?? null;
  }

  /** Takes up a stored run; `luma` gives the frames of the state's key pictures. */
  async resume(state: FollowerState, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    const { radial, ...memory } = state.lens, [reference] = this.keys;
    this.lensMemory = memory;
    if (radial !== this.lens.radial) this.see(radial, reference!.frame, reference!.luma, []);
    this.found = state.found.map((f) => ({ ...f }));
    this.lost = state.lost;
    this.surprise = state.surprise;
    this.open = state.open;
    this.probation.restore(state);
    this.railSpread.set(state.railSpread);
    this.shutter = { agreement: [...state.shutter.agreement], frames: state.shutter.frames };
    this.views = [...state.views];
    this.learnRigid();
    for (const k of state.keys) this.keys.push(this.keyPicture(k.frame, await luma(k.frame), k.homography, k.sigma));
  }

  /** The reference frame's own result: exact by definition. */
  referenceResult(width: number): FrameResult {
    const texture = this.usesTexture && (this.keys[0]!.template.levels[0]?.cells ?? 0) >= LEAST_AGREEING;
    return {
      frame: this.keys[0]!.frame, homography: normaliseHomography(IDENTITY, perspectiveCentre(this.setup.pin)), lens: this.lens.radial, sigma: FLOORS, information: triangle(referenceInformation()), blur: 0,
      trust: trustOf(FLOORS, 1, width), evidence: { [texture ? 'texture' : 'edges']: 1 }, reason: null,
    };
  }

  /** Reference frame to frame as the picture shows them, from the corners there. */
  private delivered(corners: Quad): readonly number[] {
    return normaliseHomography(quadToQuad(this.setup.pin, corners), perspectiveCentre(this.setup.pin));
  }

  /** Where the corners would be if the last movement went on; sigma in px grows with speed and time lost. */
  private expectation(frame: number): Expectation {
    const [last, before] = this.found;
    const ahead = Math.abs(frame - last!.frame);
    if (!before) return { corners: last!.corners, sigma: 12 + 12 * ahead, speed: 0 };
    const rate = Math.min(ahead, 3) / Math.max(1, Math.abs(last!.frame - before.frame));
    const corners = last!.corners.map(([x, y], i): Point => [
      x + rate * (x - before.corners[i]![0]), y + rate * (y - before.corners[i]![1]),
    ]) as unknown as Quad;
    const speed = Math.max(...last!.corners.map((p, i) => distance(p, before.corners[i]!)));
    const usable = isConvex(corners) && signedArea(corners) * signedArea(last!.corners) > 0;
    return { corners: usable ? corners : last!.corners, sigma: (4 + 2 * this.surprise + 0.25 * speed) * (1 + this.lost), speed };
  }

  private smearAt(frame: number, corners: Quad): Smear {
    const before: Quad[] = [];
    for (const [i, f] of this.found.entries()) {
      if (Math.abs(frame - f.frame) !== i + 1) break;
      before.push(f.corners);
    }
    return before.length === 0 ? NO_SMEAR : smearOf(corners, velocityAt(corners, before), this.shutterEstimate.share);
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

  private pyramidFor(luma: RawLuma, h: Matrix3, margin: number, levels = levelsFor(this.region.core)): Pyramid {
    const mapped = boundsOf([...this.region.follow.flat(), ...this.pin, ...(this.region.surroundings ?? [])].map((p) => mapPoint(h, p)));
    const window = { x0: mapped.x0 - margin, y0: mapped.y0 - margin, x1: mapped.x1 + margin, y1: mapped.y1 + margin };
    const whole = !Object.values(window).every(Number.isFinite);
    return buildPyramid(luma, levels, whole ? undefined : window, this.lens);
  }

  /** The quad of `h` when a screen can look like that after where it was last, else null. */
  private plausible(h: Matrix3): Quad | null {
    const { pin } = this;
    if (!h.every(Number.isFinite) || !pin.every((p) => h[6]! * p[0] + h[7]! * p[1] + h[8]! > 0)) return null;
    const corners = mapQuad(h, pin), area = signedArea(corners) / signedArea(this.found[0]!.corners), change = 2.5 ** (1 + 0.3 * Math.min(this.lost, 6));
    return isConvex(corners) && area > 1 / change && area < change ? corners : null;
  }

  /** What the lens and a stiff screen allow, for equations whose map to px of level 0 is that of `scale` times smaller px. */
  private rigidPrior(speed: number, scale = 1): ((eq: Equations, h: Matrix3, u: readonly number[], v: readonly number[]) => void) | undefined {
    const { rigid } = this;
    if (!rigid || !this.open || this.setup.motion !== 'perspective') return undefined;
    return (eq, h, u, v) => addRigid(eq, rigid, scale === 1 ? h : h.map((x, i) => (i < 6 ? x * scale : x)), u, v, speed);
  }

  private align(frame: number, h: Hypothesis, start: Matrix3, edges: EdgeFit | null, coarsest: number, slipLimit: number | undefined, noise: number): { alignment: Alignment; homography: number[]; key: KeyPicture; smear: Smear } | null {
    if (!this.usesTexture) return null;
    const { pin } = this, { motion } = this.setup, key = this.keyFor(start), fromKey = multiply(start, inverse(key.homography)), { template } = key, prior = this.rigidPrior(h.expected.speed);
    let smear = this.smearAt(frame, mapQuad(start, pin)), from = fromKey, level = coarsest;
    for (let again = 0; ; again++) {
      const used = smear.length > SMEAR ? blurTemplate(template, level, smear.inTemplate(from)) : template;
      const alignment = alignTexture(used, h.pyramid, from, {
        motion, frameNoise: noise, trust: this.probation.trust, proven: this.probation.proven, pin: mapQuad(key.homography, pin),
        expected: h.expected.corners, expectedSigma: h.expected.sigma, coarsest: level, floor: key.sigma.map((s) => Math.hypot(FLOOR, s)),
        ...(slipLimit === undefined ? {} : { slipLimit }), ...(prior ? { prior } : {}),
        ...(edges ? { other: edgesAsEvidence(edges.hits, edges.terms, (p) => {
          const q = mapPoint(key.homography, p);
          return [(q[0] - template.centre[0]) / template.halfSize, (q[1] - template.centre[1]) / template.halfSize];
        }) } : {}),
      });
      if (!alignment) return null;
      const homography = normaliseHomography(multiply(alignment.homography, key.homography), this.centre), corners = this.plausible(homography);
      if (!corners) return null;
      const better = this.smearAt(frame, corners);
      if (again > 0 || Math.max(better.length, smear.length) < SMEAR || Math.abs(better.length - smear.length) < Math.max(SMEAR, SMEAR_CHANGE * smear.length)) return { alignment, homography, key, smear };
      [smear, from, level] = [better, alignment.homography, Math.max(1, Math.ceil(Math.log2(better.length / 3)))];
    }
  }

  /** Edges around one start; wide searches look at a smaller picture first. */
  private edgesFrom(n: number, h: Hypothesis, start: Matrix3, expected: Expectation, reach: number, level = 0): EdgeFit | null {
    const { pyramid } = h;
    const k = 1 << level, image = pyramid[level];
    if (!image || this.rails.length === 0) return null;
    const smear = this.smearAt(n, mapQuad(start, this.pin)), prior = this.rigidPrior(expected.speed, k);
    const fit = fitEdges(this.rails, image, level === 0 ? start : multiply(scaling(1 / k), start), {
      pin: this.pin, motion: this.setup.motion, expected: expected.corners.map(([x, y]): Point => [x / k, y / k]) as unknown as Quad, expectedSigma: expected.sigma / k,
      spread: this.railSpread, reach, blur: (p) => {
        const [x, y] = smear.inFrame([p[0] * k, p[1] * k]);
        return [x / k, y / k];
      }, floor: FLOORS, ...(prior ? { prior } : {}),
    });
    if (!fit || level === 0) return fit;
    const up = multiply(scaling(k), fit.homography);
    return fit.found > LEAST_FOUND && this.plausible(up) ? this.edgesFrom(n, h, up, expected, 3) : null;
  }

  /** Of the least known corner, px, with what the lens and stiffness add. */
  private edgeSigma(e: EdgeFit, { expected }: Hypothesis): number {
    const information = e.information.slice();
    if (this.open && this.rigid && this.setup.motion === 'perspective') addRigidInformation(information, this.rigid, mapQuad(e.homography, this.pin), expected.speed);
    return Math.max(...cornerSigmas(information, expected.sigma));
  }

  private carries(e: EdgeFit | null): e is EdgeFit {
    return e !== null && e.sides >= LEAST_SIDES && e.found >= LEAST_FOUND && this.plausible(e.homography) !== null;
  }

  /** Edges first, since they belong to the plane for certain; then the picture, judged by them; then both together. */
  private test(n: number, h: Hypothesis, noise: number): Found | null {
    let edges = h.pictureFirst ? null : this.edgesFrom(n, h, h.start, h.expected, h.reach, h.edgeLevel);
    const carried = this.carries(edges);
    if (edges && !carried && edges.found < 0.25) edges = null;
    const sure = carried ? this.edgeSigma(edges!, h) : Infinity, slip = sure < JUDGES ? SLIP + 3 * sure : undefined;
    let a = this.align(n, h, carried ? edges!.homography : h.start, edges, carried && slip !== undefined && slip < 2 ? 1 : h.coarsest, slip, noise);
    if (a && !carried && this.rails.length > 0) {
      const better = this.edgesFrom(n, h, a.homography, { ...h.expected, corners: mapQuad(a.homography, this.pin), sigma: 3 }, 2);
      if (better && better.found > 0.3 && better.found > (edges?.found ?? 0)) {
        edges = better;
        a = this.align(n, h, a.homography, edges, 0, undefined, noise) ?? a;
      }
    }
    // Cells that pull the corners farther than sure edges allow show something else that moves nearly like the screen.
    const pulled = a && sure < JUDGES ? Math.max(...mapQuad(a.homography, this.pin).map((p, i) => distance(p, mapQuad(edges!.homography, this.pin)[i]!))) : 0;
    const own = a && a.alignment.agreeing >= LEAST_AGREEING && pulled < 0.5 + 3 * sure ? a : null, homography = own?.homography ?? (this.carries(edges) ? edges.homography : a?.homography);
    if (!homography) return null;
    const corners = this.plausible(homography);
    if (!corners) return null;
    const information = own || !edges ? a!.alignment.information.slice() : edges.information.slice();
    const freeSigma = Math.max(...cornerSigmas(information, 50));
    if (this.open && this.rigid && this.setup.motion === 'perspective') addRigidInformation(information, this.rigid, corners, h.expected.speed);
    const alignment = own?.alignment ?? (this.carries(edges) ? null : a!.alignment), fitting = this.carries(edges) ? edges : null;
    const support = Math.max(alignment?.support ?? 0, fitting ? fitting.found : 0);
    const score = (alignment ? alignment.support * Math.min(alignment.agreeing, 40) / 40 : 0) + (edges ? 1.5 * edges.found * (0.3 + 0.7 * edges.alike) * edges.sides / 4 : 0);
    const found = { homography, corners, information, alignment, key: a?.key ?? this.keyFor(homography), edges, edgeSigma: fitting ? this.edgeSigma(fitting, h) : Infinity, smear: own?.smear ?? this.smearAt(n, corners), support, score, freeSigma };
    return { ...found, reason: this.whyNot(found) };
  }

  private whyNot(f: Omit<Found, 'reason'>): string | null {
    const sigma = Math.sqrt(cornerSigmas(f.information, 100).reduce((s, v) => s + v * v, 0) / 4) * (1920 / this.width);
    const unknown = `The corners are known only to ${sigma.toFixed(0)} px; too little agreeing picture is left`;
    if (this.carries(f.edges)) return sigma > 24 ? unknown : null;
    if (!f.alignment) return 'The edges of the glass are covered, blurred or outside the picture';
    const { support, agreeing, visible } = f.alignment, smeared = f.smear.length > 12 ? `; a blur of ${f.smear.length.toFixed(0)} px hides the rest` : '';
    if (visible < 0.12) return `Only ${percent(visible)} of the followed picture is inside the frame`;
    if (support < LEAST_SUPPORT || agreeing < LEAST_AGREEING) return `${percent(1 - support)} of the visible cells are covered or changed${smeared}`;
    if (f.alignment.sensors.level.level >= 2 && support < COARSE_SUPPORT) return `The picture agrees only roughly; it may be blurred beyond use${smeared}`;
    return sigma > 8 ? unknown : null;
  }

  /** Follows into frame `n`, which must be the next one in the run's direction. */
  step(n: number, luma: RawLuma): FrameResult {
    if (this.setup.motion === 'still') return { ...this.referenceResult(luma.width), frame: n };
    const expected = this.expectation(n), forecast = quadToQuad(this.pin, expected.corners), found = this.bestOf(n, luma, forecast, expected);
    if (!found || found.reason || (this.lost > 0 && !this.sure(found))) {
      this.lost++;
      this.open = true;
      const wide = (2 + expected.sigma) * Math.sqrt(1 + this.lost), reason = found ? (found.reason ?? 'What was found again is too little to be sure of') : 'Nothing in the picture matches what the screen looked like';
      return { frame: n, homography: null, lens: this.lens.radial, sigma: [wide, wide, wide, wide], information: [], blur: this.smearAt(n, expected.corners).length, trust: 0, evidence: {}, reason: `${reason}.` };
    }
    const corners = this.bowed(found.corners), lens = this.lens.radial;
    this.remember(n, luma, found, Math.max(...found.corners.map((p, i) => distance(p, expected.corners[i]!))));
    const sigma = cornerSigmas(found.information, expected.sigma), texture = found.alignment?.shares.texture ?? 0, edges = found.alignment ? found.alignment.shares.edges : 1;
    return {
      frame: n, homography: this.delivered(corners), lens, sigma, information: triangle(found.information), blur: found.smear.length, trust: trustOf(sigma, found.support, luma.width),
      evidence: edges === 0 ? { texture: 1 } : texture === 0 ? { edges: 1 } : { texture: texture / (texture + edges), edges: edges / (texture + edges) }, reason: null,
    };
  }

  /**
   * Tries starting points from the likeliest to the most far-fetched and stops at the first that most of what can be seen
   * agrees with: the forecast, the picture alone when it disagrees with the edges, the last position, wide searches.
   */
  private bestOf(n: number, luma: RawLuma, forecast: Matrix3, expected: Expectation): Found | null {
    let best = null as Found | null, noise = 1;
    const tryOut = (h: Hypothesis): boolean => {
      const f = this.test(n, h, noise);
      if (f && (!best || (best.reason !== null && f.reason === null) || ((f.reason === null) === (best.reason === null) && f.score > best.score + 0.05))) best = f;
      return best !== null && best.reason === null && this.sure(best) && (this.lost === 0 || best.support > FOUND_AGAIN);
    };
    const steady = this.lost === 0 && this.surprise < STEADY, size = scaleAt(forecast, this.centre), few = Math.min(levelsFor(this.region.core), 2 + Math.max(0, Math.ceil(Math.log2(size))));
    const first = steady ? this.pyramidFor(luma, forecast, 24 + 2 * expected.sigma, few) : null;
    if (first) {
      noise = estimateNoise(first[0]!, 4000);
      if (tryOut({ pyramid: first, start: forecast, expected, reach: 1.5 + this.surprise, coarsest: 1 })) return best;
    }
    const pyramid = this.pyramidFor(luma, forecast, 40 + expected.sigma);
    noise = estimateNoise(pyramid[0]!, 4000);
    const near: Hypothesis = { pyramid, start: forecast, expected, reach: Math.min(14, Math.max(4, 0.5 * expected.sigma)), coarsest: Infinity };
    if (!steady && this.lost === 0 && near.reach > 5 && tryOut({ ...near, reach: 4 })) return best;
    if (tryOut(near)) return best;
    if (this.rails.length > 0 && this.usesTexture && tryOut({ ...near, pictureFirst: true })) return best;
    const last = quadToQuad(this.pin, this.found[0]!.corners), radius = Math.min(64 * (1 + this.lost), 0.3 * luma.width), wide = this.pyramidFor(luma, last, 40 + radius);
    const at = (start: Matrix3): Hypothesis => ({ pyramid: wide, start, expected: { ...expected, corners: mapQuad(start, this.pin), sigma: 24 }, reach: 8, coarsest: Infinity });
    if (this.usesTexture) {
      const key = this.keyFor(last), shifted = searchShift(key.template, wide, multiply(last, inverse(key.homography)), radius);
      if (shifted && shifted.score > 0.4) {
        const there = at(multiply(shifted.homography, key.homography));
        if (tryOut({ ...there, pictureFirst: this.rails.length > 0 }) || tryOut(there)) return best;
      }
    }
    if (tryOut(at(last))) return best;
    for (const edgeLevel of this.rails.length > 0 ? [1, 2] : [])
      if (tryOut({ ...at(forecast), expected: { ...expected, sigma: Math.max(expected.sigma, 30) }, reach: 12, edgeLevel })) return best;
    return best;
  }

  private sure(f: Found): boolean {
    const { edges: e, alignment: a } = f, picture = a !== null && a.support >= SURE_SUPPORT && a.agreeing >= 12;
    if (!e) return picture && (this.rails.length === 0 || a.support > 0.8);
    const found = e.sides === Math.min(e.available, this.sides) && e.found > SURE_FOUND && e.alike > SURE_ALIKE;
    if (!found) return picture && a.support > 0.7 && a.agreeing > 30 && e.found > LEAST_FOUND;
    return e.sides >= LEAST_SIDES ? picture || f.edgeSigma < SURE_SIGMA * (this.width / 1920) || !this.hasPicture : picture;
  }

  /** Fast, well-supported frames are looked at with each of several smears. */
  private learnShutter(n: number, f: Found, luma: RawLuma): void {
    const [last] = this.found;
    if (!f.alignment || this.shutter.frames >= SHUTTER_FRAMES || Math.abs(n - last!.frame) !== 1 || f.alignment.support < 0.5) return;
    const velocity = velocityAt(f.corners, this.found.slice(0, 3).map((p) => p.corners)), speed = Math.max(...velocity.map((v) => Math.hypot(v[0], v[1])));
    if (speed < SHUTTER_SPEED[0] || speed > SHUTTER_SPEED[1]) return;
    const { key } = f, fromKey = multiply(f.homography, inverse(key.homography)), pyramid = this.pyramidFor(luma, f.homography, 16, 2);
    const agreement = SHUTTERS.map((share) => {
      const template = share === 0 ? key.template : blurTemplate(key.template, 1, smearOf(f.corners, velocity, share).inTemplate(fromKey));
      const a = alignTexture(template, pyramid, fromKey, {
        motion: 'still', frameNoise: 1, trust: this.probation.trust, proven: this.probation.proven, pin: mapQuad(key.homography, this.pin), expected: f.corners, expectedSigma: 1, coarsest: 1, floor: FLOORS,
      });
      if (!a) return 0;
      let sum = 0, count = 0;
      for (const r of a.sensors.correlation) if (r > 0) [sum, count] = [sum + r, count + 1];
      return count > 0 ? sum / count : 0;
    });
    this.shutter = { agreement: this.shutter.agreement.map((v, i) => v + agreement[i]!), frames: this.shutter.frames + 1 };
  }

  private nearView(corners: Quad): boolean {
    return this.views.some((v) => v.corners.every((p, i) => distance(p, corners[i]!) < VIEW_SPACING * this.width));
  }

  private addView(corners: Quad, information: Float64Array, blur: number): void {
    const sigma = Math.max(...cornerSigmas(information, 50)) * (1920 / this.width);
    if (this.nearView(corners) || blur > 6 || sigma > VIEW_SIGMA || this.views.length >= MOST_VIEWS) return;
    this.views.push({ corners, information: triangle(information) });
    this.learnRigid();
  }

  private learnRigid(): void {
    if (this.setup.motion === 'perspective') this.rigid = calibrate(this.views.map((v) => ({ corners: v.corners, information: fromTriangle(v.information) })), this.width, this.height);
  }

  private remember(n: number, luma: RawLuma, f: Found, surprise: number): void {
    const sigma = Math.max(...cornerSigmas(f.information, 50));
    if (f.alignment) this.probation.judge(f.alignment, f.key, f.homography, sigma);
    if (f.edges) updateSpread(this.railSpread, this.rails, f.edges, f.edges.sides === 4 ? f.edges.homography : f.homography, this.pin, this.setup.motion);
    if (f.smear.length > 0 && f.alignment) this.learnShutter(n, f, luma);
    const consecutive = Math.abs(n - this.found[0]!.frame) === 1;
    const moved = consecutive ? Math.max(...f.corners.map((p, i) => distance(p, this.found[0]!.corners[i]!))) : Infinity;
    this.found = [{ frame: n, corners: f.corners }, ...(consecutive ? this.found : [])].slice(0, 3);
    this.lost = 0;
    this.open = f.freeSigma * (1920 / this.width) > OPEN_SIGMA;
    this.surprise += SURPRISE_RATE * (Math.min(surprise, 40) - this.surprise);
    if (f.edges?.sides === 4 || (f.alignment?.support ?? 0) > 0.6) this.addView(f.corners, f.information, f.smear.length);
    if (f.alignment && f.alignment.support >= 0.6 && moved <= 24 && sigma <= 1) this.addKey(n, luma, f);
    this.learnFromBow(f);
  }

  private learnFromBow(f: Found): void {
    if (this.setup.lens !== undefined || this.setup.motion !== 'perspective' || !f.edges || f.smear.length > SHARP) return;
    this.lensMemory = learnLens(this.lensMemory, f.edges, distance(this.pin[0], this.pin[2]) / 2, this.centre, this.lens);
    const better = betterLens(this.lensMemory, this.lens);
    if (better !== null) this.changeLens(better);
  }

  private addKey(n: number, luma: RawLuma, f: Found): void {
    const nearest = Math.min(...this.keys.map((k) => viewDifference(k.homography, f.homography, this.centre)));
    if (nearest > NEW_KEY && scaleAt(f.homography, this.centre) > 0.3)
      this.keys.push(this.keyPicture(n, luma, f.homography, cornerSigmas(f.information, 10)));
  }
}

/** Mean grey under which glass is taken for dark: what is seen in it may be a mirror image. */
const DARK = 56;

function referenceInformation(): Float64Array {
  const out = new Float64Array(64);
  for (let i = 0; i < 8; i++) out[i * 9] = 1 / (FLOOR * FLOOR);
  return out;
}
