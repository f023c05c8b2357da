/** What goes into following and what comes out of it, as plain data. */
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { Density } from './cells';
import type { Levels } from './consensus';
import type { TermMemory } from './camera-evidence';
import type { Motion } from './motion';
import type { Patch } from './outlines';
import type { Spot, SpotState } from './spots';

export type Evidence = 'texture' | 'edges' | 'spots' | 'hand';

/** The pin as somebody placed it on a frame. */
export interface HandKey {
  readonly frame: number;
  readonly corners: Quad;
}

export interface FollowSetup {
  readonly pin: Quad;
  readonly patches: readonly Patch[];
  readonly motion: Motion;
  readonly density: Density;
  /** how brightness may change; each cell for itself when left out */
  readonly levels?: Levels;
  readonly evidence: readonly Evidence[];
  /** remembered beside the reference as soon as they are found */
  readonly keyFrames?: readonly number[];
  readonly hand?: readonly HandKey[];
  readonly spots?: readonly Spot[];
  /** frames on which the Screen is in the shot, inclusive; all when left out or empty */
  readonly presence?: readonly { readonly from: number; readonly to: number }[];
  /** the lens's radial term; found from the screen's own edges when left out */
  readonly lens?: number;
  /** share of a frame between the first and the last row's reading; found from the screen's own distortion when left out */
  readonly readout?: number;
  /** corners as a first run found them: how fast things move is taken from the frames on both sides */
  readonly way?: readonly { readonly frame: number; readonly corners: Quad }[];
}

export interface FrameResult {
  readonly frame: number;
  /** reference frame to this frame; null when the screen was not found */
  readonly homography: readonly number[] | null;
  readonly sigma: readonly number[];
  readonly trust: number;
  readonly evidence: Readonly<Record<string, number>>;
  /** what the evidence knows of the corners: upper triangle of 8x8, px^-2, row by row; empty when nothing was found */
  readonly information: readonly number[];
  /** the lens's radial term in use */
  readonly lens?: number;
  /** how far the fastest corner moves while the shutter is open, px */
  readonly blur: number;
  /** see `cell-map.ts`; missing where nothing was looked at */
  readonly cells?: readonly number[];
  /** per spot, where it was found (px of the picture) and how like itself, -1 to 1; null where it was not */
  readonly spots?: readonly (readonly [x: number, y: number, likeness: number] | null)[];
  /** where somebody placed the pin: what following made of it, reference frame to this frame; null when it was not found */
  readonly own?: readonly number[] | null;
  /** why the frame could not be vouched for, a sentence; null when it could */
  readonly reason: string | null;
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

export function isPresent(setup: Pick<FollowSetup, 'presence'>, frame: number): boolean {
  return !setup.presence || setup.presence.length === 0 || setup.presence.some((p) => frame >= p.from && frame <= p.to);
}

/** A follower's whole memory; a run taken up from it goes on exactly as it would have. */
export interface FollowerState {
  /** the last three frames found, newest first */
  readonly found: readonly { readonly frame: number; readonly corners: Quad }[];
  readonly lost: number;
  /** the last frame found before frames were lost that are still to be looked at again, from where the screen was found; null when there are none */
  readonly gap: number | null;
  readonly surprise: number;
  readonly open: boolean;
  readonly pictured: number;
  readonly trust: readonly number[];
  /** per place of the trust grid: frames on which a cell on probation kept to the plane, and the farthest travel on them, px */
  readonly proof: readonly number[];
  readonly railSpread: readonly number[];
  readonly shutter: { readonly agreement: readonly number[]; readonly frames: number };
  readonly views: readonly { readonly corners: Quad; readonly information: readonly number[] }[];
  readonly lens: TermMemory & { readonly radial: number };
  readonly readout: TermMemory;
  readonly spots: readonly SpotState[];
  /** the reference first */
  readonly keys: readonly {
    readonly frame: number;
    readonly homography: readonly number[];
    readonly sigma: readonly number[];
    readonly velocity: readonly Point[];
  }[];
}

/** Upper triangle of a symmetric 8x8 matrix, row by row, and back. */
export function triangle(m: Float64Array): number[] {
  const out: number[] = [];
  for (let i = 0; i < 8; i++) for (let j = i; j < 8; j++) out.push(m[i * 8 + j]!);
  return out;
}

export function fromTriangle(t: readonly number[]): Float64Array {
  const m = new Float64Array(64);
  for (let i = 0, k = 0; i < 8; i++) for (let j = i; j < 8; j++, k++) m[i * 8 + j] = m[j * 8 + i] = t[k]!;
  return m;
}

/** Kinds of evidence with their share of the whole; none that has none. */
export function shares(parts: Record<string, number>): Record<string, number> {
  const sum = Object.values(parts).reduce((s, v) => s + v, 0);
  return Object.fromEntries(
    Object.entries(parts)
      .filter(([, v]) => v > 0)
      .map(([k, v]) => [k, v / sum]),
  );
}
