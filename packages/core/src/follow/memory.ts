/**
 * What a follower remembers from frame to frame. It changes in few places, each of them a frame that was taken, given up
 * or placed by hand; while a frame is solved it only tells ({@link FollowerMemory.contextOf}).
 */
import { cornerSigmas, everywhere } from '../geometry/corner-information';
import { distort } from '../geometry/lens';
import { IDENTITY } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { farthest } from '../geometry/quad';
import type { RawLuma } from '../image/image';
import { learnRails } from './memory/rail-learning';
import { Stiffness } from '../solve/stiffness';
import type { FollowSetup, FollowerState } from './memory/follower-state';
import type { FrameContext } from './memory/frame-context';
import { FLOOR, pictureScale } from './memory/frame-context';
import { Doubts } from './memory/doubts';
import { followedOn } from './outline/outlines';
import { Path } from './memory/path';
import { RowTimes } from './memory/row-times';
import type { ShutterMemory } from './timing/shutter';
import { COMMON_SHUTTER, NO_SHUTTER_MEMORY, fastest, shutterOf, tellsShutter } from './timing/shutter';
import { learnShutter } from './frame/shutter-learning';
import type { SideLooks } from './edges/side-looks';
import { firstLooks, foreshortening, learnLooks, seenAcross } from './edges/side-looks';
import { Sight } from './memory/sight';
import type { ShownMemory } from './frame/shown-picture';
import { NOTHING_SHOWN, isWorthKeeping, learnShown } from './frame/shown-picture';
import { softnessOf } from './frame/softness-learning';
import type { SpotSight } from './spots/spot-evidence';
import type { Found } from './evidence/verdict';
import { agreesWell } from './evidence/verdict';

const MEMORY = {
  /** px at 1920 wide; corners less known than this by evidence alone call for what a stiff screen allows. By trial. */
  openSigma: 0.4,
  /** Share a frame by which it is forgotten how far the picture carried. By trial. */
  picturedRate: 0.3,
  /** px; edges that know the corners this well judge the cells, and teach what lies across the sides. By trial. */
  judges: 2,
  /** px; edges smeared by no more than this tell of the lens's bow. By trial. */
  sharp: 8,
  /** px; views smeared by no more tell of its focal length. By trial. */
  mostBlur: 6,
  /** Share of the cells' weight that must agree for a picture alone to tell of it. By trial. */
  support: 0.6,
  /** px a frame at 1920 wide by which the second step from the reference is longer where movement begins there. By trial. */
  begins: 6,
  /** px; and at least: less may be the error of both. By trial. */
  leastBegins: 2.5,
  /** Share of probability from which a frame teaches what lies across the sides. By trial. */
  certain: 0.9,
  /** Trust of what a first run found from which it may be where the Screen is. By trial. */
  earlier: 0.1,
  /** Share of its edges that must be found for that: what covers them teaches nothing. By trial. */
  whole: 0.8,
  /** px; smear up to which it does. By trial. */
  plain: 3,
} as const;

/** What a frame that is taken is known by, beside what was found. */
export interface Taken {
  /** sigma per corner with all that the model leaves out, px */
  readonly told: readonly number[];
  /** px that it lay from where it was expected */
  readonly surprise: number;
  /** a side may be its neighbour's line */
  readonly isBent: boolean;
  /** how it would lie behind another lens, see `lens-response.ts`; null where it is not told */
  readonly response: readonly number[] | null;
}

/** What a follower knows after the frames that it saw. */
export class FollowerMemory {
  readonly sight: Sight;
  readonly path: Path;
  readonly rows: RowTimes;
  private readonly stiffness: Stiffness;
  private readonly earlier: ReadonlyMap<number, Quad>;
  private shutter: ShutterMemory;
  private open = false;
  private pictured = 1;
  private support = 0;
  private softness = 0;
  private looks: SideLooks;
  private glass: ShownMemory = NOTHING_SHOWN;
  readonly doubts: Doubts;

