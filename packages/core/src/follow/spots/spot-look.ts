/** What a spot looks like: a box of picture around it, remembered without its brightness. */
import type { Point } from '../../geometry/point';
import type { RawLuma } from '../../image/image';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import { buildPyramid } from '../../image/pyramid';
import { sampleRowCubic } from '../../image/sample';

/** A 2x2 matrix that leaves a box as it is. */
export const UPRIGHT = [1, 0, 0, 1] as const;

/** px that a box must have for six unknowns to be told. By trial. */
const LEAST_PIXELS = 16;
/** px; sides of a box from which it is looked for at half the size. By trial. */
const LARGE = 15;
/** px; the least side of a box. By trial. */
const SMALLEST = 5;
/** Grey a px of a box's contrast below which it holds none. By trial. */
const LEAST_CONTRAST = 1.5;

export interface Patch {
  /** zero mean and unit norm over the pixels that count, `w*h` */
  readonly values: Float32Array;
  /** indices of the pixels that count */
  readonly used: Int32Array;
  readonly w: number;
  readonly h: number;
}

/** A box that is remembered. */
export interface Look extends Patch {
  readonly frame: number;
  /** the same at half the size, for searching; null for small boxes */
  readonly half: Patch | null;
  /** what the place itself is known to, px */
  readonly sigma: number;
}

/** The picture around a place, two sizes of it, `rx` and `ry` px to each side. */
export function windowOf(luma: RawLuma, at: Point, rx: number, ry: number): Pyramid {
  return buildPyramid(luma, 2, { x0: at[0] - rx - 3, y0: at[1] - ry - 3, x1: at[0] + rx + 3, y1: at[1] + ry + 3 });
}

/** A box of picture that is sampled: its middle, how it is shaped there (2x2 matrix), and its sides, px. */
export interface SampledBox {
  readonly at: Point;
  readonly m: readonly number[];
  readonly w: number;
  readonly h: number;
}

/** `w*h` samples; false at the picture's edge. */
export function sampleBox(
  image: PyramidLevel,
  { at, m, w, h }: SampledBox,
  out: Float32Array,
  sample = sampleRowCubic,
): boolean {
  for (let j = 0; j < h; j++) {
    const v = j - (h - 1) / 2;
    const u = -(w - 1) / 2;
    if (!sample(image, at[0] + m[0]! * u + m[1]! * v, m[0]!, at[1] + m[2]! * u + m[3]! * v, m[2]!, 1, 0, w, out, j * w))
      return false;
  }
  return true;
}

/** Whether a px at this offset from the middle of a box belongs to what is followed. */
export type Counts = (dx: number, dy: number) => boolean;

/** Samples of a box made zero mean and unit norm over the pixels that count; null when they hold no contrast. */
function normalised(image: PyramidLevel, at: Point, w: number, h: number, counts: Counts): Patch | null {
  const values = new Float32Array(w * h);
  const used: number[] = [];
  if (!sampleBox(image, { at, m: UPRIGHT, w, h }, values)) return null;
  for (let j = 0; j < h; j++)
    for (let i = 0; i < w; i++) if (counts(i - (w - 1) / 2, j - (h - 1) / 2)) used.push(j * w + i);
  let mean = 0;
  let square = 0;
  for (const i of used) mean += values[i]! / used.length;
  for (const i of used) {
    values[i]! -= mean;
    square += values[i]! ** 2;
  }
  const norm = Math.sqrt(square);
  if (used.length < LEAST_PIXELS || norm < LEAST_CONTRAST * Math.sqrt(used.length)) return null;
  for (const i of used) values[i]! /= norm;
  return { values, w, h, used: Int32Array.from(used) };
}

/** Where a look is taken: on which frame, what the place is known to (px), what of the box counts. */
export interface Seen {
  readonly frame: number;
  readonly at: Point;
  readonly sigma: number;
  readonly counts: Counts;
}

/** @param box its sides, px. @returns null when it holds no contrast, or lies at the picture's edge */
export function lookAt(luma: RawLuma, box: readonly [number, number], seen: Seen): Look | null {
  const { frame, at, sigma, counts } = seen;
  const w = Math.max(SMALLEST, Math.round(box[0])) | 1;
  const h = Math.max(SMALLEST, Math.round(box[1])) | 1;
  const picture = windowOf(luma, at, w / 2 + 2, h / 2 + 2);
  const own = normalised(picture[0]!, at, w, h, counts);
  if (!own) return null;
  const middle: Point = [at[0] / 2, at[1] / 2];
  const halfCounts: Counts = (dx, dy) => counts(2 * dx, 2 * dy);
  const isLarge = Math.min(w, h) >= LARGE;
  const half = isLarge ? normalised(picture[1]!, middle, (w >> 1) | 1, (h >> 1) | 1, halfCounts) : null;
  return { ...own, frame, sigma, half };
}

/** Correlation of a look with samples beside gain and offset. */
export function likeness(look: Patch, s: Float32Array): number {
  let sum = 0;
  let square = 0;
  let along = 0;
  const { used, values } = look;
  const n = used.length;
  for (let k = 0; k < n; k++) {
    const i = used[k]!;
    const v = s[i]!;
    sum += v;
    square += v * v;
    along += v * values[i]!;
  }
  return along / Math.sqrt(Math.max(square - (sum * sum) / n, 0) + n);
}
