/**
 * Rows of samples along a projective path. The hot loops of following: flat, allocation-free, called once per template
 * row so that the engine compiles them whole (one long call is compiled by on-stack replacement, several times slower).
 */
import type { Matrix3 } from '../geometry/matrix3';
import { MOST_CELL, OUT_AT, kernelsFor } from './kernels';
import type { PyramidLevel } from './pyramid';

/**
 * Samples `n` points (x, y) = ((a0 + i a1) / (w0 + i w1), (b0 + i b1) / (w0 + i w1)), given in the level's px, with
 * bilinear interpolation.
 * @returns false as soon as a point needs a pixel outside the level
 */
export function sampleRowLinear(
  level: PyramidLevel,
  a0: number,
  a1: number,
  b0: number,
  b1: number,
  w0: number,
  w1: number,
  n: number,
  out: Float32Array,
  at: number,
): boolean {
  const data = level.data;
  const width = level.width;
  const maxX = level.width - 1;
  const maxY = level.height - 1;
  const ox = level.x0 + 0.5;
  const oy = level.y0 + 0.5;
  for (let i = 0; i < n; i++) {
    const w = 1 / (w0 + i * w1);
    const x = (a0 + i * a1) * w - ox;
    const y = (b0 + i * b1) * w - oy;
    if (!(x >= 0 && y >= 0 && x < maxX && y < maxY)) return false;
    const ix = x | 0;
    const iy = y | 0;
    const fx = x - ix;
    const fy = y - iy;
    const k = iy * width + ix;
    const top = data[k]! + fx * (data[k + 1]! - data[k]!);
    const bottom = data[k + width]! + fx * (data[k + width + 1]! - data[k + width]!);
    out[at + i] = top + fy * (bottom - top);
  }
  return true;
}

/** As {@link sampleRowLinear}, with cubic convolution (R. Keys 1981, a = -1/2), which does not blur the samples. */
export function sampleRowCubic(
  level: PyramidLevel,
  a0: number,
  a1: number,
  b0: number,
  b1: number,
  w0: number,
  w1: number,
  n: number,
  out: Float32Array,
  at: number,
): boolean {
  const data = level.data;
  const width = level.width;
  const maxX = level.width - 2;
  const maxY = level.height - 2;
  const ox = level.x0 + 0.5;
  const oy = level.y0 + 0.5;
  for (let i = 0; i < n; i++) {
    const w = 1 / (w0 + i * w1);
    const x = (a0 + i * a1) * w - ox;
    const y = (b0 + i * b1) * w - oy;
    if (!(x >= 1 && y >= 1 && x < maxX && y < maxY)) return false;
    const ix = x | 0;
    const iy = y | 0;
    const t = x - ix;
    const s = y - iy;
    const c0 = t * (-0.5 + t * (1 - 0.5 * t));
    const c1 = 1 + t * t * (1.5 * t - 2.5);
    const c2 = t * (0.5 + t * (2 - 1.5 * t));
    const c3 = t * t * (0.5 * t - 0.5);
    let k = (iy - 1) * width + ix - 1;
    const r0 = c0 * data[k]! + c1 * data[k + 1]! + c2 * data[k + 2]! + c3 * data[k + 3]!;
    k += width;
    const r1 = c0 * data[k]! + c1 * data[k + 1]! + c2 * data[k + 2]! + c3 * data[k + 3]!;
    k += width;
    const r2 = c0 * data[k]! + c1 * data[k + 1]! + c2 * data[k + 2]! + c3 * data[k + 3]!;
    k += width;
    const r3 = c0 * data[k]! + c1 * data[k + 1]! + c2 * data[k + 2]! + c3 * data[k + 3]!;
    out[at + i] =
      s * (-0.5 + s * (1 - 0.5 * s)) * r0 +
      (1 + s * s * (1.5 * s - 2.5)) * r1 +
      s * (0.5 + s * (2 - 1.5 * s)) * r2 +
      s * s * (0.5 * s - 0.5) * r3;
  }
  return true;
}

/**
 * A square cell of `side` samples, `step` apart in normalised template coordinates from (u, v) on.
 * @param h normalised template coordinates to px of the level
 * @param ox px of the level by which the whole cell lies beside where `h` puts it, and `oy`
 * @param out `side*side` samples
 * @returns false when a sample needs a pixel outside the level
 */
export function sampleCell(
  level: PyramidLevel,
  h: Matrix3,
  u: number,
  v: number,
  step: number,
  side: number,
  cubic: boolean,
  out: Float32Array,
  ox = 0,
  oy = 0,
): boolean {
  const g = h[6]!;
  const q = h[7]!;
  const w = g * u + q * v + h[8]!;
  const a = h[0]! * u + h[1]! * v + h[2]! + ox * w;
  const b = h[3]! * u + h[4]! * v + h[5]! + oy * w;
  const au = (h[0]! + ox * g) * step;
  const av = (h[1]! + ox * q) * step;
  const bu = (h[3]! + oy * g) * step;
  const bv = (h[4]! + oy * q) * step;
  const k = side * side <= MOST_CELL ? kernelsFor(level.data) : null;
  if (k) {
    const there = k.run.cell(
      level.data.byteOffset,
      level.width,
      level.height,
      a,
      au,
      av,
      b,
      bu,
      bv,
      w,
      g * step,
      q * step,
      level.x0 + 0.5,
      level.y0 + 0.5,
      side,
      cubic ? 1 : 0,
      OUT_AT,
    );
    if (there)
      for (let i = 0, n = side * side, { memory } = k, from = OUT_AT / 4; i < n; i++) out[i] = memory[from + i]!;
    return there !== 0;
  }
  const sample = cubic ? sampleRowCubic : sampleRowLinear;
  for (let j = 0; j < side; j++) {
    if (!sample(level, a + av * j, au, b + bv * j, bu, w + q * step * j, g * step, side, out, j * side)) return false;
  }
  return true;
}
