/**
 * Defocus of premultiplied light: a Gaussian, or the even disc that an open lens makes of a point. Both keep the sum of light
 * and alpha; beyond the buffer there is nothing.
 */

import type { Animated } from './keys';
import { valueAt } from './keys';

export type BlurShape = 'gaussian' | 'disc';

export interface Softness {
  /** how much of the plate's measured blur the fill takes, 1 as measured */
  readonly amount?: Animated;
  /** more blur of one's own, sigma in px of the reference frame; the squares add up */
  readonly more?: Animated;
  readonly shape?: BlurShape;
  /** sigma of the plate at the glass edges by frame, px of the frame */
  readonly measured?: { readonly from: number; readonly values: readonly number[] };
}

/** Sigma on a frame, px of the frame. @param scale px of the frame a px of the reference frame */
export function softnessAt(s: Softness, frame: number, scale: number): number {
  const list = s.measured?.values ?? [], own = list.length > 0 ? list[Math.min(list.length - 1, Math.max(0, frame - s.measured!.from))]! : 0;
  return Math.hypot(valueAt(s.amount, frame, 1) * own, valueAt(s.more, frame, 0) * scale);
}

/** Beyond so many sigmas a Gaussian is cut off. */
const REACH = 3;

/** Px by which blur of a sigma reaches out. */
export function blurReach(sigma: number, shape: BlurShape): number {
  return sigma <= 0 ? 0 : Math.ceil(shape === 'disc' ? discRadius(sigma) + 1 : REACH * sigma);
}

/** Radius of the disc whose variance along an axis is sigma squared: an even disc of radius r has r^2 / 4. */
export function discRadius(sigma: number): number {
  return 2 * sigma;
}

/** Weights of a Gaussian over whole pixels, each the integral over its pixel; they sum to 1. */
export function gaussianKernel(sigma: number): Float32Array {
  const half = Math.max(1, Math.ceil(REACH * sigma)), out = new Float32Array(2 * half + 1), parts = 8;
  let sum = 0;
  for (let i = -half; i <= half; i++) {
    let w = 0;
    for (let p = 0; p < parts; p++) w += Math.exp(-((i + (p + 0.5) / parts - 0.5) ** 2) / (2 * sigma * sigma));
    sum += out[i + half] = w;
  }
  return out.map((w) => w / sum);
}

/** Share of each pixel of a square of side 2 r + 1 that a disc covers, summed to 1, row by row. */
export function discKernel(radius: number): { readonly half: number; readonly weights: Float32Array } {
  const half = Math.ceil(radius), side = 2 * half + 1, weights = new Float32Array(side * side), parts = 6;
  let sum = 0;
  for (let y = -half; y <= half; y++)
    for (let x = -half; x <= half; x++) {
      let n = 0;
      for (let p = 0; p < parts * parts; p++) {
        const dx = x + ((p % parts) + 0.5) / parts - 0.5, dy = y + (Math.floor(p / parts) + 0.5) / parts - 0.5;
        if (dx * dx + dy * dy <= radius * radius) n++;
      }
      sum += weights[(y + half) * side + x + half] = n;
    }
  return { half, weights: weights.map((w) => w / sum) };
}

/** One row of `n` places, `channels` interleaved: the kernel's middle and its pairs, since it is even. */
function alongRow(src: Float32Array, n: number, channels: number, kernel: Float32Array, out: Float32Array): void {
  const half = kernel.length >> 1, middle = kernel[half]!, last = n * channels;
  for (let i = 0; i < last; i++) out[i] = middle * src[i]!;
  for (let k = 1; k <= half; k++) {
    const w = kernel[half + k]!, far = k * channels;
    for (let i = far; i < last; i++) {
      out[i]! += w * src[i - far]!;
      out[i - far]! += w * src[i]!;
    }
  }
}

