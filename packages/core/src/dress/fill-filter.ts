/**
 * A fill filtered over a pixel's footprint, so that it neither aliases when shrunk nor blurs along the short axis on steep views.
 * Source: J. McCormack et al., Feline: Fast Elliptical Lines for Anisotropic Texture Mapping, 1999.
 */
import type { FillPyramid, LinearPicture } from './fill-pyramid';

const MOST_TAPS = 8;

/** Adds a bilinear sample of `level` at (u, v) in its px, times `weight`, to `sum`; borders repeat. Channels are written out: as a loop they took half as long again. */
function addSample(level: LinearPicture, u: number, v: number, weight: number, sum: Float64Array): void {
  const width = level.width, height = level.height, data = level.data, x = u < 0.5 ? 0 : u > width - 0.5 ? width - 1 : u - 0.5, y = v < 0.5 ? 0 : v > height - 0.5 ? height - 1 : v - 0.5;
  const ix = x >= width - 1 ? (width > 1 ? width - 2 : 0) : x | 0, iy = y >= height - 1 ? (height > 1 ? height - 2 : 0) : y | 0, fx = x - ix, fy = y - iy;
  const right = width > 1 ? 4 : 0, k = (iy * width + ix) * 4, l = height > 1 ? k + width * 4 : k;
  const w11 = fx * fy * weight, w10 = fx * weight - w11, w01 = fy * weight - w11, w00 = weight - w10 - w01 - w11, m = k + right, n = l + right;
  sum[0]! += w00 * data[k]! + w10 * data[m]! + w01 * data[l]! + w11 * data[n]!;
  sum[1]! += w00 * data[k + 1]! + w10 * data[m + 1]! + w01 * data[l + 1]! + w11 * data[n + 1]!;
  sum[2]! += w00 * data[k + 2]! + w10 * data[m + 2]! + w01 * data[l + 2]! + w11 * data[n + 2]!;
  sum[3]! += w00 * data[k + 3]! + w10 * data[m + 3]! + w01 * data[l + 3]! + w11 * data[n + 3]!;
}

/** Filters the fill over the parallelogram (du, dv per px right; eu, ev per px down) around (u, v), all in fill px; RGBA in `sum`. */
export function filterFill(fill: FillPyramid, u: number, v: number, du: number, dv: number, eu: number, ev: number, sum: Float64Array): void {
  sum[0] = sum[1] = sum[2] = sum[3] = 0;
  const a = Math.sqrt(du * du + dv * dv), b = Math.sqrt(eu * eu + ev * ev), major = Math.max(a, b);
  const minor = Math.max(Math.abs(du * ev - dv * eu) / Math.max(major, 1e-9), major / MOST_TAPS, 1);
  const taps = Math.min(MOST_TAPS, Math.max(1, Math.ceil(major / minor - 0.1)));
  const lod = Math.min(Math.log2(minor), fill.length - 1), low = Math.floor(lod), t = lod - low;
  const su = a >= b ? du : eu, sv = a >= b ? dv : ev;
  const base = fill[0]!;
  for (let l = low; l <= low + (t > 0.01 ? 1 : 0) && l < fill.length; l++) {
    const level = fill[l]!, kx = level.width / base.width, ky = level.height / base.height;
    const weight = (l === low ? 1 - (t > 0.01 ? t : 0) : t) / taps;
    for (let i = 0; i < taps; i++) {
      const o = (i + 0.5) / taps - 0.5;
      addSample(level, (u + o * su) * kx, (v + o * sv) * ky, weight, sum);
    }
  }
}
