/**
 * What is brought in by several people at once, by a finger that strikes twice, and by a server that is killed in
 * between: nothing is lost, nothing is made twice, and nothing is left lying about.
 */
import { access, mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe, variantOf } from './builders/plate';
import { TestServer } from './builders/server';

let server: TestServer;
let bytes: Buffer;
let production: number;
beforeAll(async () => {
  server = await TestServer.create();
  bytes = await plateBytes(4);
  production = (await server.request<{ id: number }>('POST', '/productions', { name: 'Intake' })).body.id;
}, 90_000);
afterAll(() => server.dispose());

interface Shot {
  readonly id: number;
  readonly mediaHash: string;
  readonly mediaState: string;
  readonly message?: string;
}
const create = (upload: string): Promise<{ status: number; body: Shot }> =>
  server.request<Shot>('POST', `/productions/${production}/shots`, { name: 'Quay', upload, fileName: 'quay.mp4' });
const ready = (shot: number): Promise<unknown> =>
  server.until(async () => (await server.request<Shot>('GET', `/shots/${shot}`)).body.mediaState === 'ready', 30_000);
const otherBytes = (): Buffer => variantOf(bytes);

describe('the same file', () => {
  it('brought in by six people at once is one original, that stays, and six shots', async () => {
    for (let round = 0; round < 3; round++) {
      const same = otherBytes();
      const uploads = await Promise.all(Array.from({ length: 6 }, () => server.upload(same)));
      const made = await Promise.all(uploads.map((u) => create(u.id)));
      expect(made.map((m) => [m.status, m.body.message])).toEqual(made.map(() => [201, undefined]));
      expect(new Set(made.map((m) => m.body.id)).size).toBe(6);
      const [first] = made;
      await ready(first!.body.id);
      await access(join(server.data, 'originals', first!.body.mediaHash, 'source'));
      const [later] = [await server.upload(same)];
      expect((await create(later.id)).status).toBe(201);
    }
    expect(await readdir(join(server.data, 'uploads'))).toEqual([]);
  });
  it('whose original is gone from the disk is put back by bringing it in again', async () => {
    const same = otherBytes();
    const { body } = await create((await server.upload(same)).id);
    await ready(body.id);
    const original = join(server.data, 'originals', body.mediaHash, 'source');
    const { rm } = await import('node:fs/promises');
    await rm(original);
    expect((await create((await server.upload(same)).id)).status).toBe(201);
    await access(original);
  });
  it('that waits with no job to read it in, as a kill in between once left it, is read in when it is brought again', async () => {
    const same = otherBytes();
    const first = await create((await server.upload(same)).id);
    await ready(first.body.id);
    const { mediaHash } = first.body;
    await server.sql('DELETE FROM jobs WHERE media_hash = ?', [mediaHash]);
    await server.sql("UPDATE media SET state = 'waiting' WHERE hash = ?", [mediaHash]);
    const { status, body } = await create((await server.upload(same)).id);
    expect([status, body.mediaHash]).toEqual([201, mediaHash]);
    await ready(body.id);
  });
});