  constructor(
    private readonly setup: FollowSetup,
    private readonly referenceFrame: number,
    reference: RawLuma,
  ) {
    this.shutter = setup.shutter ?? NO_SHUTTER_MEMORY;
    this.stiffness = new Stiffness(reference.width, reference.height);
    this.sight = new Sight(setup, referenceFrame, reference);
    const { sight } = this;
    this.path = new Path(
      referenceFrame,
      sight.pin,
      new Map((setup.way ?? []).map((f) => [f.frame, sight.straight(f.corners)])),
      setup.isSteadied,
    );
    this.earlier = new Map(
      (setup.way ?? []).filter((f) => (f.trust ?? 1) > MEMORY.earlier).map((f) => [f.frame, sight.straight(f.corners)]),
    );
    this.rows = new RowTimes(sight, this.path, setup);
    this.doubts = new Doubts({ frame: referenceFrame, corners: sight.pin });
    this.looks = firstLooks(
      seenAcross(sight.pyramidFor(reference, IDENTITY, 40, 1)[0]!, sight.pin, IDENTITY),
      [0, 1, 2, 3].map((side) =>
        Math.max(0, ...sight.rails.filter((r) => r.side === side).map((r) => r.offset + r.look.outside)),
      ),
    );
    if (setup.way) sight.referenceVelocity = this.path.velocityOf(referenceFrame, sight.pin);
    if (setup.motion === 'perspective') this.stiffness.add(sight.pin, everywhere(FLOOR));
  }

  get state(): Omit<FollowerState, 'spots' | 'last'> {
    const { path, sight } = this;
    return {
      found: path.found,
      lost: path.lost,
      gap: path.gap,
      ...this.doubts.state,
      surprise: path.surprise,
      repeated: path.repeated,
      hasRepeats: path.hasRepeats,
      open: this.open,
      pictured: this.pictured,
      support: this.support,
      softness: this.softness,
      ...sight.probation.state,
      railSpread: [...sight.railSpread],
      shutter: this.shutter,
      views: this.stiffness.views,
      looks: this.looks,
      glass: this.glass,
      spans: sight.remembered.spans,
      lens: sight.lensState,
      readout: this.rows.memory,
      keys: sight.keys.map(({ template: _template, luma: _luma, ...known }) => known),
    };
  }

  /** Takes up a stored memory; `luma` gives the frames of its key pictures. */
  async restore(state: FollowerState, luma: (frame: number) => Promise<RawLuma>): Promise<void> {
    const { sight } = this;
    sight.restoreLens(state.lens);
    this.path.restore(state);
    this.doubts.restore(state);
    this.open = state.open;
    this.pictured = state.pictured;
    this.support = state.support;
    this.softness = state.softness;
    sight.probation.restore(state);
    sight.railSpread.set(state.railSpread);
    this.shutter = state.shutter;
    this.rows.memory = state.readout;
    this.stiffness.views = [...state.views];
    this.looks = state.looks ?? this.looks;
    sight.referenceVelocity = state.keys[0]!.velocity;
    this.glass = state.glass ?? NOTHING_SHOWN;
    sight.remembered.spans = state.spans ?? [];
    for (const k of state.keys.slice(1)) sight.remembered.add({ ...k, luma: await luma(k.frame), kept: k });
  }

  /** Share of a frame's time that the shutter is open, and how many fast frames said so. */
  get shutterEstimate(): { readonly share: number; readonly frames: number } {
    return { share: shutterOf(this.shutter) ?? COMMON_SHUTTER, frames: this.shutter.frames };
  }

  /** Whether frames between others have told of the shutter: no other frame tells more. */
  get knowsShutter(): boolean {
    return this.shutter.isBetween === true;
  }

  /** Takes what frames between others told of the shutter, where they told it. */
  knowShutter(told: ShutterMemory): void {
    if (tellsShutter(told)) this.shutter = { ...told, isBetween: true };
  }

  /** Focal length in picture widths, once enough views have told it. */
  get focal(): number | null {
    return this.stiffness.rigid?.focal ?? null;
  }

  /** What frame `n` is followed with. */
  contextOf(n: number, spotted: readonly SpotSight[]): FrameContext {
    const { setup, sight, path, rows } = this;
    const expected = path.expectation(n);
    return {
      frame: n,
      motion: setup.motion,
      levels: setup.levels,
      usesTexture: setup.evidence.includes('texture'),
      sight,
      path,
      rows,
      expected,
      shutter: this.shutterEstimate.share,
      rigid: setup.motion === 'perspective' ? this.stiffness.rigid : null,
      views: this.stiffness.views.map((q) => q.corners),
      looks: this.looks,
      softness: this.softness,
      isAstray: this.doubts.isAstray,
      earlier: this.earlier.get(n) ?? null,
      pictured: this.pictured,
      support: this.support,
      followed: followedOn(setup, [n, this.referenceFrame], sight.toPlane(expected.corners)),
      spotted,
      spread: sight.railSpread,
      leansOnStiffness: this.open,
      isStopped: false,
    };
  }

