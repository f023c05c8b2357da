/**
 * The way of a Screen so far: where it was last, where it should be next, and how fast it moves while the shutter is
 * open.
 */
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { farthest, isConvex, signedArea } from '../../geometry/quad';
import type { FollowerState } from './follower-state';
import type { Smear } from '../timing/shutter';
import { NO_SMEAR, smearOf, velocityAt } from '../timing/shutter';
import type { Expectation } from '../evidence/verdict';

const PATH = {
  /** px; surprise before anything was followed: the first step may be any. By trial. */
  firstSurprise: 12,
  /** px; one wild frame may not open the search for good. By trial. */
  mostSurprise: 40,
  /** Share of the surprise that each frame brings anew: how fast it is forgotten. By trial. */
  rate: 0.4,
  /** px; movement whose surprise stays below this counts as steady. By trial. */
  steady: 6,
  /** px; sigma of the expectation that always remains. By trial. */
  always: 0.5,
  /** px of sigma a px of surprise. By trial. */
  perSurprise: 1.5,
  /** px of sigma a px of speed: fast things change their speed more. By trial. */
  perSpeed: 0.25,
  /** px of sigma a frame, before any movement was seen. By trial. */
  unseen: 12,
  /** Frames; position, speed and change of speed take three. */
  kept: 3,
  /** Times the step before; a step this long after a repeated frame is that of two frames. By trial. */
  doubled: 1.5,
} as const;

/** A stretch of lost frames and those found beyond it, each nearest to the stretch's far end first. */
export interface Gap {
  readonly beyond: FollowerState['found'];
  readonly lost: readonly number[];
}

/** Where the Screen was, and from that where it should be next; corners in ideal px. */
export class Path {
  /** the last frames found, newest first */
  found: FollowerState['found'];
  /** frames since the screen was last found */
  lost = 0;
  /** see {@link FollowerState} */
  gap: number | null = null;
  /** the last frame showed the same picture as the one before it */
  repeated = false;
  /** see {@link FollowerState} */
  hasRepeats = false;
  /** how far frames lately lay from where they were expected, px */
  surprise: number = PATH.firstSurprise;
  /** frames of the way by the time that passes, and the way by that */
  private readonly counts: ReadonlyMap<number, number>;
  private readonly byCount: ReadonlyMap<number, Quad>;

  /**
   * @param way corners of frames that a first run found
   * @param isSteadied they are where the Screen is expected
   */
  constructor(
    frame: number,
    corners: Quad,
    private readonly way: ReadonlyMap<number, Quad> = new Map(),
    private readonly isSteadied = false,
  ) {
    this.found = [{ frame, corners }];
    this.counts = this.countedWay();
    this.byCount = new Map([...this.counts].map(([n, count]) => [count, way.get(n)!]));
  }

  get last(): FollowerState['found'][number] {
    return this.found[0]!;
  }

  get steady(): boolean {
    return this.lost === 0 && this.surprise < PATH.steady;
  }

  follows(n: number): boolean {
    return Math.abs(n - this.last.frame) === 1;
  }

  /** Where the corners would be if the last movement went on; sigma in px grows with speed and time lost. */
  expectation(frame: number): Expectation {
    const known = this.isSteadied ? this.way.get(frame) : undefined;
    if (known) return { corners: known, sigma: this.uncertain, speed: this.speedOnWay(frame) };
    const [last, before] = this.found;
    const ahead = Math.abs(frame - last!.frame);
    if (!before) return { corners: last!.corners, sigma: PATH.unseen + PATH.unseen * ahead, speed: 0 };
    const rate = Math.min(ahead, 3) / Math.max(1, Math.abs(last!.frame - before.frame));
    const corners = last!.corners.map(([x, y], i): Point => [
      x + rate * (x - before.corners[i]![0]),
      y + rate * (y - before.corners[i]![1]),
    ]) as unknown as Quad;
    const speed = Math.max(...last!.corners.map((p, i) => distance(p, before.corners[i]!)));
    const usable = isConvex(corners) && signedArea(corners) * signedArea(last!.corners) > 0;
    return {
      corners: usable ? corners : last!.corners,
      sigma: (this.uncertain + (this.repeated ? 1 : PATH.perSpeed) * speed) * (1 + this.lost),
      speed,
    };
  }

  /** px; how far a frame may lie from where it is expected, whatever its speed. */
  private get uncertain(): number {
    return PATH.always + PATH.perSurprise * this.surprise;
  }

  /** px a frame, of the fastest corner; 0 where the way does not tell. */
  private speedOnWay(frame: number): number {
    return Math.max(0, ...(this.velocityOnWay(frame) ?? []).map(([x, y]) => Math.hypot(x, y)));
  }

  /** Of corners on `frame`, px a frame; empty when the frame before was lost. */
  velocityOf(frame: number, corners: Quad): readonly Point[] {
    const known = this.way.size > 0 ? this.velocityOnWay(frame) : null;
    if (known) return known;
    const before: Quad[] = [];
    for (const [i, f] of this.before(corners).entries()) {
      if (Math.abs(frame - f.frame) !== i + 1) break;
      before.push(f.corners);
    }
    return before.length === 0 ? [] : velocityAt(corners, before);
  }

  /**
   * How fast the frame that a run began at moved itself, px a frame: by the first step after it; where the second is longer by
   * more than `begins` px, movement had hardly begun, and both tell, as if it grew evenly.
   * @returns null where a frame tells nothing more
   */
  velocityOfFirst(first: number, frame: number, corners: Quad, begins: number): readonly Point[] | null {
    const [last, before] = this.found;
    if (!this.follows(frame)) return null;
    if (last!.frame === first) return this.velocityOf(frame, corners);
    if (before?.frame !== first || Math.abs(last!.frame - first) !== 1) return null;
    const step = farthest(last!.corners, before.corners);
    if (farthest(corners, last!.corners) < step + begins) return null;
    return before.corners.map((p, i): Point => {
      const along = (axis: 0 | 1): number =>
        1.5 * (last!.corners[i]![axis] - p[axis]) - 0.5 * (corners[i]![axis] - last!.corners[i]![axis]);
      return [along(0), along(1)];
    });
  }

