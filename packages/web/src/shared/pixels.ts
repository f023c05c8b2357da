import type { Raster } from '@yarlop/core/image/image';
import type { Rectangle } from './picture-request';

/** A part of a picture, in its px; null where nothing of it is there. What lies beyond is left out. */
export function pixelsIn(b: ImageBitmap | OffscreenCanvas, part: Rectangle): Raster | null {
  const x = Math.max(0, part.x);
  const y = Math.max(0, part.y);
  const width = Math.min(b.width, part.x + part.width) - x;
  const height = Math.min(b.height, part.y + part.height) - y;
  if (width <= 0 || height <= 0) return null;
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  g.drawImage(b, x, y, width, height, 0, 0, width, height);
  return { width, height, channels: 4, data: g.getImageData(0, 0, width, height).data };
}

/** A picture's pixels. */
export function pixelsOf(b: ImageBitmap | OffscreenCanvas): Raster {
  return pixelsIn(b, { x: 0, y: 0, width: b.width, height: b.height })!;
}
