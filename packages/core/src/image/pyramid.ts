/**
 * A picture at halved sizes. Each level is made with the even kernel (1 3 3 1)/8, whose centre lies on the corner
 * between pixels, so that a position x of level 0 is exactly x / 2^l at level l in the corner-origin convention.
 * A pyramid may hold a window of a frame only: `x0`, `y0` place a level's first pixel in that level's coordinates.
 * Source: P. Burt and E. Adelson, The Laplacian Pyramid as a Compact Image Code, 1983 (the idea; their kernel is odd).
 */
import { clamp } from '../clamp';
import type { Lens } from '../geometry/lens';
import { idealBounds } from '../geometry/lens';
import type { Bounds } from '../geometry/polygon';
import type { Luma, RawLuma } from './image';
import type { Kernels } from './kernels';
import { LINE_AT, MOST_LINE, ROW_AT, kernels } from './kernels';

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
  const last = (width >> 1) - 1;
  const end = width - 1;
  for (let i = 1, x = 2; i < last; i++, x += 2)
    out[to + i] = (row[x - 1]! + row[x + 2]! + 3 * (row[x]! + row[x + 1]!)) * 0.125;
  for (let i = 0; i < half; i = i === 0 ? Math.max(1, last) : i + 1) {
    const x = 2 * i;
    out[to + i] =
      (row[Math.max(0, x - 1)]! +
        row[Math.min(end, x + 2)]! +
        3 * (row[Math.min(end, x)]! + row[Math.min(end, x + 1)]!)) *
      0.125;
  }
}

/** Half the width and height, rounded up; borders repeat. */
export function halve(src: Luma): Luma {
  const { width: w, height: h } = src;
  const width = (w + 1) >> 1;
  const height = (h + 1) >> 1;
  const data = new Float32Array(width * height);
  const row = new Float32Array(w);
  for (let y = 0; y < height; y++) {
    const at = 2 * y;
    mixRows(
      src.data,
      Math.max(0, at - 1) * w,
      Math.min(h - 1, at) * w,
      Math.min(h - 1, at + 1) * w,
      Math.min(h - 1, at + 2) * w,
      row,
      w,
    );
    mixAlong(row, w, data, y * width, width);
  }
  return { width, height, data };
}

/** One pixel's share of its four neighbours along one axis, cubic convolution (R. Keys 1981, a = -1/2). */
function keys(t: number, out: Float64Array): void {
  out[0] = t * (-0.5 + t * (1 - 0.5 * t));
  out[1] = 1 + t * t * (1.5 * t - 2.5);
  out[2] = t * (0.5 + t * (2 - 1.5 * t));
  out[3] = t * t * (0.5 * t - 0.5);
}

/** A row of the ideal picture, resampled from the real one; `scale` brings its values to 0 to 255. */
function straightRow(
  frame: RawLuma,
  lens: Lens,
  x0: number,
  y: number,
  n: number,
  scale: number,
  out: Float32Array,
  at: number,
  wx: Float64Array,
  wy: Float64Array,
): void {
  const { data, width, height } = frame;
  const half = width / 2;
  const dy = (y + 0.5 - height / 2) / half;
  for (let i = 0; i < n; i++) {
    const dx = (x0 + i + 0.5 - half) / half;
    const k = 1 + lens.radial * (dx * dx + dy * dy);
    const sx = Math.min(Math.max(half + half * dx * k - 0.5, 1), width - 3);
    const sy = Math.min(Math.max(height / 2 + half * dy * k - 0.5, 1), height - 3);
    const ix = sx | 0;
    const iy = sy | 0;
    keys(sx - ix, wx);
    keys(sy - iy, wy);
    let sum = 0;
    for (let r = 0, o = (iy - 1) * width + ix - 1; r < 4; r++, o += width)
      sum += wy[r]! * (wx[0]! * data[o]! + wx[1]! * data[o + 1]! + wx[2]! * data[o + 2]! + wx[3]! * data[o + 3]!);
    out[at + i] = sum * scale;
  }
}

/** Level 0 of a window, its values 0 to 255. */
function firstLevel(
  frame: RawLuma,
  x0: number,
  y0: number,
  width: number,
  height: number,
  lens: Lens | null,
): Float32Array {
  const data = new Float32Array(width * height);
  const wx = new Float64Array(4);
  const wy = new Float64Array(4);
  const scale = frame.data instanceof Uint16Array ? 1 / 257 : 1;
  for (let y = 0; y < height; y++) {
    if (lens) straightRow(frame, lens, x0, y0 + y, width, scale, data, y * width, wx, wy);
    else {
      const from = (y0 + y) * frame.width + x0;
      data.set(frame.data.subarray(from, from + width), y * width);
    }
  }
  if (scale !== 1 && !lens) for (let i = 0; i < data.length; i++) data[i]! *= scale;
  return data;
}

