/**
 * A template that came from elsewhere becomes a shot: its media join the library, its Screens keep what was followed.
 */
import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { TemplateFile } from '@yarlop/contracts/validate';
import { checksumOf } from '@yarlop/pipeline/checksum';
import { readPackage } from '@yarlop/pipeline/package';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ShotRow } from '../rows';
import { TEMPLATE } from '../template-name';
import { findShot } from './create-shot';
import { findProduction } from './find-production';
import { intoLibrary } from './library';
import { assertComplete, forget } from './take-upload';

/**
 * @param folder of the unpacked package, whose files are moved into the library
 * @throws ApiError 422 where the bytes are not those that their name tells
 */
async function takeMedia(
  c: Context,
  { hash, name, files, firstNumber }: TemplateFile['media'][number],
  folder: string,
): Promise<void> {
  const from = join(folder, 'originals', hash);
  if ((await checksumOf(files.map((f) => ({ path: join(from, f) })))) !== hash)
    throw new ApiError(422, 'unusable', `"${name}" in the template is not what its name says: its checksum differs.`);
  await intoLibrary(c, {
    hash,
    name,
    gather: async (part) => {
      for (const f of files) await rename(join(from, f), join(part, f));
      return { files: [...files], firstNumber };
    },
  });
}

/** @throws ApiError 422 with what is wrong: a package that is none, was changed, or holds something else */
export async function takeTemplate(c: Context, productionId: number, upload: string): Promise<ShotRow> {
  await findProduction(c, productionId);
  const path = join(c.storage.uploads(), upload);
  const into = `${path}.unpacked`;
  await assertComplete(path);
  try {
    await readPackage(path, into);
    const own = join(into, TEMPLATE);
    for (const m of (await c.readers.template(own)).media) await takeMedia(c, m, into);
    return await findShot(c, await c.readers.templateShot(own, productionId));
  } finally {
    await rm(into, { recursive: true, force: true });
    await forget(path);
  }
}
