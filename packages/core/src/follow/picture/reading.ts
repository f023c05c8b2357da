/**
 * What the pictures of a Screen are read from. Luma serves most plates; where another mix of the channels shows the
 * followed picture clearer against its noise (markers on a coloured screen, a noisy blue channel), that one is better.
 */
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { LUMINANCE } from '../../image/luminance';
import { quantile } from '../../statistics';
import type { Patch } from '../outline/outlines';
import type { Region } from '../outline/region';
import { followRegion, rasterise } from '../outline/region';

export type Reading = 'auto' | 'luma' | 'red' | 'green' | 'blue';
/** Weights of red, green and blue; they add up to 1. */
export type Mix = readonly [red: number, green: number, blue: number];

/** Luma as a mix (ITU-R BT.709-6). */
const LUMA: Mix = LUMINANCE;
const READING = {
  /** Steps in which each channel's weight is tried. By trial. */
  steps: 10,
  /** Times as clear as luma that a mix must be to be worth reading anew. By trial. */
  clearer: 2,
  /** px of the part's shorter side. By trial. */
  leastSide: 8,
  /** px that must tell. By trial. */
  enough: 400,
  /** Share of the pixels, the flattest ones, whose second differences are taken for noise. By trial. */
  flat: 0.5,
} as const;

/** w' m w of a symmetric 3x3 matrix. */
function along(m: Float64Array, w: Mix): number {
  let s = 0;
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) s += w[i]! * m[3 * i + j]! * w[j]!;
  return s;
}

/** What the three channels show inside the outlines. */
interface Shown {
  /** sum of the products of their slopes, 3x3 */
  readonly structure: Float64Array;
  /** per px, three second differences, which are blind to planes and most edges */
  readonly rough: Float64Array;
  /** per px, their squared length */
  readonly size: Float64Array;
  readonly pixels: number;
}

/** The picture's part that is read: where it begins, and its sides, px. */
interface Part {
  readonly x0: number;
  readonly y0: number;
  readonly w: number;
  readonly h: number;
}

function partOf({ width, height }: Raster, { bounds }: Region): Part {
  const x0 = Math.max(1, Math.floor(bounds.x0));
  const y0 = Math.max(1, Math.floor(bounds.y0));
  return {
    x0,
    y0,
    w: Math.min(width - 1, Math.ceil(bounds.x1)) - x0,
    h: Math.min(height - 1, Math.ceil(bounds.y1)) - y0,
  };
}

/** @param mask of the part; 0 outside the outlines */
function shownIn(picture: Raster, { x0, y0, w, h }: Part, mask: Uint8Array): Shown {
  const { width, channels, data } = picture;
  const scale = 255 / maxOf(picture);
  const structure = new Float64Array(9);
  const rough = new Float64Array(3 * w * h);
  const size = new Float64Array(w * h);
  const row = width * channels;
  const g = new Float64Array(6);
  const v = (i: number, k: number): number => data[i + k]! * scale;
  let pixels = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (mask[y * w + x] === 0) continue;
      const at = (y0 + y) * row + (x0 + x) * channels;
      for (let k = 0; k < 3; k++) {
        g[2 * k] = (v(at + channels, k) - v(at - channels, k)) / 2;
        g[2 * k + 1] = (v(at + row, k) - v(at - row, k)) / 2;
        // J. Immerkaer, Fast Noise Variance Estimation, 1996: its noise gain is 6.
        rough[3 * pixels + k] =
          (v(at - row - channels, k) +
            v(at - row + channels, k) +
            v(at + row - channels, k) +
            v(at + row + channels, k) -
            2 * (v(at - row, k) + v(at + row, k) + v(at - channels, k) + v(at + channels, k)) +
            4 * v(at, k)) /
          6;
      }
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) structure[3 * i + j]! += g[2 * i]! * g[2 * j]! + g[2 * i + 1]! * g[2 * j + 1]!;
      size[pixels] = rough[3 * pixels]! ** 2 + rough[3 * pixels + 1]! ** 2 + rough[3 * pixels + 2]! ** 2;
      pixels++;
    }
  return { structure, rough, size, pixels };
}

/** Covariance of the channels' noise, where the picture is flattest. */
function noiseOf({ rough, size, pixels }: Shown): Float64Array {
  const flattest = quantile(size.subarray(0, pixels), READING.flat);
  const sum = new Float64Array(9);
  let flat = 0;
  for (let p = 0; p < pixels; p++) {
    if (!(size[p]! <= flattest)) continue;
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) sum[3 * i + j]! += rough[3 * p + i]! * rough[3 * p + j]!;
    flat++;
  }
  // Rounding is noise as well; it is taken as common to the channels, so that clean pictures stay with luma.
  return sum.map((v) => 1 / 12 + v / flat);
}

/**
 * The mix in which structure stands highest above noise inside the outlines, both measured on the reference frame; null
 * when luma is as good.
 * @param picture the reference frame, RGB or RGBA
 */
export function clearestMix(picture: Raster, pin: Quad, patches: readonly Patch[]): Mix | null {
  const { width, height } = picture;
  const region = followRegion(pin, patches, { radial: 0, width, height });
  const part = partOf(picture, region);
  if (part.w < READING.leastSide || part.h < READING.leastSide) return null;
  const shown = shownIn(
    picture,
    part,
    rasterise(region, { x0: part.x0, y0: part.y0, width: part.w, height: part.h, scale: 1 }),
  );
  if (shown.pixels < READING.enough) return null;
  const noise = noiseOf(shown);
  const clearness = (m: Mix): number =>
    Math.max(0, along(shown.structure, m) / shown.pixels - along(noise, m)) / along(noise, m);
  let best: Mix = LUMA;
  for (let i = 0; i <= READING.steps; i++)
    for (let j = 0; i + j <= READING.steps; j++) {
      const m: Mix = [i / READING.steps, j / READING.steps, (READING.steps - i - j) / READING.steps];
      if (clearness(m) > clearness(best)) best = m;
    }
  return clearness(best) > READING.clearer * clearness(LUMA) ? best : null;
}

/** The channels that a reading names; null for luma; `auto` is left to {@link clearestMix}. */
export function mixOf(reading: Exclude<Reading, 'auto'>): Mix | null {
  if (reading === 'luma') return null;
  if (reading === 'red') return [1, 0, 0];
  if (reading === 'green') return [0, 1, 0];
  return [0, 0, 1];
}
