/** Light of one region seen through a homography from another. */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Region } from './region';

/**
 * Weights of four neighbours at a share of the way between the inner two; they keep what lies on a whole px. Source: R.
 * Keys, Cubic Convolution Interpolation for Digital Image Processing, 1981, with a = -1/2.
 */
export function cubicWeights(t: number, out: Float64Array): void {
  const s = 1 - t;
  out[0] = -0.5 * t * s * s;
  out[1] = 1 - t * t * (2.5 - 1.5 * t);
  out[2] = 1 - s * s * (2.5 - 1.5 * s);
  out[3] = -0.5 * s * t * t;
}

/** @param map px of the picture, with middles of pixels at halves, to px of the picture that is sampled */
export function sampleAt(
  map: Matrix3,
  to: Region,
  from: { readonly light: Float32Array; readonly region: Region },
): Float32Array {
  const out = new Float32Array(to.width * to.height * 3);
  const { light, region } = from;
  const across = new Float64Array(4);
  const down = new Float64Array(4);
  for (let y = 0, o = 0; y < to.height; y++)
    for (let x = 0; x < to.width; x++, o += 3) {
      const px = to.x + x + 0.5;
      const py = to.y + y + 0.5;
      const w = map[6]! * px + map[7]! * py + map[8]!;
      // Nearer than a thousandth of a px to a whole one is on it: rounding must not soften a picture that is only moved.
      const u = whole((map[0]! * px + map[1]! * py + map[2]!) / w - region.x - 0.5);
      const v = whole((map[3]! * px + map[4]! * py + map[5]!) / w - region.y - 0.5);
      const x0 = Math.floor(u);
      const y0 = Math.floor(v);
      cubicWeights(u - x0, across);
      cubicWeights(v - y0, down);
      for (let j = 0; j < 4; j++) {
        const row = clamp(y0 - 1 + j, 0, region.height - 1) * region.width;
        for (let i = 0; i < 4; i++) {
          const k = (row + clamp(x0 - 1 + i, 0, region.width - 1)) * 3;
          const weight = down[j]! * across[i]!;
          for (let c = 0; c < 3; c++) out[o + c]! += weight * light[k + c]!;
        }
      }
    }
  return out;
}

/** px; see {@link sampleAt}. */
const NEAR = 1e-3;
function whole(v: number): number {
  const r = Math.round(v);
  return Math.abs(v - r) < NEAR ? r : v;
}
