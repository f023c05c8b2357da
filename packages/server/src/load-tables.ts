/** All tables of a dump at once: loaded beside, then moved into place by one statement. */
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import mysql from 'mysql2/promise';
import type { Config } from './config';
import { databaseClient } from './database-client';

type Access = Config['database'];

async function tablesOf(c: mysql.Connection, name: string): Promise<string[]> {
  const [rows] = await c.query<mysql.RowDataPacket[]>(
    'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = ?',
    [name],
  );
  return rows.map((r) => r['name'] as string);
}

/** @throws Error with the client's own words */
async function readIn(access: Access, name: string, path: string): Promise<void> {
  const { child, done } = databaseClient('mariadb', access, [name]);
  child.stdout.resume();
  // A client that ends early breaks the pipe; its own words say why.
  await Promise.all([done, pipeline(createReadStream(path), child.stdin).catch(() => {})]);
}

/**
 * @param path a dump
 * @param before what must be done first; tables appear only after it
 * @throws Error with a sentence, when there are tables already or the dump cannot be read
 */
export async function loadInto(access: Access, path: string, before: () => Promise<void>): Promise<void> {
  const { host, port, user, password, name } = access;
  const beside = `${name}_restored`;
  const c = await mysql.createConnection({ host, port, user, password });
  try {
    await c.query(`CREATE DATABASE IF NOT EXISTS \`${name}\` CHARACTER SET utf8mb4`);
    if ((await tablesOf(c, name)).length > 0)
      throw new Error(
        'This Yarlop has data of its own already; restore into an empty data folder (set YARLOP_DATA to a new one). Nothing was changed.',
      );
    await c.query(`DROP DATABASE IF EXISTS \`${beside}\``);
    await c.query(`CREATE DATABASE \`${beside}\` CHARACTER SET utf8mb4`);
    await readIn(access, beside, path);
    await before();
    const moves = (await tablesOf(c, beside)).map((t) => `\`${beside}\`.\`${t}\` TO \`${name}\`.\`${t}\``);
    if (moves.length === 0)
      throw new Error(`The backup's ${path} holds no tables; take an earlier one. Nothing was changed.`);
    await c.query(`RENAME TABLE ${moves.join(', ')}`);
  } finally {
    await c.query(`DROP DATABASE IF EXISTS \`${beside}\``).catch(() => {});
    await c.end();
  }
}