  /** Counts a way's frames by the time that passes: none does where a frame shows the picture of the one before it again. */
  private countedWay(): Map<number, number> {
    const counts = new Map<number, number>();
    let before: number | null = null;
    for (const frame of [...this.way.keys()].sort((a, b) => a - b)) {
      const isAgain = before === frame - 1 && farthest(this.way.get(before)!, this.way.get(frame)!) === 0;
      const step = isAgain || before === null ? 0 : frame - before;
      counts.set(frame, (before === null ? 0 : counts.get(before)!) + step);
      before = frame;
    }
    return counts;
  }

  /** By the frames on both sides; at an end of the way by the two that follow on one, to the same order. */
  private velocityOnWay(frame: number): readonly Point[] | null {
    const count = this.counts.get(frame) ?? (this.counts.get(frame - 1) ?? NaN) + 1;
    const at = (k: number): Quad | undefined => this.byCount.get(count + k);
    const [a, b, now] = [at(-1), at(1), at(0)];
    if (a && b) return a.map(([x, y], i): Point => [(b[i]![0] - x) / 2, (b[i]![1] - y) / 2]);
    for (const s of [1, -1]) {
      const [p, q] = [at(s), at(2 * s)];
      if (now && p && q)
        return now.map(([x, y], i): Point => [
          (s * (4 * p[i]![0] - 3 * x - q[i]![0])) / 2,
          (s * (4 * p[i]![1] - 3 * y - q[i]![1])) / 2,
        ]);
    }
    return null;
  }

  /** @param shutter share of a frame's time that it is open */
  smearAt(frame: number, corners: Quad, shutter: number): Smear {
    const velocity = this.velocityOf(frame, corners);
    return velocity.length === 0 ? NO_SMEAR : smearOf(corners, velocity, shutter);
  }

  takeUp(frame: number, corners: Quad): void {
    if (!this.follows(frame)) this.gap = this.last.frame;
    const goesOn = this.lost === 0 && this.follows(frame);
    this.found = [{ frame, corners }, ...(goesOn ? this.before(corners) : [])].slice(0, PATH.kept);
    this.lost = 0;
    this.repeated = false;
  }

  /** A frame that is to count as lost, but on which the Screen is likely to be here: it is looked for from there next. */
  holdOn(frame: number, corners: Quad): void {
    if (this.lost === 0 || !this.follows(frame)) this.gap = this.last.frame;
    this.found = [{ frame, corners }, ...this.found].slice(0, PATH.kept);
  }

  /**
   * Takes up a frame that shows the same picture as the one before it: no time has passed, so that the step after it is
   * one of the usual length.
   */
  takeUpRepeated(frame: number): void {
    const step = frame - this.last.frame;
    this.found = this.found.map((f) => ({ ...f, frame: f.frame + step }));
    this.repeated = true;
    this.hasRepeats = true;
  }

  /**
   * What was found before corners that are new. Where a frame was repeated in the place of another, the step after it is
   * twice as long, and the Screen was halfway there on the frame that is missing.
   */
  private before(corners: Quad): FollowerState['found'] {
    const [last, other] = this.found;
    if (!this.repeated || !other) return this.found;
    const usual = Math.max(...last!.corners.map((p, i) => distance(p, other.corners[i]!)));
    const now = Math.max(...last!.corners.map((p, i) => distance(p, corners[i]!)));
    if (now < PATH.doubled * usual) return this.found;
    const halfway = last!.corners.map(([x, y], i): Point => [
      (x + corners[i]![0]) / 2,
      (y + corners[i]![1]) / 2,
    ]) as unknown as Quad;
    const [, ...rest] = this.found;
    return [{ frame: last!.frame, corners: halfway }, { ...last!, frame: other.frame }, ...rest].slice(0, PATH.kept);
  }

  /**
   * Lost frames that may be looked at again, now that the way beyond them is known; each stretch is told once.
   * @param last no further frame will tell more of that way
   */
  takeGap(last: boolean): Gap | null {
    const { gap, found } = this;
    if (gap === null || this.lost > 0 || (found.length < PATH.kept && !last)) return null;
    this.gap = null;
    const near = found.at(-1)!.frame;
    const step = near > gap ? -1 : 1;
    return {
      beyond: [...found].reverse(),
      lost: Array.from({ length: Math.abs(near - gap) - 1 }, (_, i) => near + step * (i + 1)),
    };
  }

  /** @param by px that a frame lay from where it was expected */
  surprised(by: number): void {
    this.surprise += PATH.rate * (Math.min(by, PATH.mostSurprise) - this.surprise);
  }

  /** Begins at frames that are known already, newest first. */
  startFrom(frames: FollowerState['found']): void {
    this.found = frames.slice(0, PATH.kept);
    this.gap = null;
    this.repeated = false;
  }

  restore({
    found,
    lost,
    gap,
    surprise,
    repeated,
    hasRepeats,
  }: Pick<FollowerState, 'found' | 'lost' | 'gap' | 'surprise' | 'repeated' | 'hasRepeats'>): void {
    this.found = found.map((f) => ({ ...f }));
    this.lost = lost;
    this.gap = gap;
    this.surprise = surprise;
    this.repeated = repeated;
    this.hasRepeats = hasRepeats;
  }
}
