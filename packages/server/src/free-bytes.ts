import { statfs } from 'node:fs/promises';

/** Of the disk that a folder lies on, as far as this process may fill it. */
export async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}
