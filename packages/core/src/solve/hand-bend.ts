/**
 * Pins placed by hand among followed frames. Where the hand and the following differ, the frames between the hand's key
 * and the anchor before it (the reference, or another key) are bent towards it, more the nearer they lie, since that is
 * how a drift grows: no step is left where sections meet. The difference is a change of the plane's own coordinates, so
 * it scales and turns with the view.
 */
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import { inverse, multiply } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { isConvex, mapQuad, perspectiveCentre } from '../geometry/quad';
import type { FrameResult } from './frame-result';
import { HAND_SIGMA } from './frame-result';

export interface PlacedPin {
  readonly frame: number;
  readonly corners: Quad;
}

/** Offsets of the four corners in px of the reference frame. */
type Offsets = readonly Point[];
const NONE: Offsets = [
  [0, 0],
  [0, 0],
  [0, 0],
  [0, 0],
];

/**
 * Of the screen's diagonal; how far the hand may lie from what following made of the frame to be a correction of it.
 * By trial.
 */
const CORRECTION = 0.04;

/**
 * Whether the hand corrects what was followed, which then goes on with that correction; farther off, it begins anew
 * from the hand.
 */
export function isCorrection(own: Quad, hand: Quad): boolean {
  return own.every(
    (p, i) => distance(p, hand[i]!) < CORRECTION * Math.max(distance(own[0], own[2]), distance(own[1], own[3])),
  );
}

/** By what the plane's own corners must be moved so that `h` puts them where the hand did. */
function offsets(h: readonly number[] | null | undefined, pin: Quad, corners: Quad): Offsets | null {
  return h ? mapQuad(inverse(h), corners).map((p, i): Point => [p[0] - pin[i]![0], p[1] - pin[i]![1]]) : null;
}

function bent(r: FrameResult, pin: Quad, a: Offsets, b: Offsets, t: number): FrameResult {
  const to = pin.map((p, i): Point => [
    p[0] + (1 - t) * a[i]![0] + t * b[i]![0],
    p[1] + (1 - t) * a[i]![1] + t * b[i]![1],
  ]) as unknown as Quad;
  if (!r.homography || !isConvex(to)) return r;
  return { ...r, homography: normaliseHomography(multiply(r.homography, quadToQuad(pin, to)), perspectiveCentre(pin)) };
}

/** Bends one side of the reference; `frames` lie in the order of the run, the reference left out. */
function bendSide(
  frames: readonly FrameResult[],
  referenceFrame: number,
  pin: Quad,
  keys: ReadonlyMap<number, Quad>,
  out: Map<number, FrameResult>,
): void {
  let anchor = referenceFrame;
  let from: Offsets = NONE;
  const section = (end: number, to: Offsets): void => {
    for (const r of frames)
      if ((r.frame - anchor) * (r.frame - end) < 0)
        out.set(r.frame, bent(r, pin, from, to, (r.frame - anchor) / (end - anchor)));
  };
  for (const r of frames) {
    const corners = keys.get(r.frame);
    if (!corners) continue;
    const before = offsets(r.own ?? (r.evidence['hand'] ? null : r.homography), pin, corners);
    if (before) section(r.frame, before);
    // What began anew from this key lies by it already, unless the key was moved since.
    const goesOn = before !== null && (!r.own || isCorrection(mapQuad(r.own, pin), mapQuad(r.homography!, pin)));
    [anchor, from] = [r.frame, (goesOn ? before : offsets(r.homography, pin, corners)) ?? NONE];
  }
  if (from !== NONE)
    for (const r of frames)
      if (Math.abs(r.frame - referenceFrame) > Math.abs(anchor - referenceFrame))
        out.set(r.frame, bent(r, pin, from, from, 0));
}

/**
 * Results with the hand's pins in their places and the frames around bent to them; frames that nobody followed into yet
 * are added where a key lies.
 */
export function withHandKeys(
  results: readonly FrameResult[],
  pin: Quad,
  hand: readonly PlacedPin[],
  referenceFrame: number,
): FrameResult[] {
  if (hand.length === 0) return [...results];
  const by = new Map(results.map((r) => [r.frame, r]));
  const keys = new Map(hand.map((k) => [k.frame, k.corners]));
  const sorted = [...results].sort((a, b) => a.frame - b.frame);
  const sigma = [HAND_SIGMA, HAND_SIGMA, HAND_SIGMA, HAND_SIGMA];
  bendSide(
    sorted.filter((r) => r.frame > referenceFrame),
    referenceFrame,
    pin,
    keys,
    by,
  );
  bendSide(sorted.filter((r) => r.frame < referenceFrame).reverse(), referenceFrame, pin, keys, by);
  // Before anything is followed the pin itself, placed by hand too, stands on the reference.
  for (const k of results.length > 0 ? hand : [{ frame: referenceFrame, corners: pin }, ...hand])
    by.set(k.frame, {
      frame: k.frame,
      homography: normaliseHomography(quadToQuad(pin, k.corners), perspectiveCentre(pin)),
      sigma,
      trust: 1,
      evidence: { hand: 1 },
      information: [],
      blur: by.get(k.frame)?.blur ?? 0,
      reason: null,
    });
  const frames = [...by.keys()].sort((a, b) => a - b);
  const out: FrameResult[] = [];
  for (let n = frames[0]!; n <= frames.at(-1)!; n++)
    out.push(
      by.get(n) ?? {
        frame: n,
        homography: null,
        sigma,
        trust: 0,
        evidence: {},
        information: [],
        blur: 0,
        reason: null,
      },
    );
  return out;
}
