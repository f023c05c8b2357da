/** All tables of a dump at once: loaded beside, then moved into place by one statement. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import mysql from 'mysql2/promise';
import type { Config } from './config';

/** Characters of the client's complaint that are passed on. */
const MOST_WORDS = 300;

type Access = Config['database'];

async function tablesOf(c: mysql.Connection, name: string): Promise<string[]> {
  const [rows] = await c.query<mysql.RowDataPacket[]>(
    'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = ?',
    [name],
  );
  return rows.map((r) => r['name'] as string);
}

/** @throws Error with the client's own words */
async function readIn({ host, port, user, password }: Access, name: string, path: string): Promise<void> {
  const client = spawn('mariadb', ['--host', host, '--port', String(port), '--user', user, name], {
    env: { ...process.env, MYSQL_PWD: password },
    stdio: ['pipe', 'ignore', 'pipe'],
  });
  let words = '';
  client.stderr.setEncoding('utf8').on('data', (t: string) => {
    words = (words + t).slice(0, MOST_WORDS);
  });
  const ended = once(client, 'close') as Promise<[number | null]>;
  // A client that ends early breaks the pipe; its own words say why.
  await pipeline(createReadStream(path), client.stdin).catch(() => {});
  const [code] = await ended;
  if (code !== 0) throw new Error(words.trim() || `mariadb ended with ${String(code)}`);
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
