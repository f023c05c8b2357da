/**
 * A second look at a stretch of doubtful frames, from both of its ends inwards: where the Screen was before the stretch and
 * where it is beyond it tell where to look. A frame's first result stays unless what is found now explains the frame
 * better.
 */
import { cornerSigmas } from '../../geometry/corner-information';
import { quadToQuad } from '../../geometry/homography';
import type { Quad } from '../../geometry/quad';
import { farthest, middleOf, movedTo } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import type { FrameResult } from '../../solve/frame-result';
import { bestWay, isToBeTrusted } from './best-way';
import type { FollowSetup } from '../memory/follower-state';
import type { FrameContext } from '../memory/frame-context';
import { pictureScale } from '../memory/frame-context';
import { heldOn } from './held-on';
import { noiseOf } from './hypotheses';
import { Path } from '../memory/path';
import { RowTimes } from '../memory/row-times';
import { learnShutterBetween } from './shutter-learning';
import { softnessOf } from './softness-learning';
import type { ShutterMemory } from '../timing/shutter';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { solveFrame } from './solve-frame';
import type { Between, Placed, Stretch } from '../memory/stretch';
import { inwards, placeBetween, shapeBetween } from '../memory/stretch';
import { knownOf, takenResult } from './taken-result';
import { trustOf } from '../evidence/trust';
import type { Found } from '../evidence/verdict';

const LOOK = {
  /** px; two results this near to each other are the same. By trial. */
  same: 0.5,
  /** Score by which what is found now must be better. By trial. */
  better: 0.1,
  /** Trust by which a place must be known better than a first result there, or may be known worse than one that leads there. By trial. */
  surer: 0.05,
  /** Score that a squared standard deviation from where the Screen should be costs. By trial. */
  perSurprise: 0.03,
  /** Squared standard deviations beyond which it costs no more. By trial. */
  mostSurprise: 9,
  /** px that a first result may move by when the frame is solved from it again. By trial. */
  stands: 2,
  /** Trust from which a first result tells how fast things moved. By trial. */
  likely: 0.3,
  /** Trust of a first result that was taken for want of anything better. By trial. */
  hardly: 0.1,
  /** Share of the sigma of where both sides put it by which what is held there is doubted: another line may lie as near. By trial. */
  perSigma: 0.5,
  /** px at 1920 wide; sigma of where both sides put it up to which that tells which line is which. By trial. */
  holds: 6,
  /** Share of its speed by which what tells of the shutter may become faster or slower. By trial. */
  even: 0.25,
  /** px of the frame around it that are looked at. By trial. */
  margin: 40,
  /** px around an earlier result in which its edges are looked for. By trial. */
  reach: 2,
} as const;

/** A frame of the stretch. */
type Doubtful = Stretch['doubtful'][number];

/** A frame's first result. */
interface First {
  readonly corners: Quad;
  readonly trust: number;
}

/** A second look at the doubtful frames of one stretch. */
export class SecondLook {
  /** in the order in which they are to be looked at */
  readonly frames: readonly number[];
  private readonly known: Placed[];
  /** of frames that were looked at, px */
  private readonly softness = new Map<number, number>();
  /** of frames that are held by little, px */
  private readonly doubt = new Map<number, number>();

  /** @param contextOf what a frame is followed with, as far as the run has come */
  constructor(
    private readonly stretch: Stretch,
    private readonly setup: FollowSetup,
    private readonly contextOf: (frame: number) => FrameContext,
  ) {
    this.frames = inwards(stretch);
    this.known = [...stretch.before, ...stretch.beyond];
  }

  /**
   * What a frame of the stretch tells of the shutter, before any is looked at again: where the Screen lay on both sides tells its
   * shape here, and the first results how fast it moved.
   * @param told by frames before it
   */
  learnShutter(told: ShutterMemory, n: number, luma: RawLuma): ShutterMemory {
    const [before, first, after] = [-1, 0, 1].map((k) => this.seenOn(n + k));
    const shape = shapeBetween(this.stretch, n);
    if (!before || !first || !after || !shape) return told;
    const c = this.contextOf(n);
    const corners = movedTo(shape, first);
    const homography = quadToQuad(c.sight.pin, corners);
    // Their middles are known better than their corners, which a wrong smear has moved.
    const steps = stepsOf([before, first, after].map(middleOf));
    if (!isEven(steps)) return told;
    const [came, goes] = steps as unknown as readonly [Point, Point];
    const velocity = corners.map((): Point => [(came[0] + goes[0]) / 2, (came[1] + goes[1]) / 2]);
    const lying = { homography, corners, key: c.sight.keyFor(homography, n) };
    return learnShutterBetween(told, c, lying, velocity, () => c.sight.pyramidFor(luma, homography, LOOK.margin, 2));
  }

  /** @returns a better result for a frame of the stretch; null when the first one stays */
  at(n: number, luma: RawLuma): FrameResult | null {
    const { width } = luma;
    const place = placeBetween(this.known, n, width);
    if (!place) return null;
    const c = this.contextBetween(n, place, width);
    const first = this.stretch.doubtful.find((d) => d.frame === n);
    const found = bestWay(c, luma, false);
    if (!found || found.reason !== null || !isToBeTrusted(c, found)) return this.hold(c, luma, place, first ?? null);
    if (!first?.corners) return this.take(c, luma, found);
    const gain = this.gainBy(c, luma, found, { corners: first.corners, trust: first.trust });
    if (gain > LOOK.better) return this.take(c, luma, found);
    if (gain < -LOOK.better) this.known.push({ frame: n, corners: first.corners });
    return null;
  }

