/** A copy of all that the database holds, as SQL that MariaDB's own client reads back. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Config } from './config';

/** Characters of the dump program's complaint that are passed on. */
const MOST_WORDS = 300;

/**
 * @param name of the backup; the time is added
 * @returns where it lies
 * @throws Error with a sentence, when it cannot be written whole
 */
export async function backUp({ data, database }: Config, name: string): Promise<string> {
  const folder = join(data, 'backups');
  const path = join(folder, `${name}-${new Date().toISOString().replace(/[:.]/g, '-')}.sql`);
  const part = `${path}.part`;
  try {
    await mkdir(folder, { recursive: true, mode: 0o700 });
    await dumpTo(part, database);
    await rename(part, path);
  } catch (e) {
    await rm(part, { force: true }).catch(() => {});
    throw new Error(
      `the tables are to be changed, but the backup before that failed (${(e as Error).message}). Free disk space and see that mariadb-dump is installed; nothing was changed.`,
      { cause: e },
    );
  }
  return path;
}

/**
 * Every row of the database at one moment, while it goes on being written.
 * @throws Error with the dump program's own words
 */
export async function dumpTo(path: string, { host, port, user, password, name }: Config['database']): Promise<void> {
  const dump = spawn(
    'mariadb-dump',
    ['--host', host, '--port', String(port), '--user', user, '--single-transaction', '--hex-blob', name],
    { env: { ...process.env, MYSQL_PWD: password }, stdio: ['ignore', 'pipe', 'pipe'] },
  );
  let words = '';
  dump.stderr.setEncoding('utf8').on('data', (t: string) => {
    words = (words + t).slice(0, MOST_WORDS);
  });
  const ended = once(dump, 'close') as Promise<[number | null]>;
  await Promise.all([ended, pipeline(dump.stdout, createWriteStream(path, { mode: 0o600 }))]);
  const [code] = await ended;
  if (code !== 0) throw new Error(words.trim() || `mariadb-dump ended with ${String(code)}`);
}