/** All levels in the kernels' memory, where they lie until the next are made. */
function levelsInKernels(
  k: Kernels,
  frame: RawLuma,
  x0: number,
  y0: number,
  sizes: readonly { width: number; height: number }[],
  lens: Lens | null,
): Float32Array[] {
  const { data } = frame;
  const bytes = data.BYTES_PER_ELEMENT;
  const room = k.room(
    lens ? data.byteLength : 0,
    sizes.map((q) => q.width * q.height),
  );
  const [first] = room.pictures;
  const { width, height } = sizes[0]!;
  if (lens) {
    room.frame.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    for (let y = 0; y < height; y++)
      k.run.straighten(
        room.frame.byteOffset,
        bytes,
        frame.width,
        frame.height,
        lens.radial,
        x0,
        y0 + y,
        width,
        first!.byteOffset + 4 * y * width,
      );
  } else {
    const line = new Uint8Array(k.memory.buffer, LINE_AT, width * bytes);
    const all = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    for (let y = 0; y < height; y++) {
      const from = bytes * ((y0 + y) * frame.width + x0);
      line.set(all.subarray(from, from + width * bytes));
      if (bytes === 1) k.run.widen8(LINE_AT, first!.byteOffset + 4 * y * width, width);
      else k.run.widen16(LINE_AT, first!.byteOffset + 4 * y * width, width);
    }
  }
  for (let l = 1; l < sizes.length; l++)
    k.run.halve(
      room.pictures[l - 1]!.byteOffset,
      sizes[l - 1]!.width,
      sizes[l - 1]!.height,
      room.pictures[l]!.byteOffset,
      ROW_AT,
    );
  return room.pictures;
}

/**
 * The pyramid of a whole frame or of a window of it.
 * @param levels how many, at least 1
 * @param window in px of the frame (of the ideal picture behind a lens); widened to whole pixels of the coarsest level
 * and
 *   cut to the frame
 * @param lens when its term is not zero, the pyramid is that of the ideal picture
 * @param passing the pyramid is done with before the next passing one is made on this thread: it is made faster
 */
export function buildPyramid(frame: RawLuma, levels: number, window?: Bounds, lens?: Lens, passing = false): Pyramid {
  const step = 1 << (levels - 1);
  const bent = lens !== undefined && lens.radial !== 0 ? lens : null;
  const whole: Bounds = bent ? idealBounds(bent) : { x0: 0, y0: 0, x1: frame.width, y1: frame.height };
  const lowX = Math.floor(whole.x0 / step) * step;
  const lowY = Math.floor(whole.y0 / step) * step;
  const highX = Math.floor(whole.x1);
  const highY = Math.floor(whole.y1);
  const x0 = clamp(Math.floor((window?.x0 ?? lowX) / step) * step, lowX, highX - 1);
  const y0 = clamp(Math.floor((window?.y0 ?? lowY) / step) * step, lowY, highY - 1);
  const x1 = clamp(Math.ceil((window?.x1 ?? highX) / step) * step, lowX, highX);
  const y1 = clamp(Math.ceil((window?.y1 ?? highY) / step) * step, lowY, highY);
  const sizes = [{ width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) }];
  for (let l = 1; l < levels; l++)
    sizes.push({ width: (sizes[l - 1]!.width + 1) >> 1, height: (sizes[l - 1]!.height + 1) >> 1 });
  const fast =
    passing &&
    !(frame.data instanceof Float32Array) &&
    sizes[0]!.width <= MOST_LINE &&
    Math.min(frame.width, frame.height) > 4
      ? kernels()
      : null;
  if (fast)
    return levelsInKernels(fast, frame, x0, y0, sizes, bent).map((data, l) => ({
      ...sizes[l]!,
      data,
      x0: x0 / (1 << l),
      y0: y0 / (1 << l),
    }));
  let level: PyramidLevel = {
    ...sizes[0]!,
    data: firstLevel(frame, x0, y0, sizes[0]!.width, sizes[0]!.height, bent),
    x0,
    y0,
  };
  const out = [level];
  for (let l = 1; l < levels; l++) {
    level = { ...halve(level), x0: level.x0 / 2, y0: level.y0 / 2 };
    out.push(level);
  }
  return out;
}
