/** Resumable uploads in pieces, by the tus protocol (tus.io, version 1.0.0). */
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Context } from '../context';
import { freeBytes } from '../free-bytes';

export const UPLOAD_PATH = '/api/uploads';
/** Bytes of an upload that is taken. */
const LARGEST = 64 * 1024 ** 3;

export function uploadServer(c: Context): Server {
  return new Server({
    path: UPLOAD_PATH,
    relativeLocation: true,
    maxSize: LARGEST,
    datastore: new FileStore({ directory: c.storage.uploads() }),
    onUploadCreate: async (_req, upload) => {
      const free = await freeBytes(c.config.data);
      const size = upload.size ?? 0;
      if (free - size < c.config.reserve)
        throw {
          status_code: 507,
          body: `The disk has ${Math.floor(free / 2 ** 20)} MB free; this file needs ${Math.ceil(size / 2 ** 20)} MB and a reserve. Free some space and bring it in again.`,
        };
      return {};
    },
    onResponseError: (_req, e) => {
      if ((e as NodeJS.ErrnoException).code === 'ENOSPC')
        return { status_code: 507, body: 'The disk is full. Free some space; the upload goes on where it stopped.' };
      return undefined;
    },
  });
}
