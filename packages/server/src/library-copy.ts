/**
 * A copy of everything in a folder of the person's own, made while the server runs, and brought back from there. Files
 * are kept once per content (`objects`, named by SHA-256), so that the next copy only adds what is new; each copy is a
 * folder of its own (`copies/TIME`) with all rows and the list of files, and appears there only when it is whole.
 */
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readFile, readdir, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { dumpTo } from './back-up';
import type { Config } from './config';
import { filesBelow } from './files-below';
import { loadInto } from './load-tables';

/** What of the data folder is kept: uploads under way are not, nor what the set-up makes anew. */
const KEPT = ['originals', 'media', 'deliveries'] as const;
const TABLES = 'tables.sql';
const FILES = 'files.json';

interface KeptFile {
  /** in the data folder */
  readonly path: string;
  readonly size: number;
  /** ms; a file of this size and time is not read again */
  readonly changed: number;
  readonly hash: string;
}

export interface Copied {
  /** the copy's own folder */
  readonly at: string;
  readonly files: number;
  /** files, and their bytes, that were not there from earlier copies */
  readonly added: number;
  readonly bytes: number;
}

const objectAt = (folder: string, hash: string): string => join(folder, 'objects', hash.slice(0, 2), hash);

/** Not one that is being written. */
const isWhole = (path: string): boolean => !path.endsWith('.part');

async function isFile(path: string, size: number): Promise<boolean> {
  return stat(path).then(
    (s) => s.isFile() && s.size === size,
    () => false,
  );
}

/** Copies a file under a name that is not its own until it is whole. @returns its SHA-256, told by the same reading */
async function copyWhole(path: string, to: string, check: (hash: string) => void = () => {}): Promise<string> {
  await mkdir(dirname(to), { recursive: true, mode: 0o700 });
  const part = `${to}.${process.pid}.part`;
  const hash = createHash('sha256');
  const from = createReadStream(path).on('data', (bytes) => hash.update(bytes));
  try {
    await pipeline(from, createWriteStream(part, { mode: 0o600 }));
    const told = hash.digest('hex');
    check(told);
    await rename(part, to);
    return told;
  } catch (e) {
    await rm(part, { force: true });
    throw e;
  }
}

/** Copies there, whole, oldest first. */
async function copiesIn(folder: string): Promise<string[]> {
  const names = await readdir(join(folder, 'copies')).catch(() => []);
  return names.filter((n) => !n.endsWith('.part')).sort();
}

async function filesOf(folder: string, copy: string): Promise<KeptFile[]> {
  return JSON.parse(await readFile(join(folder, 'copies', copy, FILES), 'utf8')) as KeptFile[];
}

/** Keeps one file. @param before what the copy before knows of it */
async function keep(
  data: string,
  folder: string,
  path: string,
  before?: KeptFile,
): Promise<KeptFile & { isNew: boolean }> {
  const { size, mtimeMs: changed } = await stat(path);
  const own = { path: relative(data, path), size, changed };
  const isSame = before?.size === size && before.changed === changed;
  if (isSame && (await isFile(objectAt(folder, before.hash), size))) return { ...own, hash: before.hash, isNew: false };
  const arriving = join(folder, 'objects', `arriving-${process.pid}`);
  const hash = await copyWhole(path, arriving);
  const object = objectAt(folder, hash);
  const isNew = !(await isFile(object, size));
  await mkdir(dirname(object), { recursive: true, mode: 0o700 });
  await rename(arriving, object);
  return { ...own, hash, isNew };
}

/**
 * @param folder on any disk; made when it is not there
 * @throws Error with a sentence; earlier copies stay as they are
 */
export async function backUpLibrary({ data, database }: Config, folder: string): Promise<Copied> {
  const copies = await copiesIn(folder);
  const last = copies.at(-1);
  const known = new Map((last ? await filesOf(folder, last) : []).map((f) => [f.path, f]));
  const at = join(folder, 'copies', new Date().toISOString().replace(/[:.]/g, '-'));
  const part = `${at}.part`;
  await mkdir(part, { recursive: true, mode: 0o700 });
  try {
    // Rows first: whatever they name was whole before them.
    await dumpTo(join(part, TABLES), database);
    const files: KeptFile[] = [];
    let [added, bytes] = [0, 0];
    for (const kind of KEPT)
      for (const path of (await filesBelow(join(data, kind))).filter(isWhole)) {
        const { isNew, ...file } = await keep(data, folder, path, known.get(relative(data, path)));
        files.push(file);
        if (isNew) [added, bytes] = [added + 1, bytes + file.size];
      }
    await writeFile(join(part, FILES), JSON.stringify(files, null, 1), { mode: 0o600 });
    await rename(part, at);
    return { at, files: files.length, added, bytes };
  } catch (e) {
    await rm(part, { recursive: true, force: true });
    throw new Error(
      `The backup was not made (${(e as Error).message}). Free disk space or name another folder; earlier copies are whole.`,
      {
        cause: e,
      },
    );
  }
}

/** Brings one file back, unless it is there already. */
async function bringBack(data: string, folder: string, file: KeptFile): Promise<void> {
  const to = join(data, file.path);
  if (!(await isFile(to, file.size)))
    await copyWhole(objectAt(folder, file.hash), to, (hash) => {
      if (hash !== file.hash)
        throw new Error(`The copy of ${file.path} is damaged; take an earlier backup. The tables were not touched.`);
    });
  await utimes(to, file.changed / 1000, file.changed / 1000);
}

/**
 * Brings the newest copy back into a Yarlop that has no tables yet: files first, all rows at once at the end, so that
 * what is interrupted can be begun again.
 * @throws Error with a sentence
 */
export async function restoreLibrary({ data, database }: Config, folder: string): Promise<Copied> {
  const copy = (await copiesIn(folder)).at(-1);
  if (!copy) throw new Error(`There is no whole backup in ${folder}; name the folder that npm run backup was given.`);
  const files = await filesOf(folder, copy);
  for (const f of files)
    if (!(await isFile(objectAt(folder, f.hash), f.size)))
      throw new Error(`The backup lacks its copy of ${f.path} (${objectAt(folder, f.hash)}); nothing was changed.`);
  const at = join(folder, 'copies', copy);
  const bytes = files.reduce((s, f) => s + f.size, 0);
  await loadInto(database, join(at, TABLES), async () => {
    for (const f of files) await bringBack(data, folder, f);
  });
  return { at, files: files.length, added: files.length, bytes };
}