describe('a finger that strikes twice', () => {
  it('makes one shot of one upload, whether at once or later', async () => {
    const { id } = await server.upload(otherBytes());
    const twice = await Promise.all([create(id), create(id), create(id)]);
    expect(twice.map((t) => t.status)).toEqual([201, 201, 201]);
    expect(new Set(twice.map((t) => t.body.id)).size).toBe(1);
    expect((await create(id)).body.id).toBe(twice[0]!.body.id);
  });
  it('starts one run of following, and one delivery', async () => {
    const { body: shot } = await create((await server.upload(otherBytes())).id);
    await ready(shot.id);
    const screen = (
      await server.request<{ id: number }>('POST', `/shots/${shot.id}/screens`, { ...recipe, referenceFrame: 1 })
    ).body.id;
    const runs = await Promise.all(
      Array.from({ length: 6 }, () => server.request('POST', `/screens/${screen}/follow`, { from: 0, to: 3 })),
    );
    expect(runs.filter((r) => r.status === 202)).toHaveLength(1);
    expect(runs.filter((r) => r.status === 409)).toHaveLength(5);
    expect(await server.sql(`SELECT id FROM jobs WHERE kind = 'follow' AND screen_id = ?`, [screen])).toHaveLength(1);
    await server.until(
      async () =>
        (await server.sql(`SELECT id FROM jobs WHERE kind = 'follow' AND screen_id = ? AND state = 'done'`, [screen]))
          .length === 1,
    );
    // Whether or not the first is made before the third stroke is heard.
    const asked = await Promise.all(
      [1, 2, 3].map(() =>
        server.request<{ id: number }>('POST', `/shots/${shot.id}/deliveries`, { as: 'mkv', show: 'clean' }),
      ),
    );
    expect(asked.map((a) => a.status)).toEqual([201, 201, 201]);
    expect(new Set(asked.map((a) => a.body.id)).size).toBe(1);
  });
});

describe('many at once', () => {
  it('add sixty Screens to a shot: all are there, each with a depth of its own', async () => {
    const { body: shot } = await create((await server.upload(otherBytes())).id);
    const made = await Promise.all(
      Array.from({ length: 60 }, (_, i) =>
        server.request('POST', `/shots/${shot.id}/screens`, { ...recipe, name: `s${i}`, referenceFrame: 1 }),
      ),
    );
    expect(made.map((m) => m.status)).toEqual(made.map(() => 201));
    const depths = await server.sql<{ depth: number }>('SELECT depth FROM screens WHERE shot_id = ?', [shot.id]);
    expect(new Set(depths.map((d) => d.depth)).size).toBe(60);
  });
});

describe('a server that is killed while a finished upload is taken in', () => {
  it('loses none of six: asked again, it makes the shot, once', async () => {
    for (let round = 0; round < 6; round++) {
      const { id } = await server.upload(otherBytes());
      const asked = create(id).catch(() => null);
      await new Promise((r) => setTimeout(r, 25 * round));
      await server.kill();
      await asked;
      await server.start();
      const again = await create(id);
      expect(again.body.message).toBeUndefined();
      expect(again.status).toBe(201);
      await ready(again.body.id);
      const shots = await server.sql('SELECT id FROM shots WHERE media_hash = ?', [again.body.mediaHash]);
      expect(shots).toHaveLength(1);
    }
  });
  it('removes at its next start what was left unfinished, and nothing else', async () => {
    const { id } = await server.upload(otherBytes(), 1000);
    const at = (...parts: string[]): string => join(server.data, ...parts);
    const { body: shot } = await create((await server.upload(otherBytes())).id);
    await ready(shot.id);
    await server.kill();
    const week = new Date(Date.now() - 8 * 24 * 3600 * 1000);
    for (const folder of ['originals/0a.part', 'uploads/7.unpacked', 'deliveries/99999'])
      await mkdir(at(folder), { recursive: true });
    for (const file of ['uploads/old', 'uploads/old.json', `media/${shot.mediaHash}/mix.raw.17.part`])
      await writeFile(at(file), 'x');
    for (const file of ['uploads/old', 'uploads/old.json']) await utimes(at(file), week, week);
    await server.start();
    const gone = [
      'originals/0a.part',
      'uploads/7.unpacked',
      'deliveries/99999',
      'uploads/old',
      'uploads/old.json',
      `media/${shot.mediaHash}/mix.raw.17.part`,
    ];
    for (const path of gone) await expect(access(at(path)), path).rejects.toThrow();
    await access(at('uploads', id));
    await access(at('originals', shot.mediaHash, 'source'));
    expect((await server.request<Shot>('GET', `/shots/${shot.id}`)).body.mediaState).toBe('ready');
  });
});
