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

/** Borders apart, so that the inner loop has no branches. */
function halveRow(src: Float32Array, from: number, width: number, out: Float32Array, to: number, half: number): void {
  const last = (width >> 1) - 1;
  for (let i = 1, x = from + 2; i < last; i++, x += 2) out[to + i] = (src[x - 1]! + src[x + 2]! + 3 * (src[x]! + src[x + 1]!)) * 0.125;
  for (let i = 0; i < half; i = i === 0 ? Math.max(1, last) : i + 1) {
    const x = 2 * i, at = (k: number): number => src[from + Math.min(Math.max(k, 0), width - 1)]!;
    out[to + i] = (at(x - 1) + at(x + 2) + 3 * (at(x) + at(x + 1))) * 0.125;
  }
}

function mixRows(rows: Float32Array, a: number, b: number, c: number, d: number, out: Float32Array, to: number, n: number): void {
  for (let i = 0; i < n; i++) out[to + i] = (rows[a + i]! + rows[d + i]! + 3 * (rows[b + i]! + rows[c + i]!)) * 0.125;
}

/** Half the width and height, rounded up; borders repeat. */
export function halve(src: Luma): Luma {
  const width = (src.width + 1) >> 1, height = (src.height + 1) >> 1;
  const rows = new Float32Array(width * src.height);
  for (let y = 0; y < src.height; y++) halveRow(src.data, y * src.width, src.width, rows, y * width, width);
  const data = new Float32Array(width * height);
  const at = (y: number): number => Math.min(Math.max(y, 0), src.height - 1) * width;
  for (let y = 0; y < height; y++)
    mixRows(rows, at(2 * y - 1), at(2 * y), at(2 * y + 1), at(2 * y + 2), data, y * width, width);
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
