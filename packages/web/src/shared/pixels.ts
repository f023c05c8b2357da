import type { Raster } from '@yarlop/core/image/image';

/** A picture's pixels. */
export function pixelsOf(b: ImageBitmap | OffscreenCanvas): Raster {
  const canvas = new OffscreenCanvas(b.width, b.height);
  const g = canvas.getContext('2d', { willReadFrequently: true })!;
  g.drawImage(b, 0, 0);
  return { width: b.width, height: b.height, channels: 4, data: g.getImageData(0, 0, b.width, b.height).data };
}
