/**
 * A spot: one small place, followed by itself. A box of picture around it is looked for in a larger box around where it
 * is expected: normalised correlation over whole pixels, then a sub-pixel affine alignment with gain and offset free.
 * Sources: J. P. Lewis, Fast Normalized Cross-Correlation, 1995; S. Baker and I. Matthews, IJCV 2004 (the alignment).
 */
import type { Point } from '../../geometry/point';
import type { RawLuma } from '../../image/image';
import { HAND_SIGMA } from '../../solve/frame-result';
import type { Fit } from './spot-fit';
import { alignBox, searchBox } from './spot-fit';
import type { Counts, Look } from './spot-look';
import { UPRIGHT, lookAt, windowOf } from './spot-look';

export type SpotMatch = 'reference' | 'previous' | 'hand';

export interface SpotKey {
  readonly frame: number;
  readonly at: Point;
}

export interface Spot {
  readonly name: string;
  /** on the reference frame, px */
  readonly at: Point;
  /** corner of the pin that it stands for (0 TL to 3 BL); a place in the plane when left out */
  readonly corner?: number | undefined;
  /** px: sides of the box that is remembered, and of the one in which it is looked for */
  readonly box: readonly [number, number];
  readonly search: readonly [number, number];
  readonly match: SpotMatch;
  /** placed by hand on these frames */
  readonly keys: readonly SpotKey[];
  /** where a run of its own found it: frame, x, y, sigma per axis, px; it is not looked for anew there */
  readonly path?: readonly (readonly [frame: number, x: number, y: number, sigma: number])[] | undefined;
  /** nothing outside these frames is used, both inclusive */
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}

export interface SpotResult {
  readonly frame: number;
  readonly at: Point | null;
  /** px per axis */
  readonly sigma: number;
  /** -1 to 1 */
  readonly likeness: number;
  readonly byHand: boolean;
  readonly reason: string | null;
}

/** px; sides of a spot's pattern box when nobody chose any (at 4096 wide about 40; common practice, no source). */
export const SPOT_BOX: readonly [number, number] = [31, 31];
/** px; sides of its search box, three times that (common practice, no source). */
export const SPOT_SEARCH: readonly [number, number] = [91, 91];
/** Likeness from which a place is believed. By trial. */
const BELIEVED = 0.7;
/** Share that a look has at the least in where a spot is. By trial. */
const LEAST_SHARE = 0.02;

export interface SpotState {
  /** newest first */
  readonly last: readonly { readonly frame: number; readonly at: Point; readonly m: readonly number[] }[];
  readonly gone: string | null;
}

/**
 * Where a spot is known to be on a frame without looking: on the reference, as placed by hand, or where its own run
 * found it.
 */
export function knownPlace(
  spot: Pick<Spot, 'at' | 'path'> & { readonly keys?: Spot['keys'] | undefined },
  frame: number,
  referenceFrame: number,
): Point | null {
  const hand = spot.keys?.find((k) => k.frame === frame);
  const own = spot.path?.find((p) => p[0] === frame);
  if (hand) return hand.at;
  if (frame === referenceFrame) return spot.at;
  return own ? [own[1], own[2]] : null;
}

/** Follows one spot in one direction, away from its reference. */
export class SpotFollower {
  private readonly reference: Look | null;
  private previous: Look | null;
  /** the hand keys' looks, by frame */
  private readonly hands: Look[] = [];
  private last: SpotState['last'];
  private gone: string | null = null;
  private readonly path: ReadonlyMap<number, NonNullable<Spot['path']>[number]>;

  /**
   * @param counts whether a px at this offset from the spot belongs to what is followed: a corner of a thick device has
   *   more of the table in its box than of itself
   */
  constructor(
    private readonly spot: Spot,
    referenceFrame: number,
    reference: RawLuma,
    hands: readonly { readonly frame: number; readonly luma: RawLuma }[] = [],
    private readonly counts: Counts = () => true,
  ) {
    this.path = new Map((spot.path ?? []).map((p) => [p[0], p]));
    this.reference = this.lookAt(reference, referenceFrame, spot.at, 0);
    this.previous = this.reference;
    this.last = [{ frame: referenceFrame, at: spot.at, m: UPRIGHT }];
    for (const k of spot.keys) {
      const luma = hands.find((h) => h.frame === k.frame)?.luma;
      const look = luma && this.lookAt(luma, k.frame, k.at, HAND_SIGMA);
      if (look) this.hands.push(look);
    }
    if (!this.reference)
      this.gone = `The box of the spot "${spot.name}" holds no picture to follow; put it on something with contrast in two directions, inside the picture.`;
  }

  get state(): SpotState {
    return { last: this.last, gone: this.gone };
  }

  /** @param luma of the newest frame of the state */
  resume(state: SpotState, luma: RawLuma): void {
    this.last = state.last;
    this.gone = state.gone;
    const [now] = state.last;
    if (this.spot.match === 'previous' && now) this.previous = this.lookAt(luma, now.frame, now.at, 0) ?? this.previous;
  }

  /**
   * Begins anew at a place that is known already. @param luma of that frame, for a spot that is matched to the frame
   * before
   */
  startAt(frame: number, at: Point, luma?: RawLuma): void {
    this.last = [{ frame, at, m: UPRIGHT }];
    this.gone = null;
    if (luma && this.spot.match === 'previous') this.previous = this.lookAt(luma, frame, at, 0) ?? this.previous;
  }