  /**
   * What little can be seen of the Screen where both sides put it, in the place of a first result that was taken for want of
   * anything better; null where that one is better than nothing.
   */
  private hold(c: FrameContext, luma: RawLuma, { sigma, near }: Between, first: Doubtful | null): FrameResult | null {
    if (this.setup.halts || (first?.corners && first.trust > LOOK.hardly)) return null;
    if (sigma > LOOK.holds * pictureScale(c)) return null;
    const held = heldOn(c, luma);
    if (!held) return null;
    // As if a rival were as likely, so far off; what was held beside it is in doubt itself.
    const doubt = LOOK.perSigma * sigma + (this.doubt.get(near[0]!.frame) ?? 0);
    const found = { ...held, certainty: 0.5, rival: 2 * doubt };
    const known = knownOf(c, found);
    if (known.isBent) return null;
    this.doubt.set(c.frame, doubt);
    return this.take(c, luma, found, known);
  }

  /**
   * How much better what is found now explains the frame than its first result. One that lies there already stays unless
   * that place is known better now; one that leads there stays where it is known worse now.
   */
  private gainBy(c: FrameContext, luma: RawLuma, found: Found, first: First): number {
    const gained = trustIn(c, found) - first.trust;
    if (farthest(found.corners, first.corners) < LOOK.same) return gained > LOOK.surer ? Infinity : -Infinity;
    const again = this.again(c, luma, first.corners);
    if (!again) return Infinity;
    // The first result leads there as well, now that more is known of how things moved.
    if (farthest(again.corners, found.corners) < LOOK.same) return gained > -LOOK.surer ? Infinity : -Infinity;
    return worth(c, found) - worth(c, again);
  }

  /** Where the Screen lay on a frame, known or at first; null where it was not found. */
  private seenOn(n: number): Quad | null {
    const { before, beyond, doubtful } = this.stretch;
    return [...before, ...doubtful, ...beyond].find((f) => f.frame === n)?.corners ?? null;
  }

  /** Where a frame of the stretch lay at first, where that is likely enough to tell how fast things moved. */
  private firstOf(n: number): { readonly corners: Quad } | null {
    const first = this.stretch.doubtful.find((d) => d.frame === n);
    return first?.corners && first.trust > LOOK.likely ? { corners: first.corners } : null;
  }

  /** What the frame was followed with, had what lies around it been known then. */
  private contextBetween(n: number, { corners, sigma, speed, near }: Between, width: number): FrameContext {
    const around = [-2, -1, 0, 1, 2].flatMap((k) => {
      const own = this.known.find((p) => p.frame === n + k);
      const there = own ?? this.firstOf(n + k) ?? placeBetween(this.known, n + k, width);
      return there ? [[n + k, there.corners] as const] : [];
    });
    const c = this.contextOf(n);
    const path = new Path(near[0]!.frame, near[0]!.corners, new Map(around));
    path.startFrom(near);
    return {
      ...c,
      softness: this.softness.get(near[0]!.frame) ?? c.softness,
      path,
      rows: new RowTimes(c.sight, path, this.setup),
      expected: { corners, sigma, speed },
      leansOnStiffness: true,
      isAstray: false,
    };
  }

  /** The frame solved from its first result; null where that does not stand. */
  private again(c: FrameContext, luma: RawLuma, first: Quad): Found | null {
    const start = quadToQuad(c.sight.pin, first);
    const pyramid = c.sight.pyramidFor(luma, start, LOOK.margin);
    const again = solveFrame(c, {
      pyramid,
      noise: noiseOf(pyramid),
      start,
      expected: { ...c.expected, corners: first },
      reach: LOOK.reach,
      coarsest: 1,
    });
    return again && farthest(again.corners, first) < LOOK.stands ? again : null;
  }

  private take(c: FrameContext, luma: RawLuma, f: Found, known = knownOf(c, f)): FrameResult {
    this.known.push({ frame: c.frame, corners: f.corners });
    this.softness.set(c.frame, softnessOf(c, luma, f));
    return takenResult(c, f, known);
  }
}

function stepsOf(way: readonly Point[]): Point[] {
  return way.slice(1).map(([x, y], i): Point => [x - way[i]![0], y - way[i]![1]]);
}

/** Whether it went about as far before a frame as after it: how far while the shutter was open is known then. */
function isEven([came, goes]: readonly Point[]): boolean {
  return distance(came!, goes!) < (LOOK.even / 2) * (Math.hypot(...came!) + Math.hypot(...goes!));
}

function trustIn(c: FrameContext, f: Found): number {
  return trustOf(knownOf(c, f).sigma, f.support, c.sight.lens.width);
}

/** How well a result explains a frame, with where the Screen should be between what is known. */
function worth(c: FrameContext, f: Found): number {
  const sigma = Math.hypot(c.expected.sigma, Math.min(c.expected.sigma, Math.max(...cornerSigmas(f.information, 10))));
  const off = farthest(f.corners, c.expected.corners) / sigma;
  return f.score - LOOK.perSurprise * Math.min(LOOK.mostSurprise, off * off);
}
