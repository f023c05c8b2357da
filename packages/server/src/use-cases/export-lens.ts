/** Maps of the lens that a shot's camera was solved with, as one picture. */
import { mkdtemp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { radialOnWidth } from '@yarlop/core/camera/camera-file';
import type { CameraLensMap } from '@yarlop/core/formats/camera-formats';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { solvedCamera } from './export-camera';
import { safeName } from './start-delivery';

/**
 * @param send hands the file over; it is gone afterwards
 * @throws ApiError where no camera was solved, or where its lens does not bow
 */
export async function exportLens(
  c: Context,
  shotId: number,
  { id, way }: CameraLensMap,
  send: (path: string, fileName: string) => Promise<void>,
): Promise<void> {
  const { shot, file } = await solvedCamera(c, shotId);
  const radial = radialOnWidth(file);
  if (file.lens.radial[1] !== 0)
    throw new ApiError(422, 'nothing', 'Maps hold one radial term, and the lens of this camera has a second one.');
  if (radial === 0)
    throw new ApiError(422, 'nothing', 'The lens of this camera does not bow; a map would change nothing.');
  const folder = await mkdtemp(join(c.storage.uploads(), 'lens-'));
  try {
    const pattern = join(folder, 'map.%04d.exr');
    const path = await c.readers.lens({ plate: file.plate, radial, frame: file.frames[0]!.frame, way, pattern });
    await send(path, `${safeName(shot.name)}-${id}.exr`);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