  private looks(frame: number): readonly { look: Look; share: number }[] {
    const { reference, previous } = this;
    if (this.spot.match === 'previous') return previous ? [{ look: previous, share: 1 }] : [];
    if (this.spot.match === 'reference' || this.hands.length === 0 || !reference)
      return reference ? [{ look: reference, share: 1 }] : [];
    // The nearest placed frames on both sides, the reference among them, blended by distance.
    const all = [reference, ...this.hands].sort((a, b) => a.frame - b.frame);
    const after = all.findIndex((l) => l.frame > frame);
    if (after <= 0) return [{ look: after === 0 ? all[0]! : all.at(-1)!, share: 1 }];
    const a = all[after - 1]!;
    const b = all[after]!;
    const t = (frame - a.frame) / (b.frame - a.frame);
    return [
      { look: a, share: 1 - t },
      { look: b, share: t },
    ];
  }

  step(frame: number, luma: RawLuma): SpotResult {
    const { spot } = this;
    const isCut = (spot.from !== undefined && frame < spot.from) || (spot.to !== undefined && frame > spot.to);
    if (isCut) return nowhere(frame, 'Cut back by hand.');
    return this.byHand(frame, luma) ?? this.byPath(frame, luma) ?? this.search(frame, luma);
  }

  /** Where somebody placed it; null on other frames. */
  private byHand(frame: number, luma: RawLuma): SpotResult | null {
    const hand = this.spot.keys.find((k) => k.frame === frame);
    if (!hand) return null;
    this.gone = null;
    this.previous = this.lookAt(luma, frame, hand.at, HAND_SIGMA) ?? this.previous;
    this.last = [{ frame, at: hand.at, m: UPRIGHT }];
    return { frame, at: hand.at, sigma: HAND_SIGMA, likeness: 1, byHand: true, reason: null };
  }

  /** Where a run of its own found it; null on other frames. */
  private byPath(frame: number, luma: RawLuma): SpotResult | null {
    const known = this.path.get(frame);
    if (!known) return null;
    const [, x, y, sigma] = known;
    this.gone = null;
    this.take({ frame, at: [x, y], m: this.last[0]!.m }, luma, sigma);
    return { frame, at: [x, y], sigma, likeness: 1, byHand: false, reason: null };
  }

  private search(frame: number, luma: RawLuma): SpotResult {
    if (this.gone) return nowhere(frame, this.gone);
    const { spot } = this;
    const fits = this.fitsOn(frame, luma);
    if (fits.length === 0) {
      this.gone = `The spot "${spot.name}" no longer looks like what it was; place it by hand on frame ${frame}, or cut it back.`;
      return nowhere(frame, this.gone);
    }
    const sum = fits.reduce((s, q) => s + q.share, 0);
    const mean = (k: 0 | 1): number => fits.reduce((s, q) => s + (q.share / sum) * q.fit.at[k], 0);
    const at: Point = [mean(0), mean(1)];
    const sigma = Math.max(...fits.map((q) => Math.hypot(q.fit.sigma, q.look.sigma)));
    this.take({ frame, at, m: fits[0]!.fit.m }, luma, sigma);
    const likeness = Math.min(...fits.map((q) => q.fit.likeness));
    return { frame, at, sigma, likeness, byHand: false, reason: null };
  }

  /** Where the last movement leads. */
  private expected(frame: number): Point {
    const [now, before] = this.last;
    if (!before) return now!.at;
    const f = Math.abs(frame - now!.frame) / Math.abs(now!.frame - before.frame);
    return [now!.at[0] + f * (now!.at[0] - before.at[0]), now!.at[1] + f * (now!.at[1] - before.at[1])];
  }

  /** Where it looks like what is remembered, by each look that counts on the frame. */
  private fitsOn(frame: number, luma: RawLuma): { readonly fit: Fit; readonly share: number; readonly look: Look }[] {
    const { match, box, search } = this.spot;
    const at = this.expected(frame);
    const reachOf = (k: 0 | 1): number => Math.max(2, Math.ceil((search[k] - box[k]) / 2));
    const reach = [reachOf(0), reachOf(1)] as const;
    const pyramid = windowOf(luma, at, reach[0] + box[0], reach[1] + box[1]);
    return this.looks(frame).flatMap(({ look, share }) => {
      const m = look === this.previous && match === 'previous' ? UPRIGHT : this.last[0]!.m;
      const start = searchBox(look, pyramid, at, reach, m);
      const fit = start && alignBox(look, pyramid[0]!, start, m);
      return fit && fit.likeness > BELIEVED ? [{ fit, share: Math.max(share, LEAST_SHARE), look }] : [];
    });
  }

  /** It was found. */
  private take(now: SpotState['last'][number], luma: RawLuma, sigma: number): void {
    this.last = [now, this.last[0]!];
    if (this.spot.match === 'previous') this.previous = this.lookAt(luma, now.frame, now.at, sigma) ?? this.previous;
  }

  private lookAt(luma: RawLuma, frame: number, at: Point, sigma: number): Look | null {
    return lookAt(luma, this.spot.box, { frame, at, sigma, counts: this.counts });
  }
}

function nowhere(frame: number, reason: string): SpotResult {
  return { frame, at: null, sigma: 0, likeness: 0, byHand: false, reason };
}
