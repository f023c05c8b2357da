/**
 * Corrections laid over a solved path: touch-ups keyed on a frame and faded on both sides, and settles, which take
 * measured jitter out frame by frame. Both move the pin's corners in the plane, in px of the reference frame, so that
 * perspective is kept; results are never changed. Contributions add up: two touch-ups whose fades reach each other's
 * frames join into one path through both, and a short one on top of long ones mends a single frame.
 */
import { mapPoint, normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Matrix3 } from '../geometry/matrix3';
import { inverse } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { isConvex, mapQuad, perspectiveCentre } from '../geometry/quad';

/**
 * How a touch-up ends: after so many frames it has gone to nothing, evenly, eased at both ends, or all at once behind
 * them.
 */
export interface Fade {
  readonly frames: number;
  readonly shape: 'linear' | 'eased' | 'hold';
}

export interface TouchUp {
  readonly frame: number;
  /** per corner, px of the reference frame */
  readonly offsets: Quad;
  readonly before: Fade;
  readonly after: Fade;
  readonly muted?: boolean;
}

export interface Settle {
  /** of the first offsets; the rest follow frame by frame */
  readonly from: number;
  /** eight numbers a frame: per corner x and y, px of the reference frame */
  readonly offsets: readonly (readonly number[])[];
  readonly muted?: boolean;
}

export interface Corrections {
  readonly touchUps?: readonly TouchUp[];
  readonly settles?: readonly Settle[];
}

export const NO_OFFSETS: Quad = [
  [0, 0],
  [0, 0],
  [0, 0],
  [0, 0],
];

/** Share of a touch-up that reaches a frame, 0 to 1. */
export function shareAt(t: TouchUp, frame: number): number {
  const far = frame - t.frame;
  const { frames, shape } = far < 0 ? t.before : t.after;
  const d = Math.abs(far);
  if (d === 0) return 1;
  if (shape === 'hold') return d <= frames ? 1 : 0;
  if (d >= frames) return 0;
  const left = 1 - d / frames;
  return shape === 'linear' ? left : left * left * (3 - 2 * left);
}

/** What all corrections that are not muted add up to on a frame; null where that is nothing. */
export function correctionAt({ touchUps = [], settles = [] }: Corrections, frame: number): Quad | null {
  const sum = new Float64Array(8);
  let any = false;
  for (const t of touchUps) {
    const w = t.muted ? 0 : shareAt(t, frame);
    if (w === 0) continue;
    any = true;
    for (let i = 0; i < 8; i++) sum[i]! += w * t.offsets[i >> 1]![i & 1]!;
  }
  for (const s of settles) {
    const own = s.muted ? undefined : s.offsets[frame - s.from];
    if (!own) continue;
    any = true;
    for (let i = 0; i < 8; i++) sum[i]! += own[i]!;
  }
  return any ? ([0, 2, 4, 6].map((i): Point => [sum[i]!, sum[i + 1]!]) as unknown as Quad) : null;
}

/** The pin as corrected on a frame, px of the reference frame; as it is where a correction would fold it. */
export function correctedPin(pin: Quad, c: Corrections, frame: number): Quad {
  const by = correctionAt(c, frame);
  if (!by) return pin;
  const moved = pin.map((p, i): Point => [p[0] + by[i]![0], p[1] + by[i]![1]]) as unknown as Quad;
  return isConvex(moved) ? moved : pin;
}

/** A solved frame with its corrections: corners as moved, and the homography that carries the pin onto them. */
export function corrected<
  F extends { readonly frame: number; readonly homography: readonly number[]; readonly corners: Quad },
>(f: F, pin: Quad, c: Corrections): F {
  const own = correctedPin(pin, c, f.frame);
  if (own === pin) return f;
  const corners = mapQuad(f.homography, own);
  return isConvex(corners)
    ? { ...f, corners, homography: normaliseHomography(quadToQuad(pin, corners), perspectiveCentre(pin)) }
    : f;
}

/**
 * By what the pin must be moved beyond its corrections for corners to lie elsewhere on a frame.
 * @param h reference frame to frame, as followed
 * @param wanted px of the frame; corners left out stay
 */
export function offsetsFor(
  h: Matrix3,
  pin: Quad,
  c: Corrections,
  frame: number,
  wanted: readonly (Point | null)[],
): Quad {
  const back = inverse(h);
  const now = correctedPin(pin, c, frame);
  return now.map((p, i): Point => {
    const to = wanted[i];
    if (!to) return [0, 0];
    const q = mapPoint(back, to);
    return [q[0] - p[0], q[1] - p[1]];
  }) as unknown as Quad;
}

/** Frames to the nearest of some anchors on one side; the fallback where there is none. */
export function spanTo(anchors: readonly number[], frame: number, side: -1 | 1, fallback: number): number {
  const far = anchors.map((a) => (a - frame) * side).filter((d) => d > 0);
  return far.length > 0 ? Math.min(...far) : fallback;
}
