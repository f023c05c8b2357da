/**
 * Defocus of premultiplied light: a Gaussian, or the even disc that an open lens makes of a point. Both keep the sum of
 * light and alpha; beyond the buffer there is nothing.
 */

import { clamp } from '../../clamp';
import { kernelsFor } from '../../image/kernels';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import { WEIGHTS_AT, blurScratch } from '../base/kernel-memory';

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
  const list = s.measured?.values ?? [];
  const own = list.length > 0 ? list[clamp(frame - s.measured!.from, 0, list.length - 1)]! : 0;
  return Math.hypot(valueAt(s.amount, frame, 1) * own, valueAt(s.more, frame, 0) * scale);
}

/** px; less is no blur. By trial. */
const LEAST_SIGMA = 0.05;
/** Halvings of the range in which a kernel's own sigma is looked for: to a ten thousandth of it. */
const HALVINGS = 14;

/** Sigmas beyond which a Gaussian is cut off: 0.3 % of it lies beyond. */
const REACH = 3;

/** Px by which blur of a sigma reaches out. */
export function blurReach(sigma: number, shape: BlurShape): number {
  return sigma <= 0 ? 0 : Math.ceil(shape === 'disc' ? discRadius(sigma) + 1 : REACH * sigma);
}

/** Radius of the disc whose variance along an axis is sigma squared: an even disc of radius r has r^2 / 4. */
export function discRadius(sigma: number): number {
  return 2 * sigma;
}

/** Integrals over whole pixels of a Gaussian, which sum to 1. @param half pixels to either side */
function pixelIntegrals(sigma: number, half: number): Float32Array {
  const out = new Float32Array(2 * half + 1);
  const parts = 8;
  let sum = 0;
  for (let i = -half; i <= half; i++) {
    let w = 0;
    for (let p = 0; p < parts; p++) w += Math.exp(-((i + (p + 0.5) / parts - 0.5) ** 2) / (2 * sigma * sigma));
    sum += out[i + half] = w;
  }
  return out.map((w) => w / sum);
}

/**
 * Weights of a Gaussian over whole pixels; they sum to 1, and their variance is sigma squared: what is blurred by them
 * is pixels already, whose own width must not be added once more.
 */
export function gaussianKernel(sigma: number): Float32Array {
  const half = Math.max(1, Math.ceil(REACH * sigma));
  const varianceOf = (weights: Float32Array): number => weights.reduce((s, w, i) => s + w * (i - half) ** 2, 0);
  let low = LEAST_SIGMA;
  let high = sigma + LEAST_SIGMA;
  for (let k = 0; k < HALVINGS; k++) {
    const middle = (low + high) / 2;
    if (varianceOf(pixelIntegrals(middle, half)) < sigma * sigma) low = middle;
    else high = middle;
  }
  return pixelIntegrals(high, half);
}

/** Share of each pixel of a square of side 2 r + 1 that a disc covers, summed to 1, row by row. */
export function discKernel(radius: number): { readonly half: number; readonly weights: Float32Array } {
  const half = Math.ceil(radius);
  const side = 2 * half + 1;
  const weights = new Float32Array(side * side);
  const parts = 6;
  let sum = 0;
  for (let y = -half; y <= half; y++)
    for (let x = -half; x <= half; x++) {
      let n = 0;
      for (let p = 0; p < parts * parts; p++) {
        const dx = x + ((p % parts) + 0.5) / parts - 0.5;
        const dy = y + (Math.floor(p / parts) + 0.5) / parts - 0.5;
        if (dx * dx + dy * dy <= radius * radius) n++;
      }
      sum += weights[(y + half) * side + x + half] = n;
    }
  return { half, weights: weights.map((w) => w / sum) };
}

/**
 * Pairs of taps that are added in one pass over a row, which is read and written once a pass. Measured by
 * bench:render.
 */
const TOGETHER = 3;

/**
 * Adds `w` times what lies k places to both sides, for up to three k. Arrays are as long as they need to be, with
 * nothing beyond the picture.
 */
function addPairs(
  out: Float32Array,
  to: number,
  n: number,
  a: readonly Float32Array[],
  at: readonly number[],
  w: readonly number[],
): void {
  const [a0, b0, a1, b1, a2, b2] = a as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const [i0, j0, i1, j1, i2, j2] = at as [number, number, number, number, number, number];
  const [w0, w1, w2] = w as [number, number, number];
  if (w1 === 0) for (let i = 0; i < n; i++) out[to + i]! += w0 * (a0[i0 + i]! + b0[j0 + i]!);
  else if (w2 === 0)
    for (let i = 0; i < n; i++) out[to + i]! += w0 * (a0[i0 + i]! + b0[j0 + i]!) + w1 * (a1[i1 + i]! + b1[j1 + i]!);
  else
    for (let i = 0; i < n; i++)
      out[to + i]! +=
        w0 * (a0[i0 + i]! + b0[j0 + i]!) + w1 * (a1[i1 + i]! + b1[j1 + i]!) + w2 * (a2[i2 + i]! + b2[j2 + i]!);
}

/**
 * What an even kernel makes of rows: its middle, and its pairs three at a time. @param pair the arrays and places k to
 * either side
 */