/** Blurs `width*height*channels` interleaved floats in place, row and column by row and column. */
export function gaussianBlur(data: Float32Array, width: number, height: number, channels: number, sigma: number): void {
  if (!(sigma > 0.05)) return;
  const kernel = gaussianKernel(sigma), half = kernel.length >> 1, row = width * channels, line = new Float32Array(row);
  for (let y = 0; y < height; y++) {
    const own = data.subarray(y * row, (y + 1) * row);
    alongRow(own, width, channels, kernel, line);
    own.set(line);
  }
  // Down the columns by whole rows, which lie one after the other in memory: those still needed are kept as they were.
  const kept = Array.from({ length: half + 1 }, () => new Float32Array(row));
  for (let y = 0; y < height; y++) {
    kept[y % (half + 1)]!.set(data.subarray(y * row, (y + 1) * row));
    addRows(data, kept, kernel, half, y, height, row);
  }
}

function addRows(data: Float32Array, kept: readonly Float32Array[], kernel: Float32Array, half: number, y: number, height: number, row: number): void {
  const at = y * row, own = kept[y % (half + 1)]!, middle = kernel[half]!;
  for (let i = 0; i < row; i++) data[at + i] = middle * own[i]!;
  for (let k = 1; k <= half; k++) {
    const w = kernel[half + k]!;
    if (y - k >= 0) addRow(data, at, kept[(y - k) % (half + 1)]!, 0, w, row);
    if (y + k < height) addRow(data, at, data, at + k * row, w, row);
  }
}

function addRow(out: Float32Array, to: number, src: Float32Array, from: number, w: number, n: number): void {
  for (let i = 0; i < n; i++) out[to + i]! += w * src[from + i]!;
}

/**
 * As {@link gaussianBlur} with a disc: every row of the disc is an even run but for its two ends, so that running sums along
 * the rows make the work grow with the radius and not with its square.
 */
function discBlur(data: Float32Array, width: number, height: number, channels: number, radius: number): void {
  const { half, weights } = discKernel(radius), side = 2 * half + 1, row = width * channels, out = new Float32Array(data.length), sums = new Float64Array((width + 1) * channels);
  for (let sy = 0; sy < height; sy++) {
    for (let i = 0; i < row; i++) sums[i + channels] = sums[i]! + data[sy * row + i]!;
    for (let ky = -half; ky <= half; ky++) {
      const y = sy + ky;
      if (y >= 0 && y < height) addRun(data, sums, out, sy * row, y * row, width, channels, weights.subarray((ky + half) * side, (ky + half + 1) * side), half);
    }
  }
  data.set(out);
}

function addRun(data: Float32Array, sums: Float64Array, out: Float32Array, from: number, to: number, width: number, channels: number, weights: Float32Array, half: number): void {
  const full = weights[half]!;
  if (full === 0) return;
  let reach = half;
  while (reach > 0 && weights[half + reach]! < full * 0.9999) reach--;
  for (let x = 0; x < width; x++) {
    const a = Math.max(0, x - reach), b = Math.min(width - 1, x + reach);
    for (let c = 0; c < channels; c++) {
      let s = full * (sums[(b + 1) * channels + c]! - sums[a * channels + c]!);
      for (let k = reach + 1; k <= half; k++) {
        const w = weights[half + k]!;
        if (w === 0) break;
        if (x - k >= 0) s += w * data[from + (x - k) * channels + c]!;
        if (x + k < width) s += w * data[from + (x + k) * channels + c]!;
      }
      out[to + x * channels + c]! += s;
    }
  }
}

/** Defocuses in place. @param sigma standard deviation along an axis, px, for either shape */
export function defocus(data: Float32Array, width: number, height: number, channels: number, sigma: number, shape: BlurShape): void {
  if (!(sigma > 0.05)) return;
  if (shape === 'disc') discBlur(data, width, height, channels, discRadius(sigma));
  else gaussianBlur(data, width, height, channels, sigma);
}
