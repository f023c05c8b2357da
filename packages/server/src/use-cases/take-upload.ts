/** A finished upload becomes an original of the library: checked by content, named by its hash, never changed again. */
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { MediaError } from '@yarlop/media/media-error';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { numberSequence, openSource, stageSequence } from '@yarlop/media/source';
import { checksum } from '@yarlop/pipeline/checksum';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import * as jobs from '../sql/jobs';
import * as media from '../sql/media';

export interface Upload {
  readonly upload: string;
  readonly fileName: string;
  /** the files of a sequence, sent as one run of bytes in this order */
  readonly files?: readonly { readonly name: string; readonly size: number }[] | undefined;
}

/** @throws ApiError for an upload that is gone or not finished */
export async function assertComplete(path: string): Promise<void> {
  const size = (await stat(path).catch(() => null))?.size;
  const info = JSON.parse(await readFile(`${path}.json`, 'utf8').catch(() => 'null')) as { size?: number } | null;
  if (size === undefined || !info)
    throw new ApiError(404, 'no-upload', 'The upload does not exist any more; bring the file in again.');
  if (size !== info.size)
    throw new ApiError(
      409,
      'upload-unfinished',
      `The upload is not finished (${size} of ${info.size} bytes); let it finish, or cancel it.`,
    );
}

/** Cuts the run of bytes into the files of the sequence, under numbered names of our own. */
async function split(path: string, upload: Upload, folder: string): Promise<string[]> {
  const files = upload.files!;
  const numbered = numberSequence(files.map((f) => f.name));
  const total = files.reduce((s, f) => s + f.size, 0);
  const { size } = await stat(path);
  if (total !== size)
    throw new ApiError(
      422,
      'unusable',
      `The files of the sequence add up to ${total} bytes, but ${size} arrived; bring the sequence in again.`,
    );
  let at = 0;
  for (const file of files) {
    const entry = numbered.find((n) => n.name === file.name);
    if (entry) {
      const name = `${String(entry.number).padStart(8, '0')}${extname(file.name).toLowerCase()}`;
      if (file.size === 0) throw new ApiError(422, 'unusable', `"${file.name}" is empty (0 bytes); export it again.`);
      await pipeline(
        createReadStream(path, { start: at, end: at + file.size - 1 }),
        createWriteStream(join(folder, name)),
      );
    }
    at += file.size;
  }
  return numbered.map((n) => `${String(n.number).padStart(8, '0')}${extname(n.name).toLowerCase()}`);
}

export async function openOriginal(folder: string, row: { name: string; source: MediaRow['source'] }): Promise<Source> {
  const paths = row.source.files.map((f) => join(folder, f));
  if (row.source.firstNumber !== null)
    return stageSequence(
      row.name,
      paths.map((name, i) => ({ name, number: row.source.firstNumber! + i })),
    );
  return { ...(await openSource(paths[0]!)), name: row.name };
}

/** @throws ApiError 422 with the reason when the bytes are no picture */
export async function takeUpload(c: Context, upload: Upload): Promise<MediaRow> {
  const path = join(c.storage.uploads(), upload.upload);
  await assertComplete(path);
  const hash = await checksum(path);
  const known = await c.db.one<MediaRow>(media.findMedia, [hash]);
  if (known) {
    await rm(path, { force: true });
    await rm(`${path}.json`, { force: true });
    if (known.state === 'failed') await startIngest(c, known);
    return known;
  }
  const folder = `${c.storage.original(hash)}.part`;
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true });
  try {
    const files = upload.files ? await split(path, upload, folder) : ['source'];
    const source = { files, firstNumber: upload.files ? Number(files[0]!.slice(0, 8)) : null };
    if (!upload.files) await rename(path, join(folder, 'source'));
    const opened = await openOriginal(folder, { name: upload.fileName, source });
    try {
      const info = await probe(opened);
      await rm(c.storage.original(hash), { recursive: true, force: true });
      await rename(folder, c.storage.original(hash));
      await c.db.run(media.insertMedia, [
        hash,
        upload.fileName.slice(0, 255),
        JSON.stringify(source),
        JSON.stringify(info),
        JSON.stringify(info.notes),
        info.frameCount,
      ]);
    } finally {
      await opened.dispose();
    }
  } catch (e) {
    if (e instanceof MediaError) throw new ApiError(422, 'unusable', e.message);
    throw e;
  } finally {
    await rm(folder, { recursive: true, force: true });
    await rm(path, { force: true });
    await rm(`${path}.json`, { force: true });
  }
  const row = (await c.db.one<MediaRow>(media.findMedia, [hash]))!;
  await startIngest(c, row);
  return row;
}

export async function startIngest(c: Context, row: MediaRow): Promise<void> {
  if (await c.db.one(jobs.activeIngest, [row.hash])) return;
  await c.db.run(media.mediaWaiting, [row.hash]);
  await c.db.run(jobs.insertJob, ['ingest', row.hash, null, null, null, null, '{}', row.frameCount]);
  c.wake();
}
