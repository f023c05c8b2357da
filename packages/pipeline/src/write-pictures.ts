/** Pictures into an encoder, one by one: whole, or nothing is left behind. */
import type { Raster } from '@yarlop/core/image/image';
import type { EncodeOptions } from '@yarlop/media/encode';
import { Encoder } from '@yarlop/media/encode';

/**
 * Yields the number of each frame written; returns the files. Cancel by ending the generator. @throws MediaError, and
 * what `pictures` throws
 */
export async function* writePictures(
  path: string,
  options: EncodeOptions,
  pictures: AsyncIterable<readonly [frame: number, picture: Raster]>,
): AsyncGenerator<number, string[]> {
  const encoder = await Encoder.open(path, options);
  let files: string[] | null = null;
  try {
    for await (const [frame, picture] of pictures) {
      await encoder.write(picture);
      yield frame;
    }
    files = await encoder.close();
    return files;
  } finally {
    if (!files) await encoder.abort();
  }
}
