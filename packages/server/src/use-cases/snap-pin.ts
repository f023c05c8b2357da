/** The pin laid onto the glass on one frame: asked for and answered at once, saved by the person's page. */
import { join } from 'node:path';
import type { Requests } from '@yarlop/contracts/validate';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Snapped } from '@yarlop/core/pin/snap-to-glass';
import { snapToGlass } from '@yarlop/core/pin/snap-to-glass';
import { LUMA } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';

/** @throws ApiError where the plate or frame is not there; CoreError where no edge stands out */
export async function snapPin(c: Context, screenId: number, { frame, corners, exclude }: NonNullable<Requests['snap']>): Promise<Snapped> {
  const screen = await findScreen(c, screenId), shot = await findShot(c, screen.shotId), { width, height, bitDepth } = shot.probe;
  if (shot.mediaState !== 'ready') throw new ApiError(409, 'not-ready', 'The plate is still being read in; try again when it is done.');
  if (frame >= shot.frameCount) throw new ApiError(422, 'out-of-range', `Frame ${frame} lies outside the plate, which has frames 0 to ${shot.frameCount - 1}.`);
  const luma = await LumaFile.open(join(c.storage.derived(shot.mediaHash), LUMA), width, height, bitDepth), { lens } = screen.recipe;
  try {
    return snapToGlass(await luma.read(frame), corners as unknown as Quad, { ...(exclude ? { exclude } : {}), ...(typeof lens === 'number' ? { lens: { radial: lens, width, height } } : {}) });
  } finally {
    await luma.close();
  }
}
