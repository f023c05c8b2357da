/** A copy of all that the database holds, as SQL that MariaDB's own client reads back. */
import { createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Config } from './config';
import { databaseClient } from './database-client';

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
export async function dumpTo(path: string, access: Config['database']): Promise<void> {
  const { child, done } = databaseClient('mariadb-dump', access, ['--single-transaction', '--hex-blob', access.name]);
  const both = [done, pipeline(child.stdout, createWriteStream(path, { mode: 0o600 }))];
  // A failed dump's file is closed before the caller removes it.
  await Promise.allSettled(both);
  await Promise.all(both);
}
