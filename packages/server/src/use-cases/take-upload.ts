/**
 * A finished upload becomes an original of the library. Its bytes stay where they arrived until the library has them
 * for good, so that a server that ends in between can be asked again; what came of an upload is remembered, so that
 * being asked twice makes nothing twice.
 */
import { createReadStream, createWriteStream } from 'node:fs';
import { copyFile, link, readFile, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { MediaError } from '@yarlop/media/media-error';
import { numberSequence } from '@yarlop/media/source';
import { checksumOf } from '@yarlop/pipeline/checksum';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import * as library from '../sql/library';
import * as media from '../sql/media';
import * as taken from '../sql/taken-uploads';
import { findProduction } from './find-production';
import { intoLibrary } from './library';

export interface Upload {
  readonly upload: string;
  readonly fileName: string;
  /** the files of a sequence, sent as one run of bytes in this order */
  readonly files?: readonly { readonly name: string; readonly size: number }[] | undefined;
}

export interface Taken {
  readonly mediaHash: string;
  readonly shotId: number | null;
}

/** Digits of a file's number in a sequence, as its name within the library; longer numbers keep theirs. */
const DIGITS = 8;

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

/** A file of a sequence: its number, its name within the library, and where its bytes lie in the upload. */
interface Piece {
  readonly number: number;
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

/** The files of a sequence in their order, under numbered names of our own. @throws ApiError, MediaError */
async function piecesOf(path: string, files: NonNullable<Upload['files']>): Promise<Piece[]> {
  const numbered = numberSequence(files.map((f) => f.name));
  const total = files.reduce((s, f) => s + f.size, 0);
  const { size } = await stat(path);
  if (total !== size)
    throw new ApiError(
      422,
      'unusable',
      `The files of the sequence add up to ${total} bytes, but ${size} arrived; bring the sequence in again.`,
    );
  const starts = new Map<string, { readonly at: number; readonly size: number }>();
  let at = 0;
  for (const file of files) {
    starts.set(file.name, { at, size: file.size });
    at += file.size;
  }
  return numbered.map(({ name, number }) => {
    const { at: start, size: bytes } = starts.get(name)!;
    if (bytes === 0) throw new ApiError(422, 'unusable', `"${name}" is empty (0 bytes); export it again.`);
    const own = `${String(number).padStart(DIGITS, '0')}${extname(name).toLowerCase()}`;
    return { number, name: own, start, end: start + bytes - 1 };
  });
}

async function cut(path: string, pieces: readonly Piece[], folder: string): Promise<MediaRow['source']> {
  for (const { name, start, end } of pieces)
    await pipeline(createReadStream(path, { start, end }), createWriteStream(join(folder, name)));
  return { files: pieces.map((p) => p.name), firstNumber: pieces[0]!.number };
}

/** The very bytes under a second name; a copy where the disk knows no second names. */
async function alsoAt(path: string, to: string): Promise<void> {
  await link(path, to).catch(() => copyFile(path, to));
}

/** What arrived, and the notes beside it. */
export async function forget(path: string): Promise<void> {
  await rm(path, { force: true });
  await rm(`${path}.json`, { force: true });
}

/** Does what an upload is for, one request at a time. */
export function withUpload<T>(c: Context, { upload }: Upload, work: () => Promise<T>): Promise<T> {
  return c.alone.acquire(`upload ${upload}`, work);
}

export function findTaken(c: Context, { upload }: Upload): Promise<Taken | null> {
  return c.db.one<Taken>(taken.findTaken, [upload]);
}

/** @throws ApiError 422 with the reason when the bytes are no picture */
export async function takeUpload(c: Context, upload: Upload): Promise<MediaRow> {
  const before = await findTaken(c, upload);
  if (before) return (await c.db.one<MediaRow>(media.findMedia, [before.mediaHash]))!;
  const path = join(c.storage.uploads(), upload.upload);
  await assertComplete(path);
  try {
    const pieces = upload.files && (await piecesOf(path, upload.files));
    const row = await intoLibrary(c, {
      hash: await checksumOf(pieces?.map(({ start, end }) => ({ path, start, end })) ?? [{ path }]),
      name: upload.fileName,
      gather: async (folder) => {
        if (pieces) return cut(path, pieces, folder);
        await alsoAt(path, join(folder, 'source'));
        return { files: ['source'], firstNumber: null };
      },
    });
    await c.db.run(taken.insertTaken, [upload.upload, row.hash]);
    await forget(path);
    return row;
  } catch (e) {
    if (e instanceof MediaError || e instanceof ApiError) await forget(path);
    if (e instanceof MediaError) throw new ApiError(422, 'unusable', e.message);
    throw e;
  }
}

/** @param production that it is brought in for; none for the library of all @throws ApiError where there is no such one */
export async function takeFill(c: Context, upload: Upload, production: number | undefined): Promise<MediaRow> {
  if (production === undefined) return takeUpload(c, upload);
  await findProduction(c, production);
  const row = await takeUpload(c, upload);
  await c.db.run(library.addToLibrary, [production, row.hash]);
  return row;
}
