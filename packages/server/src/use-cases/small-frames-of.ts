/** All frames of a clip of the library as small grey pictures. */
import type { SmallFrames } from '@yarlop/core/image/clip-offset';
import { smallFrames } from '@yarlop/media/small-frames';
import type { Context } from '../context';

/** px of the small pictures that clips are compared by. By trial. */
export const SMALL_WIDTH = 64;
/** px of their height. */
const HEIGHT = 36;

/** @throws MediaError */
export async function smallFramesOf(c: Context, hash: string): Promise<SmallFrames> {
  const bytes = await smallFrames(c.storage.derived(hash), SMALL_WIDTH, HEIGHT);
  const size = SMALL_WIDTH * HEIGHT;
  const count = Math.floor(bytes.length / size);
  return { size, count, data: Float32Array.from(bytes.subarray(0, size * count)) };
}
