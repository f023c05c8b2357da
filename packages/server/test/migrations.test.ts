/** Tables of every earlier Yarlop, with data in them, brought to today's; and those of a later one left alone. */
import { randomBytes } from 'node:crypto';
import { copyFile, mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Config } from '../src/config';
import { Database, migrate } from '../src/database';
import * as screens from '../src/sql/screens';
import * as shots from '../src/sql/shots';

const OWN = 'packages/server/migrations';
const NEWEST = 18;
const HASH = 'b'.repeat(64);
const server = {
  host: '127.0.0.1',
  port: Number(process.env['YARLOP_DB_PORT']),
  user: process.env['YARLOP_DB_USER']!,
  password: process.env['YARLOP_DB_PASSWORD']!,
};
const made: string[] = [];
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-migrations-'));
});
afterAll(async () => {
  const c = await mysql.createConnection(server);
  for (const name of made) await c.query(`DROP DATABASE IF EXISTS \`${name}\``);
  await c.end();
  await rm(folder, { recursive: true, force: true });
});

/** The settings of a database that is not there yet, and migrations up to a number. */
async function upTo(last: number, name?: string): Promise<Config> {
  const database = { ...server, name: name ?? `yarlop_migrated_${randomBytes(6).toString('hex')}` };
  made.push(database.name);
  const migrations = await mkdtemp(join(folder, 'some-'));
  for (const file of await readdir(OWN))
    if (Number(file.slice(0, 3)) <= last) await copyFile(join(OWN, file), join(migrations, file));
  return {
    host: '',
    port: 0,
    web: '',
    reserve: 0,
    names: [],
    studio: null,
    warnBelow: 0,
    workerMb: 0,
    data: folder,
    migrations,
    database: { ...database, callMs: 20_000 },
  };
}

async function fill(config: Config): Promise<void> {
  const c = await mysql.createConnection({ ...server, database: config.database.name });
  await c.query(`INSERT INTO productions (id, name) VALUES (1, 'Kept')`);
  await c.query(
    `INSERT INTO media (hash, name, source, probe, notes, frame_count, state)
     VALUES ('${HASH}', 'quay.mp4', '{"files":["source"]}', '{"width":640}', '[]', 12, 'ready')`,
  );
  await c.query(
    `INSERT INTO shots (id, production_id, name, media_hash, range_from, range_to) VALUES (1, 1, 'Quay', '${HASH}', 2, 9)`,
  );
  await c.query(`INSERT INTO screens (id, shot_id, recipe) VALUES (1, 1, '{"name":"phone"}')`);
  await c.query(`INSERT INTO screen_revisions (screen_id, revision, recipe) VALUES (1, 1, '{"name":"phone"}')`);
  await c.end();
}

describe('tables of an earlier Yarlop', () => {
  it('are those that this test knows', async () => {
    expect(
      (await readdir(OWN))
        .map((f) => Number(f.slice(0, 3)))
        .sort((a, b) => a - b)
        .at(-1),
    ).toBe(NEWEST);
  });
  it.each(Array.from({ length: NEWEST - 1 }, (_, i) => i + 1))(
    'at %i are brought to the newest, keep what they hold, and were backed up before',
    async (version) => {
      const before = await upTo(version);
      expect(await migrate(before)).toBeNull();
      await fill(before);
      const now = await upTo(NEWEST, before.database.name);
      const backup = await migrate(now);
      expect(await readFile(backup!, 'utf8')).toMatch(/INSERT INTO `screens`.*phone/s);
      const db = new Database(now.database);
      expect(await db.one(shots.findShot, [1])).toMatchObject({ name: 'Quay', rangeFrom: 2, rangeTo: 9 });
      expect(await db.one(screens.findScreen, [1])).toMatchObject({ recipe: { name: 'phone' }, revision: 1 });
      await db.close();
      // Once more, nothing is to be done.
      expect(await migrate(now)).toBeNull();
    },
  );
});

describe('tables of a later Yarlop', () => {
  it('are refused with a sentence, and stay as they are', async () => {
    const later = await upTo(NEWEST);
    await migrate(later);
    await fill(later);
    const earlier = await upTo(NEWEST - 2, later.database.name);
    await expect(migrate(earlier)).rejects.toThrow(
      `is of a newer Yarlop (its tables are at ${NEWEST}, this one knows them up to ${NEWEST - 2}). Start the newer Yarlop; nothing was changed.`,
    );
    const db = new Database(later.database);
    expect(await db.one(screens.findScreen, [1])).toMatchObject({ recipe: { name: 'phone' } });
    await db.close();
  });
});

describe('a backup that cannot be written', () => {
  it('stops the change of the tables', async () => {
    const before = await upTo(NEWEST - 1);
    await migrate(before);
    await fill(before);
    const now = { ...(await upTo(NEWEST, before.database.name)), data: '/dev/null' };
    await expect(migrate(now)).rejects.toThrow(/ENOTDIR|backup/);
    const c = await mysql.createConnection({ ...server, database: before.database.name });
    const [rows] = await c.query<mysql.RowDataPacket[]>('SELECT MAX(version) AS version FROM schemaversion');
    await c.end();
    expect(Number(rows[0]!['version'])).toBe(NEWEST - 1);
  });
});
