/**
 * The library's originals: each content stands once, under its hash, and is never changed again. Files are gathered in
 * a folder of their own and moved into place whole; whoever brings the same content meanwhile waits and joins.
 */
import { access, mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { ingestNeeds } from '@yarlop/media/ingest';
import type { Probe } from '@yarlop/media/probe';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { openSource, stageSequence } from '@yarlop/media/source';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { Executor } from '../database';
import { freeBytes } from '../free-bytes';
import type { MediaRow } from '../rows';
import * as jobs from '../sql/jobs';
import * as media from '../sql/media';
import { addJob } from './add-job';

export interface Arrival {
  /** SHA-256 of all its bytes */
  readonly hash: string;
  /** as the person called it */
  readonly name: string;
  /** puts its files into an empty folder, and says which they are */
  readonly gather: (folder: string) => Promise<MediaRow['source']>;
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

/** @throws ApiError where there is no such file */
export async function findMedia(c: Context, hash: string): Promise<MediaRow> {
  const row = await c.db.one<MediaRow>(media.findMedia, [hash]);
  if (!row) throw notFound('The media file');
  return row;
}

async function isThere(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
}

async function isWhole(c: Context, row: MediaRow): Promise<boolean> {
  const folder = c.storage.original(row.hash);
  const found = await Promise.all(row.source.files.map((f) => isThere(join(folder, f))));
  return found.every(Boolean);
}

/**
 * Takes what arrived into the library, or joins what is there already.
 * @throws MediaError when it is no picture
 */
export function intoLibrary(c: Context, arrival: Arrival): Promise<MediaRow> {
  return c.alone.acquire(`original ${arrival.hash}`, async () => {
    const known = await c.db.one<MediaRow>(media.findMedia, [arrival.hash]);
    if (!known || !(await isWhole(c, known))) return place(c, arrival);
    // Brought in again, it is wanted again.
    await c.db.run(media.takeOut, [known.hash]);
    // One that waits has a job; where a server of an earlier version died in between, it has none.
    if (known.state !== 'ready') await startIngest(c, known);
    return known;
  });
}

/** @throws ApiError 507 when reading in would fill the disk, before it begins */
async function assertRoom(c: Context, name: string, info: Probe): Promise<void> {
  const free = (await freeBytes(c.config.data)) - c.config.reserve;
  const need = ingestNeeds(info);
  if (need <= free) return;
  const gb = (v: number): string => `${(v / 2 ** 30).toFixed(1)} GB`;
  throw new ApiError(
    507,
    'no-room',
    `"${name.slice(0, 80)}" has ${info.frameCount} frames of ${info.width}x${info.height} px; reading it in would take some ${gb(need)}, and ${gb(Math.max(0, free))} are free. Free some disk space, or bring in a shorter or smaller clip.`,
  );
}

async function place(c: Context, { hash, name, gather }: Arrival): Promise<MediaRow> {
  const whole = c.storage.original(hash);
  const part = `${whole}.part`;
  await rm(part, { recursive: true, force: true });
  await mkdir(part, { recursive: true });
  try {
    const source = await gather(part);
    const opened = await openOriginal(part, { name, source });
    const info = await probe(opened).finally(() => opened.dispose());
    await assertRoom(c, name, info);
    // No row stands for what lies there, or its files are gone.
    await rm(whole, { recursive: true, force: true });
    await rename(part, whole);
    return await enter(c, hash, [
      hash,
      name.slice(0, 255),
      JSON.stringify(source),
      JSON.stringify(info),
      JSON.stringify(info.notes),
      info.frameCount,
    ]);
  } finally {
    await rm(part, { recursive: true, force: true });
  }
}

/**
 * Makes what work needs of an original (mezzanine, luma, proxies) once more; what is there stays until the new is whole.
 * @throws ApiError where there is no such file, or its original is gone
 */
export function makeAnew(c: Context, hash: string): Promise<void> {
  return c.alone.acquire(`original ${hash}`, async () => {
    const row = await findMedia(c, hash);
    if (!(await isWhole(c, row)))
      throw new ApiError(
        409,
        'gone',
        `The original of "${row.name}" is gone from the disk; bring the same file in again.`,
      );
    await assertRoom(c, row.name, row.probe);
    await startIngest(c, row);
  });
}

async function addIngest(t: Executor, row: MediaRow): Promise<void> {
  if (await t.one(jobs.activeIngest, [row.hash])) return;
  await t.run(media.mediaWaiting, [row.hash]);
  await addJob(t, { kind: 'ingest', mediaHash: row.hash, framesTotal: row.frameCount });
}

async function startIngest(c: Context, row: MediaRow): Promise<void> {
  await c.db.transaction((t) => addIngest(t, row));
  c.wake();
}

/** The row of a media file and the job that reads it in, both or neither: a row alone would wait for ever. */
async function enter(c: Context, hash: string, values: (string | number)[]): Promise<MediaRow> {
  const row = await c.db.transaction(async (t) => {
    await t.run(media.insertMedia, values);
    const own = (await t.one<MediaRow>(media.findMedia, [hash]))!;
    if (own.state !== 'ready') await addIngest(t, own);
    return own;
  });
  c.wake();
  return row;
}
