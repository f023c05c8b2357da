/** What following knows of one frame, as plain data. */
import type { Quad } from '../geometry/quad';
import { mapQuad } from '../geometry/quad';

/** Error of what somebody placed by hand, a spot or a whole pin, px of the plate (common practice, no source). */
export const HAND_SIGMA = 0.5;

export type Evidence = 'texture' | 'edges' | 'spots' | 'hand';

export interface FrameResult {
  readonly frame: number;
  /** reference frame to this frame; null when the screen was not found */
  readonly homography: readonly number[] | null;
  readonly sigma: readonly number[];
  readonly trust: number;
  readonly evidence: Readonly<Record<string, number>>;
  /** what the evidence knows of the corners: upper triangle of 8x8, px^-2, row by row; empty when nothing was found */
  readonly information: readonly number[];
  /** the lens's radial term in use; null where it was not kept */
  readonly lens?: number | null;
  /**
   * px that each corner of what is followed moves (x0 y0 x1 y1 ...) a unit of that term, see `lens-response.ts`; null or
   * missing where it is not told
   */
  readonly bow?: readonly number[] | null;
  /** how far the fastest corner moves while the shutter is open, px */
  readonly blur: number;
  /** see `cell-map.ts`; missing where nothing was looked at */
  readonly cells?: readonly number[];
  /** per spot, where it was found (px of the picture) and how like itself, -1 to 1; null where it was not */
  readonly spots?: readonly (readonly [x: number, y: number, likeness: number] | null)[];
  /**
   * where somebody placed the pin: what following made of it, reference frame to this frame; null when it was not found
   */
  readonly own?: readonly number[] | null;
  /** why the frame could not be vouched for, a sentence; null when it could */
  readonly reason: string | null;
}

/** Where the Screen is on a frame that was found, px. */
export interface OnWay {
  readonly frame: number;
  readonly corners: Quad;
  /** 0 to 1 */
  readonly trust: number;
}

/** The way that frames took which were found. @param pin what was followed, px of the reference frame */
export function wayOf(results: Iterable<FrameResult>, pin: Quad): OnWay[] {
  return [...results].flatMap(({ frame, homography, trust }) =>
    homography ? [{ frame, corners: mapQuad(homography, pin), trust }] : [],
  );
}

/** @param sigma px, of every corner */
export function notFound(frame: number, lens: number, sigma: number, reason: string, blur = 0): FrameResult {
  return {
    frame,
    homography: null,
    lens,
    sigma: [sigma, sigma, sigma, sigma],
    information: [],
    blur,
    trust: 0,
    evidence: {},
    reason,
  };
}

/** Reason of a frame on which the Screen is not in the shot: no failure. */
export const ABSENT = 'The Screen is not in the shot here.';

/** Kinds of evidence with their share of the whole; none that has none. */
export function shares(parts: Record<string, number>): Record<string, number> {
  const sum = Object.values(parts).reduce((s, v) => s + v, 0);
  return Object.fromEntries(
    Object.entries(parts)
      .filter(([, v]) => v > 0)
      .map(([k, v]) => [k, v / sum]),
  );
}
