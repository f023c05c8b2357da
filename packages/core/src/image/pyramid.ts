/**
 * A picture at halved sizes. Each level is made with the even kernel (1 3 3 1)/8, whose centre lies on the corner
 * between pixels, so that a position x of level 0 is exactly x / 2^l at level l in the corner-origin convention.
 * A pyramid may hold a window of a frame only: `x0`, `y0` place a level's first pixel in that level's coordinates.
 * Source: P. Burt and E. Adelson, The Laplacian Pyramid as a Compact Image Code, 1983 (the idea; their kernel is odd).
 */
import type { Bounds } from '../geometry/polygon';
import type { Luma, RawLuma } from './image';

export interface PyramidLevel extends Luma {
  readonly x0: number;
  readonly y0: number;
}

export type Pyramid = readonly PyramidLevel[];

/** One row out of four, weighed 1 3 3 1. */
function mixRows(src: Float32Array, a: number, b: number, c: number, d: number, out: Float32Array, n: number): void {
  for (let i = 0; i < n; i++) out[i] = (src[a + i]! + src[d + i]! + 3 * (src[b + i]! + src[c + i]!)) * 0.125;
}

/** The same along a row of `width`; borders repeat and stand apart, so that the inner loop has no branches. */
function mixAlong(row: Float32Array, width: number, out: Float32Array, to: number, half: number): void {
  const last = (width >> 1) - 1, end = width - 1;
  for (let i = 1, x = 2; i < last; i++, x += 2) out[to + i] = (row[x - 1]! + row[x + 2]! + 3 * (row[x]! + row[x + 1]!)) * 0.125;
  for (let i = 0; i < half; i = i === 0 ? Math.max(1, last) : i + 1) {
    const x = 2 * i;
    out[to + i] = (row[Math.max(0, x - 1)]! + row[Math.min(end, x + 2)]! + 3 * (row[Math.min(end, x)]! + row[Math.min(end, x + 1)]!)) * 0.125;
  }
}

/** Half the width and height, rounded up; borders repeat. */
export function halve(src: Luma): Luma {
  const { width: w, height: h } = src, width = (w + 1) >> 1, height = (h + 1) >> 1, data = new Float32Array(width * height), row = new Float32Array(w);
  for (let y = 0; y < height; y++) {
    const at = 2 * y;
    mixRows(src.data, Math.max(0, at - 1) * w, Math.min(h - 1, at) * w, Math.min(h - 1, at + 1) * w, Math.min(h - 1, at + 2) * w, row, w);
    mixAlong(row, w, data, y * width, width);
  }
  return { width, height, data };
}

/**
 * The pyramid of a whole frame or of a window of it.
 * @param levels how many, at least 1
 * @param window in px of the frame; widened to whole pixels of the coarsest level and cut to the frame
 */
export function buildPyramid(frame: RawLuma, levels: number, window?: Bounds): Pyramid {
  const step = 1 << (levels - 1);
  const clamp = (v: number, hi: number): number => Math.min(Math.max(v, 0), hi);
  const x0 = clamp(Math.floor((window?.x0 ?? 0) / step) * step, frame.width - 1);
  const y0 = clamp(Math.floor((window?.y0 ?? 0) / step) * step, frame.height - 1);
  const x1 = clamp(Math.ceil((window?.x1 ?? frame.width) / step) * step, frame.width);
  const y1 = clamp(Math.ceil((window?.y1 ?? frame.height) / step) * step, frame.height);
  const width = Math.max(1, x1 - x0), height = Math.max(1, y1 - y0);
  const data = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const from = (y0 + y) * frame.width + x0;
    data.set(frame.data.subarray(from, from + width), y * width);
  }
  if (frame.data instanceof Uint16Array) for (let i = 0; i < data.length; i++) data[i]! /= 257;
  let level: PyramidLevel = { width, height, data, x0, y0 };
  const out = [level];
  for (let l = 1; l < levels; l++) {
    level = { ...halve(level), x0: level.x0 / 2, y0: level.y0 / 2 };
    out.push(level);
  }
  return out;
}