  /** A frame was given up. */
  lose(): void {
    this.path.lost++;
    this.open = true;
    this.softness = 0;
  }

  /** A frame was taken. @param c what it was followed with */
  remember(c: FrameContext, luma: RawLuma, f: Found, taken: Taken): void {
    const { frame: n } = c;
    const { sight, path, setup } = this;
    const velocity = path.velocityOf(n, f.corners);
    this.learnDevice(f, taken.isBent, fastest(velocity));
    const isNext = path.follows(n);
    const begins = Math.max(MEMORY.leastBegins, MEMORY.begins * pictureScale(c));
    const ofReference = setup.way ? null : path.velocityOfFirst(this.referenceFrame, n, f.corners, begins);
    if (ofReference) sight.referenceVelocity = ofReference;
    if (!f.stopped && isNext)
      this.shutter = learnShutter(
        this.shutter,
        c,
        f,
        path.found.map((q) => q.corners),
        () => sight.pyramidFor(luma, f.homography, 16, 2),
      );
    if (!f.stopped) this.rows.learn(n, f);
    const moved = isNext ? farthest(f.corners, path.last.corners) : Infinity;
    path.takeUp(n, f.corners);
    path.surprised(taken.surprise);
    this.open = f.freeSigma / pictureScale(c) > MEMORY.openSigma;
    this.support += MEMORY.picturedRate * ((f.alignment?.support ?? 0) - this.support);
    this.pictured += MEMORY.picturedRate * ((agreesWell(f.alignment) ? 1 : 0) - this.pictured);
    this.learnView(f, taken.isBent);
    const kept = { sigma: taken.told, velocity, response: taken.response };
    this.glass = learnShown(this.glass, c, luma, f, velocity);
    const view = { frame: n, luma, homography: f.homography, kept };
    if (setup.keyFrames?.includes(n)) sight.remembered.add(view);
    else if (isWorthKeeping(f, moved)) sight.remembered.addView(view, sight.centre);
    this.learnBow(f);
    this.softness = softnessOf(this.contextOf(n, c.spotted), luma, f);
  }

  /** What lies across the sides, which cells belong to the plane, how far each rail keeps to it. */
  private learnDevice(f: Found, isBent: boolean, speed: number): void {
    const { sight } = this;
    const sigma = Math.max(...cornerSigmas(f.information, 50));
    const isPlain = !isBent && f.certainty > MEMORY.certain && f.smear.length < MEMORY.plain;
    const isWhole = f.edges !== null && f.edges.sides === f.edges.available && f.edges.found > MEMORY.whole;
    if (f.across && isPlain && isWhole && sigma < MEMORY.judges)
      this.looks = learnLooks(this.looks, f.across, foreshortening(sight.pin, f.homography));
    if (f.alignment) sight.probation.judge(f.alignment, f.key, f.homography, sigma);
    learnRails(sight, f, { motion: this.setup.motion, speed, knowsRows: this.rows.isKnown });
  }

  private learnView(f: Found, isBent: boolean): void {
    if (this.setup.motion !== 'perspective' || isBent || f.smear.length > MEMORY.mostBlur) return;
    if (f.edges?.sides === 4 || (f.alignment?.support ?? 0) > MEMORY.support)
      this.stiffness.add(f.corners, f.information);
  }

  private learnBow(f: Found): void {
    const { sight, path, stiffness } = this;
    const behind = sight.lens;
    if (this.setup.lens !== undefined || this.setup.motion !== 'perspective' || f.smear.length > MEMORY.sharp) return;
    const moved = sight.learnLens(f.edges, f.alignment && { alignment: f.alignment, key: f.key }, [
      ...path.found.map((q) => q.corners),
      ...stiffness.views.map((q) => q.corners),
    ]);
    if (!moved) return;
    this.doubts.move((q) => sight.straight(q.map((p) => distort(behind, p)) as unknown as Quad));
    const count = path.found.length;
    path.found = path.found.map((q, i) => ({ ...q, corners: moved[i]! }));
    stiffness.views = stiffness.views.map((q, i) => ({ ...q, corners: moved[count + i]! }));
  }
}