function alongKernel(
  out: Float32Array,
  to: number,
  n: number,
  kernel: Float32Array,
  own: Float32Array,
  from: number,
  pair: (k: number, arrays: Float32Array[], at: number[]) => void,
): void {
  const half = kernel.length >> 1;
  const middle = kernel[half]!;
  for (let i = 0; i < n; i++) out[to + i] = middle * own[from + i]!;
  for (let k = 1; k <= half; k += TOGETHER) {
    const arrays: Float32Array[] = [];
    const at: number[] = [];
    const w: number[] = [];
    for (let j = 0; j < TOGETHER; j++) {
      pair(Math.min(half, k + j), arrays, at);
      w.push(k + j <= half ? kernel[half + k + j]! : 0);
    }
    addPairs(out, to, n, arrays, at, w);
  }
}

/** Blurs `width*height*channels` interleaved floats in place, row and column by row and column. */
export function gaussianBlur(data: Float32Array, width: number, height: number, channels: number, sigma: number): void {
  if (!(sigma > LEAST_SIGMA)) return;
  const kernel = gaussianKernel(sigma);
  const half = kernel.length >> 1;
  const row = width * channels;
  const wasm = kernelsFor(data);
  const room = wasm?.scratch(blurScratch(row, channels, half)) ?? null;
  if (wasm && room !== null) {
    wasm.memory.set(kernel.subarray(half), WEIGHTS_AT / 4);
    wasm.run.blur(data.byteOffset, row, height, channels, WEIGHTS_AT, half, room);
    return;
  }
  const edge = half * channels;
  const padded = new Float32Array(row + 2 * edge);
  for (let y = 0; y < height; y++) {
    padded.set(data.subarray(y * row, (y + 1) * row), edge);
    alongKernel(data, y * row, row, kernel, padded, edge, (k, arrays, at) => {
      arrays.push(padded, padded);
      at.push(edge - k * channels, edge + k * channels);
    });
  }
  // Down the columns by whole rows, which lie one after the other in memory: those still needed are kept as they were.
  const kept = Array.from({ length: half + 1 }, () => new Float32Array(row));
  const nothing = new Float32Array(row);
  for (let y = 0; y < height; y++) {
    const own = kept[y % (half + 1)]!;
    own.set(data.subarray(y * row, (y + 1) * row));
    alongKernel(data, y * row, row, kernel, own, 0, (k, arrays, at) => {
      arrays.push(y - k >= 0 ? kept[(y - k) % (half + 1)]! : nothing, y + k < height ? data : nothing);
      at.push(0, y + k < height ? (y + k) * row : 0);
    });
  }
}

/** What of a kernel lies within a line of `n` places, at each of them. */
function sharesWithin(kernel: Float32Array, n: number): Float32Array {
  const half = kernel.length >> 1;
  return Float32Array.from({ length: n }, (_, i) => {
    let sum = 0;
    for (let k = Math.max(-half, -i); k <= Math.min(half, n - 1 - i); k++) sum += kernel[half + k]!;
    return sum;
  });
}

/**
 * As {@link gaussianBlur} of one channel, where nothing is known beyond the buffer: at its border the mean of what is
 * there.
 */
export function gaussianMean(data: Float32Array, width: number, height: number, sigma: number): void {
  if (!(sigma > LEAST_SIGMA)) return;
  gaussianBlur(data, width, height, 1, sigma);
  const kernel = gaussianKernel(sigma);
  const [across, down] = [sharesWithin(kernel, width), sharesWithin(kernel, height)];
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) data[i]! /= across[x]! * down[y]!;
}

/**
 * As {@link gaussianBlur} with a disc: every row of the disc is an even run but for its two ends, so that running sums
 * along the rows make the work grow with the radius and not with its square.
 */
function discBlur(data: Float32Array, width: number, height: number, channels: number, radius: number): void {
  const { half, weights } = discKernel(radius);
  const side = 2 * half + 1;
  const row = width * channels;
  const out = new Float32Array(data.length);
  const sums = new Float64Array((width + 1) * channels);
  for (let sy = 0; sy < height; sy++) {
    for (let i = 0; i < row; i++) sums[i + channels] = sums[i]! + data[sy * row + i]!;
    for (let ky = -half; ky <= half; ky++) {
      const y = sy + ky;
      if (y >= 0 && y < height)
        addRun(
          data,
          sums,
          out,
          sy * row,
          y * row,
          width,
          channels,
          weights.subarray((ky + half) * side, (ky + half + 1) * side),
          half,
        );
    }
  }
  data.set(out);
}

function addRun(
  data: Float32Array,
  sums: Float64Array,
  out: Float32Array,
  from: number,
  to: number,
  width: number,
  channels: number,
  weights: Float32Array,
  half: number,
): void {
  const full = weights[half]!;
  if (full === 0) return;
  let reach = half;
  while (reach > 0 && weights[half + reach]! < full * 0.9999) reach--;
  for (let x = 0; x < width; x++) {
    const a = Math.max(0, x - reach);
    const b = Math.min(width - 1, x + reach);
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
export function defocus(
  data: Float32Array,
  width: number,
  height: number,
  channels: number,
  sigma: number,
  shape: BlurShape,
): void {
  if (!(sigma > LEAST_SIGMA)) return;
  if (shape === 'disc') discBlur(data, width, height, channels, discRadius(sigma));
  else gaussianBlur(data, width, height, channels, sigma);
}
