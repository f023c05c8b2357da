import { median } from '../statistics';
import type { Luma } from './image';

/**
 * Standard deviation of the pixel noise, from the median absolute response to the Laplacian-difference mask
 * (1 -2 1; -2 4 -2; 1 -2 1), which is blind to planes and most edges; its noise gain is 6.
 * Source: J. Immerkaer, Fast Noise Variance Estimation, 1996 (mask); median instead of the mean for robustness,
 * with 0.6745 = the median of |N(0,1)|.
 */
export function estimateNoise(image: Luma, samples = 20000): number {
  const { width, height, data } = image;
  if (width < 3 || height < 3) return 1;
  const step = Math.max(1, Math.floor(Math.sqrt(((width - 2) * (height - 2)) / samples)));
  const values: number[] = [];
  for (let y = 1; y < height - 1; y += step)
    for (let x = 1; x < width - 1; x += step) {
      const i = y * width + x;
      const u = i - width;
      const d = i + width;
      values.push(
        Math.abs(
          data[u - 1]! +
            data[u + 1]! +
            data[d - 1]! +
            data[d + 1]! -
            2 * (data[u]! + data[d]! + data[i - 1]! + data[i + 1]!) +
            4 * data[i]!,
        ),
      );
    }
  return median(values) / 6 / 0.6745;
}
