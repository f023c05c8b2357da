/** Pictures of the flat views, as a canvas takes them. */
import { imageDataOf } from '../shared/pixels';

/** Grey bytes as a picture of a canvas. */
export function greyImage(
  grey: ArrayLike<number>,
  width: number,
  height: number,
  image = new ImageData(width, height),
): ImageData {
  const { data } = image;
  for (let i = 0, k = 0; i < width * height; i++, k += 4) {
    data[k] = data[k + 1] = data[k + 2] = grey[i]!;
    data[k + 3] = 255;
  }
  return image;
}

/** A picture of the Screen laid flat. */
export type FlatImage = ImageData | ImageBitmap;

/** A picture's pixels. */
export function asImageData(image: FlatImage): ImageData {
  return image instanceof ImageData ? image : imageDataOf(image);
}

/** Draws a picture as it is. */
export function paint(g: CanvasRenderingContext2D, image: FlatImage): void {
  if (image instanceof ImageData) g.putImageData(image, 0, 0);
  else g.drawImage(image, 0, 0);
}

/** How much differences are lifted to be seen. */
const LIFTED = 3;
/** Code value of no difference. */
const MIDDLE = 128;

/** What differs between two pictures of a size, about the middle grey, channel by channel. */
export function differenceOf(now: ImageData, before: ImageData): ImageData {
  const out = new ImageData(now.width, now.height);
  for (let i = 0; i < out.data.length; i++)
    out.data[i] = i % 4 === 3 ? 255 : MIDDLE + LIFTED * (now.data[i]! - before.data[i]!);
  return out;
}
