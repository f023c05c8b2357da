/**
 * A range of a shot whose end meets its beginning: by a cut, or by a dissolve of so many frames in which the end fades
 * into what comes before the beginning. Plate and plane are both compared along the seam.
 */
import type { Quad } from '../geometry/quad';
import { distance } from '../geometry/point';
import type { SmallFrames } from './clip-offset';
import { coarser } from './clip-offset';

export interface LoopRange {
  /** first and last frame */
  readonly from: number;
  readonly to: number;
  /** frames that fade, the last ones of the range; 0 for a cut */
  readonly dissolve: number;
  /** mean difference of the pictures along the seam, of 255 levels */
  readonly levels: number;
  /** mean distance of the plane's corners along the seam, px; 0 without a plane */
  readonly px: number;
}

export interface LoopSearch {
  readonly from: number;
  readonly to: number;
  readonly dissolve: number;
  /** frames that the loop has at least */
  readonly least: number;
}

const LOOP = {
  /** Frames about a cut that are compared: one on either side tells how things move through it. By trial. */
  cut: 3,
  /** px of a plate 1920 wide that weigh as much as a level of difference. By trial. */
  pxALevel: 2,
  /** Levels of difference that are given up for a range twice as long. By trial. */
  length: 1.5,
} as const;

/**
 * Differences of frame i and frame j along a seam are those of the frames that are mixed: i + k and j + k for the
 * `dissolve` frames before the beginning; for a cut those of the frame after the end and the first one, with one to
 * either side.
 * @param small frames of the whole plate, `across` px wide; `corners` by frame, null where the Screen is not known
 * @param width of the plate, px
 * @returns null when the range is too short
 */
export function loopRange(
  small: SmallFrames,
  across: number,
  corners: (frame: number) => Quad | null,
  width: number,
  { from, to, dissolve, least }: LoopSearch,
): LoopRange | null {
  const frames = coarser(small, across);
  const n = Math.min(frames.count, to + 1);
  const { size, data } = frames;
  const span = Math.max(LOOP.cut, dissolve);
  let best: (LoopRange & { readonly score: number }) | null = null;
  const pictures = (a: number, b: number): number => {
    let sum = 0;
    for (let i = 0, p = a * size, q = b * size; i < size; i++) sum += Math.abs(data[p + i]! - data[q + i]!);
    return sum / size;
  };
  const planes = (a: number, b: number): number | null => {
    const p = corners(a);
    const q = corners(b);
    return p && q ? p.reduce((s, c, i) => s + distance(c, q[i]!) / 4, 0) : null;
  };
  // All pairs that lie equally far apart share a diagonal, along which a window of the seam's length slides.
  for (let apart = least; apart < n - from; apart++) {
    const levels: number[] = [];
    const px: number[] = [];
    const score = (levelSum: number, pxSum: number): number =>
      levelSum / span + ((pxSum / span) * 1920) / width / LOOP.pxALevel + LOOP.length * Math.log2((n - from) / apart);
    let levelSum = 0;
    let pxSum = 0;
    for (let a = from; a + apart < n; a++) {
      // Frame a meets frame a + apart: within a dissolve it is one of those before the beginning.
      levels.push(pictures(a, a + apart));
      px.push(planes(a, a + apart) ?? 0);
      levelSum += levels.at(-1)!;
      pxSum += px.at(-1)!;
      if (levels.length > span) {
        levelSum -= levels[levels.length - span - 1]!;
        pxSum -= px[px.length - span - 1]!;
      }
      if (levels.length < span) continue;
      const start = dissolve > 0 ? a + 1 : a - 1;
      const end = start + apart - 1;
      const value = score(levelSum, pxSum);
      if (end - start + 1 >= least && end <= to && (!best || value < best.score))
        best = { from: start, to: end, dissolve, levels: levelSum / span, px: pxSum / span, score: value };
    }
  }
  if (!best) return null;
  const { from: start, to: end, levels, px } = best;
  return { from: start, to: end, dissolve, levels, px };
}

/**
 * How much of the earlier picture is in the mix for the `i`th of `dissolve` frames that fade: the one after the last
 * would be the beginning itself.
 */
export function fadeShare(i: number, dissolve: number): number {
  return (i + 1) / (dissolve + 1);
}
