import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Bytes that the files in a folder take; 0 where there is none. */
export async function folderBytes(folder: string): Promise<number> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
  let bytes = 0;
  for (const e of entries) {
    if (!e.isFile()) continue;
    const info = await stat(join(e.parentPath ?? e.path, e.name)).catch(() => null);
    bytes += info?.size ?? 0;
  }
  return bytes;
}
