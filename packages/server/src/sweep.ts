/**
 * What a server that ended in the middle of something left in the data folder: whatever can never be of use again is
 * removed at the next start, and said. Originals, and all that a row stands for, are never touched.
 */
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Context } from './context';
import * as deliveries from './sql/deliveries';

/** Ms that an upload which nobody finished is kept. */
const UPLOAD_KEPT = 7 * 24 * 3600 * 1000;

const namesIn = (folder: string): Promise<string[]> => readdir(folder).catch(() => []);

/** Of a file and the notes beside it. */
async function isOld(path: string): Promise<boolean> {
  const info = await stat(path).catch(() => null);
  return info !== null && Date.now() - info.mtimeMs > UPLOAD_KEPT;
}

async function leftOfUploads(folder: string): Promise<string[]> {
  const out: string[] = [];
  for (const name of await namesIn(folder)) {
    const isUnpacked = name.includes('.unpacked');
    if (isUnpacked || (await isOld(join(folder, name)))) out.push(join(folder, name));
  }
  return out;
}

async function leftOfOriginals(folder: string): Promise<string[]> {
  return (await namesIn(folder)).filter((n) => n.endsWith('.part')).map((n) => join(folder, n));
}

async function leftOfMedia(folder: string): Promise<string[]> {
  const out: string[] = [];
  for (const hash of await namesIn(folder))
    for (const name of await namesIn(join(folder, hash)))
      if (name.endsWith('.part')) out.push(join(folder, hash, name));
  return out;
}

/** Deliveries that no row stands for any more, and parts of those that will not go on. */
async function leftOfDeliveries(c: Context, folder: string): Promise<string[]> {
  const kept = new Set((await c.db.all<{ id: number }>(deliveries.toBeKept)).map((d) => String(d.id)));
  return (await namesIn(folder)).filter((n) => /^\d+$/.test(n) && !kept.has(n)).map((n) => join(folder, n));
}

/** @returns what was removed */
export async function sweep(c: Context): Promise<string[]> {
  const { root } = c.storage;
  const left = (
    await Promise.all([
      leftOfUploads(c.storage.uploads()),
      leftOfOriginals(join(root, 'originals')),
      leftOfMedia(join(root, 'media')),
      leftOfDeliveries(c, join(root, 'deliveries')),
    ])
  ).flat();
  for (const path of left) await rm(path, { recursive: true, force: true });
  return left;
}
