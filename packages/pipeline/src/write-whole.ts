import { mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';

/** Writes beside the final name and renames when whole, so that a reader never sees half a file. */
export async function writeWhole(path: string, content: string | Uint8Array): Promise<void> {
  const part = join(dirname(path), `.${basename(path)}.${process.pid}.part`);
  await mkdir(dirname(path), { recursive: true });
  try {
    await writeFile(part, content, { flush: true });
    await rename(part, path);
  } catch (e) {
    await rm(part, { force: true });
    throw e;
  }
}
