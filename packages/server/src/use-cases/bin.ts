/**
 * The bin: what was deleted lies there for some days and can be taken out again; then, or when the bin is emptied, it
 * goes for good, rows and files. Media that something needs never go there.
 */
import { rm } from 'node:fs/promises';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import { folderBytes } from '../files-below';
import * as bin from '../sql/bin';
import type { BinKind } from '../sql/bin';
import * as jobs from '../sql/jobs';

/** Days that something lies in the bin. */
export const BIN_DAYS = 14;

/** A row's number, or the hash of a file. */
export type BinKey = number | string;

export interface Binned {
  readonly kind: BinKind;
  readonly key: BinKey;
  readonly name: string;
  /** what it was part of; empty where it stood by itself */
  readonly place: string;
  readonly binned: string;
  /** that would be free without it; of a shot's plate nothing, since plates stay in the library */
  readonly bytes: number;
}

const WORDS: Readonly<Record<BinKind, string>> = {
  production: 'The production',
  shot: 'The shot',
  delivery: 'The delivery',
  media: 'The media file',
  table: 'The colour table',
};

interface Found {
  readonly name: string;
  readonly isBinned: number;
  readonly isNeeded: number;
}

async function find(c: Context, kind: BinKind, key: BinKey): Promise<Found> {
  const row = await c.db.one<Found>(bin.BIN[kind].find, [key]);
  if (!row) throw notFound(WORDS[kind]);
  return row;
}

/** @throws ApiError 404, or 409 where something needs it */
export async function putIntoBin(c: Context, kind: BinKind, key: BinKey): Promise<void> {
  const { name, isNeeded } = await find(c, kind, key);
  if (isNeeded)
    throw new ApiError(
      409,
      'in-use',
      `"${name}" is the plate of a shot, or what a Screen or a delivery shows or goes through; delete those first.`,
    );
  await c.db.transaction(async (t) => {
    await t.run(bin.BIN[kind].put, [key]);
    for (const sql of bin.endRuns(kind) ?? []) await t.run(sql, [key]);
  });
  c.events.emit('bin', {});
}

export async function takeOutOfBin(c: Context, kind: BinKind, key: BinKey): Promise<void> {
  await find(c, kind, key);
  await c.db.run(bin.BIN[kind].takeOut, [key]);
  c.events.emit('bin', {});
}

const foldersOf = (c: Context, hash: string): string[] => [c.storage.original(hash), c.storage.derived(hash)];

async function deliveriesOf(c: Context, kind: BinKind, key: BinKey): Promise<{ id: number; bytes: number | null }[]> {
  const sql = bin.deliveriesOf[kind];
  return sql ? c.db.all(sql, [key]) : [];
}

async function bytesOf(c: Context, kind: BinKind, key: BinKey): Promise<number> {
  if (kind === 'media') {
    const sizes = await Promise.all(foldersOf(c, String(key)).map(folderBytes));
    return sizes.reduce((s, v) => s + v, 0);
  }
  return (await deliveriesOf(c, kind, key)).reduce((s, d) => s + Number(d.bytes ?? 0), 0);
}

/** All that lies in the bin, the latest first. */
export async function listBin(c: Context): Promise<Binned[]> {
  const all = await Promise.all(
    bin.KINDS.map(async (kind) => {
      const rows = await c.db.all<Omit<Binned, 'kind' | 'bytes'>>(bin.BIN[kind].list);
      return Promise.all(rows.map(async (r) => ({ ...r, kind, bytes: await bytesOf(c, kind, r.key) })));
    }),
  );
  return all.flat().sort((a, b) => String(b.binned).localeCompare(String(a.binned)));
}

/** What goes with something that is deleted, and the bytes that will be free in the end. */
export async function goesWith(
  c: Context,
  kind: BinKind,
  key: BinKey,
): Promise<{ shots: number; screens: number; deliveries: number; bytes: number }> {
  await find(c, kind, key);
  const sql = bin.goesWith[kind];
  const none = { shots: 0, screens: 0, deliveries: 0 };
  const counts = sql ? await c.db.one<typeof none>(sql, [key]) : null;
  return { ...none, ...counts, bytes: await bytesOf(c, kind, key) };
}

/**
 * Removes something from the bin for good. Rows first: files that no row stands for are swept up at the next start, while a
 * row without its files would be a promise.
 * @returns the bytes that are free by that; null where it is not in the bin, or is needed again or still worked on
 */
export async function removeForGood(c: Context, kind: BinKind, key: BinKey): Promise<number | null> {
  const { isNeeded, isBinned } = await find(c, kind, key);
  if (!isBinned || isNeeded) return null;
  if (kind === 'media' && (await c.db.one(jobs.activeIngest, [key]))) return null;
  const made = await deliveriesOf(c, kind, key);
  const bytes = await bytesOf(c, kind, key);
  const { affectedRows } = await c.db.run(bin.BIN[kind].remove, [key]);
  if (affectedRows === 0) return null;
  const folders = kind === 'media' ? foldersOf(c, String(key)) : made.map((d) => c.storage.delivery(d.id));
  for (const folder of folders) await rm(folder, { recursive: true, force: true });
  c.events.emit('bin', {});
  return bytes;
}

/** @returns how many went, and how many bytes are free by that */
export async function emptyBin(c: Context): Promise<{ removed: number; bytes: number }> {
  let removed = 0;
  let bytes = 0;
  // What lies deeper goes first, so that its bytes are counted once.
  for (const kind of [...bin.KINDS].reverse())
    for (const { key } of await c.db.all<{ key: BinKey }>(bin.BIN[kind].list)) {
      const freed = await removeForGood(c, kind, key);
      if (freed === null) continue;
      removed++;
      bytes += freed;
    }
  return { removed, bytes };
}

/** Removes what lies in the bin longer than its days. @returns their names */
export async function removeExpired(c: Context, days = BIN_DAYS): Promise<string[]> {
  const gone: string[] = [];
  for (const kind of bin.KINDS)
    for (const { key } of await c.db.all<{ key: BinKey }>(bin.expired(kind), [days]))
      if ((await removeForGood(c, kind, key)) !== null) gone.push(`${kind} ${key}`);
  return gone;
}
