import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Files below a folder, in the order of their names; none where it is not there. */
export async function filesBelow(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch((e: NodeJS.ErrnoException) => {
    if (e.code === 'ENOENT') return [];
    throw e;
  });
  return entries
    .filter((e) => e.isFile())
    .map((e) => join(e.parentPath, e.name))
    .sort();
}

/** Bytes that the files in a folder take; 0 where there is none. */
export async function folderBytes(folder: string): Promise<number> {
  let bytes = 0;
  for (const path of await filesBelow(folder)) bytes += (await stat(path).catch(() => null))?.size ?? 0;
  return bytes;
}
