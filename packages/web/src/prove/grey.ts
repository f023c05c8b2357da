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
