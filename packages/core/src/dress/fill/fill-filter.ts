/**
 * A fill filtered over a pixel's footprint, so that it neither aliases when shrunk nor blurs along the short axis on
 * steep views. Source: J. McCormack et al., Feline: Fast Elliptical Lines for Anisotropic Texture Mapping, 1999.
 */
import type { FillPyramid } from './fill-pyramid';

/** Samples along a footprint: steeper views than one in eight become softer than they need to be. By trial. */
export const MOST_TAPS = 8;
/** A footprint longer than wide by less than this share more is taken as round. By trial. */
export const NEARLY = 0.25;

/**
 * Px of the fill across which one tap looks: the narrower side of a footprint, unless that is too much shorter than the
 * longer one; at least one.
 */
export function footprint(du: number, dv: number, eu: number, ev: number): number {
  const major = Math.sqrt(Math.max(du * du + dv * dv, eu * eu + ev * ev));
  const across = Math.abs(du * ev - dv * eu) / Math.max(major, 1e-9);
  return Math.max(1, across, major / MOST_TAPS);
}

/**
 * Filters the fill over the parallelogram (du, dv per px right; eu, ev per px down) around (u, v), all in fill px; RGBA
 * in `sum`. Bilinear samples are written out in the loop, with sums in locals: called one by one into an array they
 * took twice as long.
 */
export function filterFill(
  fill: FillPyramid,
  u: number,
  v: number,
  du: number,
  dv: number,
  eu: number,
  ev: number,
  sum: Float64Array,
): void {
  const a2 = du * du + dv * dv;
  const b2 = eu * eu + ev * ev;
  const major = Math.sqrt(a2 > b2 ? a2 : b2);
  const across = Math.abs(du * ev - dv * eu) / (major > 1e-9 ? major : 1e-9);
  const narrow = major / MOST_TAPS;
  let minor = across > narrow ? across : narrow;
  if (minor < 1) minor = 1;
  const wanted = Math.ceil(major / minor - NEARLY);
  let taps: number;
  if (wanted < 1) taps = 1;
  else if (wanted > MOST_TAPS) taps = MOST_TAPS;
  else taps = wanted;
  const last = fill.length - 1;
  const lod = minor === 1 ? 0 : Math.min(Math.log2(minor), last);
  const low = lod | 0;
  const t = lod - low > 0.01 ? lod - low : 0;
  const su = a2 >= b2 ? du : eu;
  const sv = a2 >= b2 ? dv : ev;
  const base = fill[0]!;
  const high = t > 0 && low < last ? low + 1 : low;
  let red = 0;
  let green = 0;
  let blue = 0;
  let alpha = 0;
  for (let l = low; l <= high; l++) {
    const level = fill[l]!;
    const { width, height, data } = level;
    const kx = level.width / base.width;
    const ky = level.height / base.height;
    const weight = (l === low ? 1 - t : t) / taps;
    const right = width > 1 ? 4 : 0;
    const below = height > 1 ? width * 4 : 0;
    const mostX = width - 1;
    const mostY = height - 1;
    for (let i = 0; i < taps; i++) {
      const o = (i + 0.5) / taps - 0.5;
      const px = (u + o * su) * kx - 0.5;
      const py = (v + o * sv) * ky - 0.5;
      let x: number;
      if (px < 0) x = 0;
      else if (px > mostX) x = mostX;
      else x = px;
      let y: number;
      if (py < 0) y = 0;
      else if (py > mostY) y = mostY;
      else y = py;
      let ix: number;
      if (x >= mostX) ix = width > 1 ? mostX - 1 : 0;
      else ix = x | 0;
      let iy: number;
      if (y >= mostY) iy = height > 1 ? mostY - 1 : 0;
      else iy = y | 0;
      const fx = x - ix;
      const fy = y - iy;
      const k = (iy * width + ix) * 4;
      const m = k + right;
      const n = k + below;
      const p = n + right;
      const w11 = fx * fy * weight;
      const w10 = fx * weight - w11;
      const w01 = fy * weight - w11;
      const w00 = weight - w10 - w01 - w11;
      red += w00 * data[k]! + w10 * data[m]! + w01 * data[n]! + w11 * data[p]!;
      green += w00 * data[k + 1]! + w10 * data[m + 1]! + w01 * data[n + 1]! + w11 * data[p + 1]!;
      blue += w00 * data[k + 2]! + w10 * data[m + 2]! + w01 * data[n + 2]! + w11 * data[p + 2]!;
      alpha += w00 * data[k + 3]! + w10 * data[m + 3]! + w01 * data[n + 3]! + w11 * data[p + 3]!;
    }
  }
  sum[0] = red;
  sum[1] = green;
  sum[2] = blue;
  sum[3] = alpha;
}
