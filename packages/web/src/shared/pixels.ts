import type { Raster } from '@yarlop/core/image/image';
import type { Rectangle } from './picture-request';

type Picture = ImageBitmap | OffscreenCanvas;

/** A part of a picture, in its px; null where nothing of it is there. What lies beyond is left out. */
function imageDataIn(b: Picture, part: Rectangle): ImageData | null {
  const x = Math.max(0, part.x);
  const y = Math.max(0, part.y);
  const width = Math.min(b.width, part.x + part.width) - x;
  const height = Math.min(b.height, part.y + part.height) - y;
  if (width <= 0 || height <= 0) return null;
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  g.drawImage(b, x, y, width, height, 0, 0, width, height);
  return g.getImageData(0, 0, width, height);
}

/** A picture's pixels, as a canvas takes them. */
export function imageDataOf(b: Picture): ImageData {
  return imageDataIn(b, { x: 0, y: 0, width: b.width, height: b.height })!;
}

const rasterOf = ({ width, height, data }: ImageData): Raster => ({ width, height, channels: 4, data });

/** The pixels of a part of a picture, in its px; null where nothing of it is there. What lies beyond is left out. */
export function pixelsIn(b: Picture, part: Rectangle): Raster | null {
  const seen = imageDataIn(b, part);
  return seen && rasterOf(seen);
}

/** A picture's pixels. */
export function pixelsOf(b: Picture): Raster {
  return rasterOf(imageDataOf(b));
}
