/** What is deleted lies in the bin, comes out as it was, and goes for good with its files; what is needed never goes. */
import { access, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { plateBytes, recipe, variantOf } from './builders/plate';
import { TestServer } from './builders/server';

let server: TestServer;
let bytes: Buffer;
beforeAll(async () => {
  server = await TestServer.create({ YARLOP_WARN_BYTES: '12345' });
  bytes = await plateBytes(12);
}, 90_000);
afterAll(() => server.dispose());

const otherBytes = (): Buffer => variantOf(bytes);

interface Named {
  readonly id: number;
  readonly name: string;
}
interface Binned {
  readonly kind: string;
  readonly key: number | string;
  readonly name: string;
  readonly place: string;
  readonly bytes: number;
}
interface Disk {
  readonly free: number;
  readonly warnBelow: number;
  readonly bin: number;
  readonly productions: readonly { id: number; originals: number; working: number; deliveries: number }[];
  readonly unused: readonly { hash: string; bytes: number }[];
}
const inBin = async (): Promise<readonly Binned[]> => (await server.request<{ all: Binned[] }>('GET', '/bin')).body.all;
const disk = async (): Promise<Disk> => (await server.request<Disk>('GET', '/disk')).body;
const isThere = (...parts: string[]): Promise<boolean> =>
  access(join(server.data, ...parts)).then(
    () => true,
    () => false,
  );
let made: { production: number; shot: number; hash: string };
let source: Buffer;
beforeEach(async () => {
  await server.request('DELETE', '/bin');
  source = otherBytes();
  made = await server.shot(source);
});

async function stateOf(job: number): Promise<string | undefined> {
  return (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find((j) => j.id === job)?.state;
}

async function delivered(shot: number): Promise<number> {
  const screen = (await server.request<Named>('POST', `/shots/${shot}/screens`, recipe)).body.id;
  const run = await server.request<{ id: number }>('POST', `/screens/${screen}/follow`, { from: 0, to: 11 });
  await server.until(async () => (await stateOf(run.body.id)) === 'done', 30_000);
  const asked = { as: 'csv', name: 'corners' };
  const { body } = await server.request<Named>('POST', `/shots/${shot}/deliveries`, asked);
  await server.until(
    async () =>
      (await server.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot}/deliveries`)).body.some(
        (d) => d.id === body.id && d.sha256,
      ),
    30_000,
  );
  return body.id;
}

describe('a shot that is deleted', () => {
  it('is told with what goes with it, is gone from the board, and cannot be opened meanwhile', async () => {
    await delivered(made.shot);
    const goes = await server.request('GET', `/bin/shot/${made.shot}`);
    expect(goes.body).toMatchObject({ screens: 1, deliveries: 1 });
    expect(Number(goes.body['bytes'])).toBeGreaterThan(100);
    expect((await server.request('DELETE', `/shots/${made.shot}`)).status).toBe(200);
    const board = await server.request<{ shots: unknown[] }>('GET', `/productions/${made.production}`);
    expect(board.body.shots).toEqual([]);
    const opened = await server.request<{ message: string }>('GET', `/shots/${made.shot}`);
    expect(opened.status).toBe(410);
    expect(opened.body.message).toMatch(/lies in the bin; take it out again/);
    expect(await inBin()).toMatchObject([{ kind: 'shot', key: made.shot }]);
  });
  it('comes out of the bin with its Screens, its track and its deliveries', async () => {
    const delivery = await delivered(made.shot);
    const before = (await server.request('GET', `/shots/${made.shot}`)).body;
    await server.request('DELETE', `/shots/${made.shot}`);
    expect((await server.request('POST', `/bin/shot/${made.shot}/out`)).status).toBe(200);
    expect((await server.request('GET', `/shots/${made.shot}`)).body).toEqual(before);
    expect((await server.request('GET', `/deliveries/${delivery}/file`)).status).toBe(200);
    expect(await inBin()).toEqual([]);
  });
  it('goes for good when the bin is emptied, with the files of its deliveries; its plate stays', async () => {
    const delivery = await delivered(made.shot);
    await server.request('DELETE', `/shots/${made.shot}`);
    expect(await isThere('deliveries', String(delivery))).toBe(true);
    const emptied = await server.request('DELETE', '/bin');
    expect(emptied.body).toMatchObject({ removed: 1 });
    expect(Number(emptied.body['bytes'])).toBeGreaterThan(100);
    expect(await isThere('deliveries', String(delivery))).toBe(false);
    expect(await isThere('originals', made.hash, 'source')).toBe(true);
    expect(await server.sql('SELECT * FROM screens WHERE shot_id = ?', [made.shot])).toEqual([]);
    expect((await server.request('GET', `/shots/${made.shot}`)).status).toBe(404);
  });
  it('ends what runs for it', async () => {
    const screen = (await server.request<Named>('POST', `/shots/${made.shot}/screens`, recipe)).body.id;
    const run = (await server.request<{ id: number }>('POST', `/screens/${screen}/follow`, { from: 0, to: 11 })).body
      .id;
    await server.request('DELETE', `/shots/${made.shot}`);
    await server.until(async () => /cancelled|done/.test((await stateOf(run)) ?? ''), 10_000);
    expect((await server.request('GET', `/shots/${made.shot}`)).status).toBe(410);
  });
});

describe('a production that is deleted', () => {
  it('takes its shots along, and brings them back', async () => {
    expect((await server.request('GET', `/bin/production/${made.production}`)).body).toMatchObject({ shots: 1 });
    await server.request('DELETE', `/productions/${made.production}`);
    const list = (await server.request<Named[]>('GET', '/productions')).body;
    expect(list.some((p) => p.id === made.production)).toBe(false);
    expect((await server.request('GET', `/shots/${made.shot}`)).status).toBe(410);
    await server.request('POST', `/bin/production/${made.production}/out`);
    expect((await server.request('GET', `/shots/${made.shot}`)).status).toBe(200);
  });
});

describe('a plate', () => {
  it('that a shot needs, also one in the bin, is never deleted', async () => {
    const first = await server.request<{ message: string }>('PUT', `/bin/media/${made.hash}`);
    expect(first.status).toBe(409);
    expect(first.body.message).toMatch(/is the plate of a shot/);
    await server.request('DELETE', `/shots/${made.shot}`);
    expect((await server.request('PUT', `/bin/media/${made.hash}`)).status).toBe(409);
    expect(await isThere('originals', made.hash, 'source')).toBe(true);
  });
  it('that a Screen shows as its fill, or showed once, is never deleted', async () => {
    const fill = await server.shot(otherBytes());
    const filled = { ...recipe, fill: { media: fill.hash } };
    const screen = await server.request<Named & { revision: number }>('POST', `/shots/${made.shot}/screens`, filled);
    expect(screen.status).toBe(201);
    await server.request('DELETE', `/shots/${fill.shot}`);
    await server.request('DELETE', '/bin');
    expect((await server.request('PUT', `/bin/media/${fill.hash}`)).status).toBe(409);
    const plain = { revision: screen.body.revision, recipe: recipe };
    expect((await server.request('PUT', `/screens/${screen.body.id}`, plain)).status).toBe(200);
    expect((await server.request('PUT', `/bin/media/${fill.hash}`)).status).toBe(409);
  });
  it('that nothing needs is told as such, goes into the bin, and for good with its files', async () => {
    await server.request('DELETE', `/shots/${made.shot}`);
    await server.request('DELETE', '/bin');
    expect((await disk()).unused.find((u) => u.hash === made.hash)?.bytes).toBeGreaterThan(source.length);
    expect((await server.request('PUT', `/bin/media/${made.hash}`)).status).toBe(200);
    expect((await disk()).unused.some((u) => u.hash === made.hash)).toBe(false);
    expect((await disk()).bin).toBeGreaterThan(source.length);
    expect((await server.request('DELETE', `/bin/media/${made.hash}`)).status).toBe(200);
    expect(await isThere('originals', made.hash)).toBe(false);
    expect(await isThere('media', made.hash)).toBe(false);
    expect((await server.request('GET', `/media/${made.hash}`)).status).toBe(404);
  });
  it('that is brought in again while it lies in the bin is out of it', async () => {
    await server.request('DELETE', `/shots/${made.shot}`);
    await server.request('DELETE', '/bin');
    await server.request('PUT', `/bin/media/${made.hash}`);
    const again = await server.shot(source);
    expect(again.hash).toBe(made.hash);
    expect((await inBin()).some((b) => b.key === made.hash)).toBe(false);
    expect((await server.request('DELETE', `/bin/media/${made.hash}`)).status).toBe(409);
  });
});

describe('what was made of a plate for work', () => {
  it('is made anew from the original, and the shot is as it was', async () => {
    const before = (await server.request('GET', `/shots/${made.shot}`)).body;
    await rm(join(server.data, 'media', made.hash), { recursive: true });
    expect((await fetch(`${server.url}/api/media/${made.hash}/proxy/3.jpg`)).status).toBe(409);
    expect((await server.request('POST', `/media/${made.hash}/anew`)).status).toBe(200);
    await server.until(
      async () => (await server.request('GET', `/shots/${made.shot}`)).body['mediaState'] === 'ready',
      30_000,
    );
    expect((await fetch(`${server.url}/api/media/${made.hash}/proxy/3.jpg`)).status).toBe(200);
    expect((await server.request('GET', `/shots/${made.shot}`)).body).toEqual(before);
  });
  it('is not promised where the original is gone', async () => {
    await rm(join(server.data, 'originals', made.hash, 'source'));
    const asked = await server.request<{ message: string }>('POST', `/media/${made.hash}/anew`);
    expect(asked.status).toBe(409);
    expect(asked.body.message).toMatch(/is gone from the disk; bring the same file in again/);
  });
});

describe('the days of the bin', () => {
  it('over, what lies there goes at the next start; what does not stays', async () => {
    const other = await server.shot(otherBytes());
    await server.request('DELETE', `/shots/${made.shot}`);
    await server.request('DELETE', `/shots/${other.shot}`);
    await server.sql('UPDATE shots SET binned = NOW(3) - INTERVAL 15 DAY WHERE id = ?', [made.shot]);
    await server.kill('SIGTERM');
    await server.start();
    await server.until(async () => !(await inBin()).some((b) => b.key === made.shot), 10_000);
    expect(await inBin()).toMatchObject([{ kind: 'shot', key: other.shot }]);
  });
});

describe('the disk', () => {
  it('is told by production, as large as its files are, with what is free and when to warn', async () => {
    await delivered(made.shot);
    const { productions, free, warnBelow } = await disk();
    const own = productions.find((p) => p.id === made.production)!;
    expect(own.originals).toBe(source.length);
    expect(own.working).toBeGreaterThan(1000);
    expect(own.deliveries).toBeGreaterThan(100);
    expect(free).toBeGreaterThan(0);
    expect(warnBelow).toBe(12345);
    expect((await readdir(join(server.data, 'originals'))).length).toBeGreaterThan(0);
  });
});
