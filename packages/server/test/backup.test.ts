/** Everything into a folder while the server runs, and back from there into an empty one, by the commands themselves. */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';

let folder: string;
let server: TestServer;
let shot: number;
let screen: number;

async function command(way: string, of: TestServer, where = folder): Promise<{ code: number; told: string }> {
  const child = spawn('node', ['dist/library.mjs', way, where], {
    env: { ...process.env, YARLOP_DATA: of.data, YARLOP_DB_NAME: of.database },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let told = '';
  child.stdout.on('data', (t: Buffer) => (told += t.toString()));
  child.stderr.on('data', (t: Buffer) => (told += t.toString()));
  const [code] = (await once(child, 'close')) as [number];
  return { code, told };
}

/** Path in the data folder to SHA-256 of what is kept there. */
async function kept(data: string): Promise<Record<string, string>> {
  const out: Record<string, string> = {};
  for (const kind of ['originals', 'media', 'deliveries']) {
    const entries = await readdir(join(data, kind), { withFileTypes: true, recursive: true }).catch(() => []);
    for (const e of entries.filter((f) => f.isFile())) {
      const path = join(e.parentPath, e.name);
      out[relative(data, path)] = createHash('sha256')
        .update(await readFile(path))
        .digest('hex');
    }
  }
  return out;
}

/** Every row of every table, as text. */
async function rows(of: TestServer): Promise<Record<string, string[]>> {
  const tables = await of.sql<{ name: string }>(
    'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY 1',
  );
  const out: Record<string, string[]> = {};
  for (const { name } of tables)
    out[name] = (await of.sql(`SELECT * FROM \`${name}\``)).map((r) => JSON.stringify(r)).sort();
  return out;
}

/** A server that ended, without tables or files. */
async function emptied(): Promise<TestServer> {
  const s = await TestServer.create();
  await s.kill('SIGTERM');
  await s.sql(`DROP DATABASE \`${s.database}\``);
  await rm(s.data, { recursive: true, force: true });
  return s;
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-backup-'));
  server = await TestServer.create();
  ({ shot } = await server.shot(await plateBytes(12)));
  const made = await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, recipe);
  screen = made.body.id;
}, 120_000);
afterAll(async () => {
  await server.dispose();
  await rm(folder, { recursive: true, force: true });
});

describe('a backup', () => {
  it('is made while the server answers, and the next one adds only what is new', async () => {
    const [first, listed] = await Promise.all([command('backup', server), server.request('GET', `/shots/${shot}`)]);
    expect(first).toMatchObject({
      code: 0,
      told: expect.stringMatching(/Backed up to .*: \d+ files, [1-9]\d* of them/),
    });
    expect(listed.status).toBe(200);
    const second = await command('backup', server);
    expect(second.told).toMatch(/ 0 of them copied \(0\.0 MB\)/);
    expect(await readdir(join(folder, 'copies'))).toHaveLength(2);
  });
  it('comes back row by row and file by file into an empty Yarlop, which starts on it', async () => {
    const before = { rows: await rows(server), files: await kept(server.data) };
    const other = await emptied();
    try {
      const back = await command('restore', other);
      expect(back).toMatchObject({ code: 0, told: expect.stringContaining('Restored from') });
      expect(await rows(other)).toEqual(before.rows);
      expect(await kept(other.data)).toEqual(before.files);
      expect(Object.keys(before.files).length).toBeGreaterThan(2);
      await other.start();
      const seen = await other.request<{ screens: { id: number }[]; mediaState: string }>('GET', `/shots/${shot}`);
      expect(seen.body).toMatchObject({ mediaState: 'ready', screens: [{ id: screen }] });
    } finally {
      await other.dispose();
    }
  });
  it('is not restored over what is there', async () => {
    const before = await rows(server);
    const refused = await command('restore', server);
    expect(refused.code).toBe(1);
    expect(refused.told).toMatch(/has data of its own already; restore into an empty data folder/);
    expect(await rows(server)).toEqual(before);
  });
  it('that is damaged, or is none, is refused with a sentence and changes nothing', async () => {
    const other = await emptied();
    const [object] = (await readdir(join(folder, 'objects'), { withFileTypes: true, recursive: true })).filter((e) =>
      e.isFile(),
    );
    const path = join(object!.parentPath, object!.name);
    const whole = await readFile(path);
    const tables = async (): Promise<string[]> => Object.keys(await rows(other).catch(() => ({})));
    try {
      await writeFile(path, Buffer.alloc(whole.length));
      expect(await command('restore', other)).toMatchObject({
        code: 1,
        told: expect.stringMatching(/is damaged; take an earlier/),
      });
      expect(await tables()).toEqual([]);
      await rm(path);
      expect((await command('restore', other)).told).toMatch(/lacks its copy of .*nothing was changed/s);
      expect((await command('restore', other, other.data)).told).toMatch(/no whole backup in/);
      expect(await tables()).toEqual([]);
      // What was begun is gone on with once the copy is whole again.
      await writeFile(path, whole);
      expect((await command('restore', other)).code).toBe(0);
      expect(await kept(other.data)).toEqual(await kept(server.data));
    } finally {
      await other.dispose();
    }
  });
});
