import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import * as media from '../sql/media';
import { findShot } from './create-shot';

export interface ReadyPlate {
  readonly media: MediaRow;
  readonly folder: string;
}

/**
 * The plate of a shot for work on its pictures. @throws ApiError while it is being read in, and for frames that it does
 * not have
 */
export async function readyPlate(c: Context, shotId: number, ...frames: readonly number[]): Promise<ReadyPlate> {
  const shot = await findShot(c, shotId);
  const row = await c.db.one<MediaRow>(media.findMedia, [shot.mediaHash]);
  const beyond = frames.find((f) => f >= shot.frameCount);
  if (shot.mediaState !== 'ready' || !row)
    throw new ApiError(409, 'not-ready', 'The plate is still being read in; try again when it is done.');
  if (beyond !== undefined)
    throw new ApiError(
      422,
      'out-of-range',
      `Frame ${beyond} lies outside the plate, which has frames 0 to ${shot.frameCount - 1}.`,
    );
  return { media: { ...row, probe: shot.probe }, folder: c.storage.derived(row.hash) };
}
