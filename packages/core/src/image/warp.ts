/** A picture seen through a homography: every pixel of the result looks up where it comes from. */
import { clamp } from '../clamp';
import type { Matrix3 } from '../geometry/matrix3';
import type { Raster } from './image';
import { emptyLike } from './image';

/**
 * @param m from the result's px to the picture's
 * @returns a picture of the same kind, `width` by `height`; black where the picture does not reach, bilinear between
 * its pixels' centres
 */
export function warp(picture: Raster, m: Matrix3, width: number, height: number): Raster {
  const { channels, data } = picture;
  const made = emptyLike(picture, width, height, channels);
  const out = made.data;
  const float = out instanceof Float32Array;
  const row = picture.width * channels;
  const lastX = picture.width - 1;
  const lastY = picture.height - 1;
  for (let y = 0; y < height; y++) {
    let a = m[0]! * 0.5 + m[1]! * (y + 0.5) + m[2]!;
    let b = m[3]! * 0.5 + m[4]! * (y + 0.5) + m[5]!;
    let w = m[6]! * 0.5 + m[7]! * (y + 0.5) + m[8]!;
    for (let x = 0, to = y * width * channels; x < width; x++, to += channels, a += m[0]!, b += m[3]!, w += m[6]!) {
      const u = a / w - 0.5;
      const v = b / w - 0.5;
      if (!(w > 0 && u > -0.5 && v > -0.5 && u < lastX + 0.5 && v < lastY + 0.5)) continue;
      const cu = clamp(u, 0, lastX);
      const cv = clamp(v, 0, lastY);
      const i = Math.min(lastX - 1, cu | 0);
      const j = Math.min(lastY - 1, cv | 0);
      const fx = cu - i;
      const fy = cv - j;
      const k = j * row + i * channels;
      for (let c = 0; c < channels; c++) {
        const p = k + c;
        const value =
          (1 - fy) * ((1 - fx) * data[p]! + fx * data[p + channels]!) +
          fy * ((1 - fx) * data[p + row]! + fx * data[p + row + channels]!);
        out[to + c] = float ? value : (value + 0.5) | 0;
      }
    }
  }
  return made;
}
