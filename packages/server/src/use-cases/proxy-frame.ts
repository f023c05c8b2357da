import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { PROXY, readProxyIndex } from '@yarlop/media/ingest';
import { ApiError } from '../api-error';

/** @throws ApiError with the mend where the file is gone */
export function gone(e: NodeJS.ErrnoException): never {
  if (e.code !== 'ENOENT') throw e;
  throw new ApiError(
    409,
    'gone',
    'What was made of this plate for work is gone from the disk; "Make the working files anew" on the Plate stage puts it back.',
  );
}

/** A small picture for playback, as JPEG bytes. */
export async function proxyFrame(folder: string, frame: number): Promise<Buffer> {
  const { offsets } = await readProxyIndex(folder).catch(gone);
  const at = offsets[frame]!;
  const size = offsets[frame + 1]! - at;
  const file = await open(join(folder, PROXY), 'r').catch(gone);
  try {
    return (await file.read(Buffer.alloc(size), 0, size, at)).buffer;
  } finally {
    await file.close();
  }
}
