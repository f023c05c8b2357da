/**
 * Corners that can be told from their surroundings in every direction: the smaller eigenvalue of the structure tensor.
 * Source: J. Shi and C. Tomasi, Good Features to Track, CVPR 1994.
 */
import type { Luma } from '../image/image';

export interface Corner {
  /** px of the picture, corner-origin */
  readonly x: number;
  readonly y: number;
  /** smaller eigenvalue of the mean structure tensor, squared levels per px */
  readonly strength: number;
}

/** Px on each side of a corner over which the tensor is gathered. Common practice, no source. */
const RADIUS = 3;

/** Sums over boxes of `2*RADIUS+1` px a side, in place of each px; borders are left at 0. */
function boxSums(values: Float32Array, width: number, height: number): Float32Array {
  const across = new Float32Array(values.length);
  for (let y = 0; y < height; y++) {
    let sum = 0;
    const row = y * width;
    for (let x = 0; x < width; x++) {
      sum += values[row + x]!;
      const leaving = x - 2 * RADIUS - 1;
      if (leaving >= 0) sum -= values[row + leaving]!;
      if (x >= 2 * RADIUS) across[row + x - RADIUS] = sum;
    }
  }
  const out = new Float32Array(values.length);
  for (let x = RADIUS; x < width - RADIUS; x++) {
    let sum = 0;
    for (let y = 0; y < height; y++) {
      sum += across[y * width + x]!;
      const leaving = y - 2 * RADIUS - 1;
      if (leaving >= 0) sum -= across[leaving * width + x]!;
      if (y >= 2 * RADIUS) out[(y - RADIUS) * width + x] = sum;
    }
  }
  return out;
}

/** @returns smaller eigenvalue at every px, `width*height`, row-major; 0 within four px of the border */
export function cornerStrength({ width, height, data }: Luma): Float32Array {
  const n = width * height;
  const xx = new Float32Array(n);
  const xy = new Float32Array(n);
  const yy = new Float32Array(n);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const gx = 0.5 * (data[i + 1]! - data[i - 1]!);
      const gy = 0.5 * (data[i + width]! - data[i - width]!);
      xx[i] = gx * gx;
      xy[i] = gx * gy;
      yy[i] = gy * gy;
    }
  const a = boxSums(xx, width, height);
  const b = boxSums(xy, width, height);
  const d = boxSums(yy, width, height);
  const area = (2 * RADIUS + 1) ** 2;
  for (let i = 0; i < n; i++) {
    const half = (a[i]! + d[i]!) / 2;
    const across = (a[i]! - d[i]!) / 2;
    a[i] = (half - Math.sqrt(across * across + b[i]! * b[i]!)) / area;
  }
  return a;
}

function isPeak(s: Float32Array, width: number, i: number): boolean {
  const v = s[i]!;
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      const other = s[i + dy * width + dx]!;
      if (other > v || (other === v && dy * width + dx < 0)) return false;
    }
  return true;
}

/**
 * Peaks of the strength, strongest first.
 * @param least strength below which nothing is told
 */
export function cornersOf(picture: Luma, least: number): Corner[] {
  const { width, height } = picture;
  const s = cornerStrength(picture);
  const out: Corner[] = [];
  const margin = RADIUS + 2;
  for (let y = margin; y < height - margin; y++)
    for (let x = margin; x < width - margin; x++) {
      const i = y * width + x;
      if (s[i]! > least && isPeak(s, width, i)) out.push({ x: x + 0.5, y: y + 0.5, strength: s[i]! });
    }
  return out.sort((p, q) => q.strength - p.strength);
}
