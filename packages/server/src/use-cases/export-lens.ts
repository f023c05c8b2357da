/** Maps of the lens that a shot's camera was solved with, as one picture. */
import { mkdtemp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { CameraLensMap } from '@yarlop/core/formats/camera-formats';
import type { Context } from '../context';
import { solvedCamera } from './export-camera';
import { safeName } from './start-delivery';

/**
 * @param send hands the file over; it is gone afterwards
 * @throws ApiError where no camera was solved, or where its lens has no map
 */
export async function exportLens(
  c: Context,
  shotId: number,
  { id, way }: CameraLensMap,
  send: (path: string, fileName: string) => Promise<void>,
): Promise<void> {
  const { shot, file } = await solvedCamera(c, shotId);
  const folder = await mkdtemp(join(c.storage.uploads(), 'lens-'));
  try {
    const pattern = join(folder, 'map.%04d.exr');
    const path = await c.readers.lens({ file, way, pattern });
    await send(path, `${safeName(shot.name)}-${id}.exr`);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
