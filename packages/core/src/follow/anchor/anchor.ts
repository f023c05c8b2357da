/**
 * Another frame to follow a shot from. What is remembered of a Screen is what the reference frame shows; where that one is
 * smeared by its own movement, its lines have run into one another and its picture is a trail, and every frame is compared with
 * those. A frame that stands still shows more; the reference is then but one more frame that is found from there, and all others
 * come to lie by it (`from-reference.ts`).
 */
import type { FollowSetup } from '../memory/follower-state';
import { cornerSigmas } from '../../geometry/corner-information';
import { mapPoint } from '../../geometry/homography';
import { fromTriangle } from '../../geometry/linear-algebra';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { clipToRectangle } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { mapQuad, signedArea } from '../../geometry/quad';
import type { FrameResult } from '../../solve/frame-result';
import { wayOf } from '../../solve/frame-result';
import { UNKNOWN } from './from-reference';

const ANCHOR = {
  /** px at 1920 wide by which the reference frame is smeared at least for another to be looked for. By trial. */
  smeared: 6,
  /** px; and at least, however small the picture is: less is no smear. By trial. */
  leastSmear: 2.5,
  /** Share of that smear that the other may have at the most. By trial. */
  sharper: 0.4,
  /** px at 1920 wide; how well its corners must be known by its evidence. By trial. */
  sigma: 1.5,
  /** Share of what the reference shows of the Screen inside the picture that the other must show. By trial. */
  inside: 0.95,
  /** Share of its area there that it must have, or be larger by: what is seen much smaller shows less. By trial. */
  area: 0.5,
  /** px at 1920 wide that a frame of distance from the reference counts as. By trial. */
  perFrame: 0.02,
} as const;

/** A frame to follow from, and where what is followed lies on it. */
export interface Anchor {
  readonly frame: number;
  /** px of that frame */
  readonly pin: Quad;
}

/** What a run found, and by which frame. */
export interface Followed {
  readonly results: ReadonlyMap<number, FrameResult>;
  /** px of the reference frame */
  readonly pin: Quad;
  readonly referenceFrame: number;
  /** of the plate, px */
  readonly width: number;
  readonly height: number;
}

/** Area of a Screen, and how much of that lies inside the picture, px squared. */
function areasOf(corners: Quad, { width, height }: Followed): { readonly whole: number; readonly inside: number } {
  const inside = clipToRectangle(corners, { x0: 0, y0: 0, x1: width, y1: height });
  return { whole: Math.abs(signedArea(corners)), inside: inside.length < 3 ? 0 : Math.abs(signedArea(inside)) };
}

/** px by which the reference frame is smeared, as its neighbours are; 0 where none of them was found. */
function smearOfReference({ results, referenceFrame }: Followed): number {
  const beside = [referenceFrame - 1, referenceFrame + 1].flatMap((n) => {
    const r = results.get(n);
    return r?.homography ? [r.blur] : [];
  });
  // The reference moves at least as the slower of both: where movement begins there, the faster one tells of after it.
  return beside.length > 0 ? Math.min(...beside) : 0;
}

/**
 * The frame that shows more of the Screen than the reference, and nearly as it is seen there.
 * @returns null where the reference will do, or no frame does better
 */
export function anchorFor(o: Followed): Anchor | null {
  const scale = o.width / 1920;
  const smear = smearOfReference(o);
  if (smear < Math.max(ANCHOR.leastSmear, ANCHOR.smeared * scale)) return null;
  const reference = areasOf(o.pin, o);
  let best: Anchor | null = null;
  let least = Infinity;
  for (const { frame, homography, reason, blur, information } of o.results.values()) {
    if (!homography || reason || frame === o.referenceFrame || information.length === 0) continue;
    if (blur > ANCHOR.sharper * smear) continue;
    const pin = mapQuad(homography, o.pin);
    const { whole, inside } = areasOf(pin, o);
    if (inside / whole < (ANCHOR.inside * reference.inside) / reference.whole) continue;
    if (whole < ANCHOR.area * reference.whole) continue;
    const sigma = Math.max(...cornerSigmas(fromTriangle(information), UNKNOWN)) / scale;
    if (sigma > ANCHOR.sigma) continue;
    const cost = blur / scale + sigma + ANCHOR.perFrame * Math.abs(frame - o.referenceFrame);
    if (cost < least) [best, least] = [{ frame, pin }, cost];
  }
  return best;
}

/** Whether a shot may be followed from another frame: nothing in it is bound to its own reference but outlines that never change. */
export function mayBeAnchored({ patches, motion, hand, spots, sections, keyFrames }: FollowSetup): boolean {
  const bound = [hand, spots, sections, keyFrames].some((list) => list && list.length > 0);
  return motion === 'perspective' && !bound && patches.every((p) => !p.keys || p.keys.length === 0);
}

/** What a shot is followed with from another frame. @param toAnchor reference frame to that one */
export function anchoredSetup(
  setup: FollowSetup,
  { pin }: Anchor,
  toAnchor: Matrix3,
  results: Iterable<FrameResult>,
): FollowSetup {
  const moved = (points: readonly Point[]): Point[] => points.map((p) => mapPoint(toAnchor, p));
  return {
    ...setup,
    pin,
    patches: setup.patches.map((p) => ({ ...p, points: moved(p.points) })),
    readout: setup.readout ?? 0,
    way: wayOf(results, setup.pin),
  };
}
