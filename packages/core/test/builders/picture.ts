/** Small 8-bit RGB pictures. */
import type { Raster } from '../../src/image/image';

/** @param f code value of a channel at a pixel, rounded and clipped */
export function painted(width: number, height: number, f: (x: number, y: number, c: number) => number): Raster {
  return {
    width,
    height,
    channels: 3,
    data: Uint8Array.from({ length: width * height * 3 }, (_, i) =>
      Math.min(255, Math.max(0, Math.round(f(Math.floor(i / 3) % width, Math.floor(i / 3 / width), i % 3)))),
    ),
  };
}
