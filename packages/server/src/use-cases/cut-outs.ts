import type { Response } from 'express';
import type { Requests } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import { sendPictures } from './send-pictures';

/** Bytes of one answer: half a second of whole pictures at 3840x2160, with room. */
const MOST_BYTES = 512e6;

/**
 * Streams rectangles of consecutive frames, one after the other, RGB of 8 bit, row-major. @throws ApiError for
 * rectangles beyond the picture, and for single pictures, which nothing moves over
 */
export async function sendCutOuts(
  c: Context,
  media: MediaRow,
  { from, width, height, each = 1, at }: NonNullable<Requests['cutOuts']>,
  res: Response,
): Promise<void> {
  if (media.frameCount === 1)
    throw new ApiError(422, 'no-clip', 'This is a single picture; only clips have frames to ride over.');
  if (at.length % each !== 0)
    throw new ApiError(422, 'invalid', `"at" has ${at.length} places, which is no multiple of ${each} a frame.`);
  const size = 3 * width * height * at.length;
  if (size > MOST_BYTES)
    throw new ApiError(
      422,
      'too-large',
      `These are ${Math.round(size / 1e6)} MB; at most ${MOST_BYTES / 1e6} MB go at once. Ask for fewer frames, or smaller rectangles.`,
    );
  const beyond = at.findIndex(({ x, y }) => x + width > media.probe.width || y + height > media.probe.height);
  if (beyond >= 0)
    throw new ApiError(
      422,
      'out-of-range',
      `On frame ${from + Math.floor(beyond / each)} the rectangle reaches beyond the picture of ${media.probe.width}x${media.probe.height} px.`,
    );
  const folder = c.storage.derived(media.hash);
  await sendPictures(c, { kind: 'cut-outs', media, folder, from, width, height, each, at }, size, res);
}
