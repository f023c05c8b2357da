/**
 * The pictures that are remembered of a Screen: of the reference's picture and of every other that it shows in turn, each from
 * one view or more.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { quadToQuad, scaleAt } from '../../geometry/homography';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import type { Kept, KeyPicture } from '../picture/key-pictures';
import { viewDifference } from '../picture/key-pictures';

const REMEMBERED = {
  /** Octaves of difference of views below which the first view of a picture is preferred. By trial. */
  stayWithFirst: 0.65,
  /**
   * Octaves by which a view must differ from every remembered one to be remembered itself (about 1.5 times nearer).
   * By trial.
   */
  newView: 0.75,
  /** Size against the reference below which a view is not worth remembering. By trial. */
  leastScale: 0.3,
  /** What a sighting tells against one of its own error: those of neighbouring frames share much of theirs. By trial. */
  sighting: 0.3,
  /** Pictures beside the reference's that are remembered. By trial. */
  mostPictures: 5,
} as const;

/** A frame that is to be remembered; `homography` maps the reference frame to it. */
export interface Frame {
  readonly frame: number;
  readonly luma: RawLuma;
  readonly homography: Matrix3;
  readonly kept: Kept;
}

/** From a frame of the run on, the Screen shows a picture, see {@link KeyPicture.picture}. */
export interface Span {
  readonly from: number;
  readonly picture: number;
}

/** See above; what is kept of each is in `key-pictures.ts`. */
export class Remembered {
  /** the reference first */
  keys: KeyPicture[] = [];
  /** the pictures that the Screen was seen to show after its first, in the run's order */
  spans: readonly Span[] = [];

  /** @param make what is remembered of a frame */
  constructor(private readonly make: (f: Frame) => KeyPicture) {}

  /** The picture that the Screen shows on a frame, as far as that is known. A run leads away from the reference. */
  shownOn(frame: number): number {
    const reference = this.keys[0]?.frame ?? frame;
    const away = (n: number): number => Math.abs(n - reference);
    return this.spans.findLast((s) => away(s.from) <= away(frame))?.picture ?? 0;
  }

  /** Of the picture that is shown there, unless it says of which. */
  add(f: Frame): void {
    this.keys.push(this.make({ ...f, kept: { ...f.kept, picture: f.kept.picture ?? this.shownOn(f.frame) } }));
  }

  /** Adds a frame when its view differs from every remembered one of its picture. @param at of the reference, px */
  addView(f: Frame, at: Point): void {
    const own = this.viewsOf(this.shownOn(f.frame));
    const nearest = Math.min(...own.map((k) => viewDifference(k.homography, f.homography, at)));
    if (nearest > REMEMBERED.newView && scaleAt(f.homography, at) > REMEMBERED.leastScale) this.add(f);
  }

  /** From a frame on the Screen shows another picture than before. */
  show(span: Span): void {
    this.spans = [...this.spans, span];
  }

  /** The same, of one that was never seen; the oldest of too many is forgotten. @param f what it is remembered by */
  showNew(from: number, f: Frame): void {
    const others = this.pictures.filter((p) => p > 0);
    if (others.length >= REMEMBERED.mostPictures)
      this.keys = this.keys.filter((k) => k.picture !== Math.min(...others));
    this.show({ from, picture: Math.max(0, ...others) + 1 });
    this.add(f);
  }

  /**
   * Lets another sighting tell where the Screen lies on a remembered frame: the mean of all, each by what it knows.
   * @param pin px of the reference @param seen px of the remembered frame @param sigma of that, per corner, px
   */
  refine(key: KeyPicture, pin: Quad, seen: Quad, sigma: readonly number[]): void {
    const own = mapQuad(key.homography, pin);
    const weights = sigma.map((s) => REMEMBERED.sighting / s ** 2);
    const known = key.sigma.map((s) => 1 / s ** 2);
    const corners = own.map((p, i): Point => {
      const share = weights[i]! / (weights[i]! + known[i]!);
      return [p[0] + share * (seen[i]![0] - p[0]), p[1] + share * (seen[i]![1] - p[1])];
    });
    const better = {
      ...key,
      homography: quadToQuad(pin, corners),
      sigma: weights.map((w, i) => 1 / Math.sqrt(w + known[i]!)),
    };
    this.keys = this.keys.map((k) => (k === key ? better : k));
  }

  get pictures(): number[] {
    return [...new Set(this.keys.map((k) => k.picture))];
  }

  private viewsOf(picture: number): KeyPicture[] {
    return this.keys.filter((k) => k.picture === picture);
  }

  /** Of a picture, the view that is nearest to `h`; the first as long as it will do. @param at of the reference, px */
  viewFor(h: Matrix3, at: Point, picture: number): KeyPicture {
    const own = this.viewsOf(picture);
    let best = own[0] ?? this.keys[0]!;
    let least = viewDifference(best.homography, h, at);
    if (least < REMEMBERED.stayWithFirst) return best;
    for (const key of own) {
      const d = viewDifference(key.homography, h, at);
      if (d < least) [best, least] = [key, d];
    }
    return best;
  }
}
