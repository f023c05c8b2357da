/**
 * A fill filtered over a pixel's footprint, so that it neither aliases when shrunk nor blurs along the short axis on steep views.
 * Source: J. McCormack et al., Feline: Fast Elliptical Lines for Anisotropic Texture Mapping, 1999.
 */
import type { FillPyramid, LinearPicture } from './fill-pyramid';

const MOST_TAPS = 8;

/** Adds a bilinear sample of `level` at (u, v) in its px, times `weight`, to `sum`; borders repeat. */
function addSample(level: LinearPicture, u: number, v: number, weight: number, sum: Float64Array): void {
  const { width, height, data } = level;
  const x = Math.min(Math.max(u - 0.5, 0), width - 1), y = Math.min(Math.max(v - 0.5, 0), height - 1);
  const ix = Math.min(x | 0, Math.max(0, width - 2)), iy = Math.min(y | 0, Math.max(0, height - 2)), fx = x - ix, fy = y - iy;
  const right = width > 1 ? 4 : 0, down = height > 1 ? width * 4 : 0, k = (iy * width + ix) * 4;
  const w00 = (1 - fx) * (1 - fy) * weight, w10 = fx * (1 - fy) * weight, w01 = (1 - fx) * fy * weight, w11 = fx * fy * weight;
  for (let c = 0; c < 4; c++)
    sum[c]! += w00 * data[k + c]! + w10 * data[k + right + c]! + w01 * data[k + down + c]! + w11 * data[k + down + right + c]!;
}

/** Filters the fill over the parallelogram (du, dv per px right; eu, ev per px down) around (u, v), all in fill px; RGBA in `sum`. */
export function filterFill(fill: FillPyramid, u: number, v: number, du: number, dv: number, eu: number, ev: number, sum: Float64Array): void {
  sum.fill(0);
  const a = Math.hypot(du, dv), b = Math.hypot(eu, ev), major = Math.max(a, b);
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
