import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';
import { allowedMs } from '../../core/test/builders/on-time';

let server: TestServer;
let bytes: Buffer;
beforeAll(async () => {
  server = await TestServer.create();
  bytes = await plateBytes(24, 2);
}, 90_000);
afterAll(() => server.dispose());

interface Frame {
  frame: number;
  homography: number[];
  sigma: number[];
}
const frames = (screen: number): Promise<Frame[]> =>
  server.sql<Frame>(
    'SELECT frame, homography, sigma FROM solve_frames f JOIN solves s ON s.id = f.solve_id WHERE s.screen_id = ? ORDER BY frame',
    [screen],
  );

describe('a server killed with SIGKILL', () => {
  it('during an upload: what arrived is there and the rest can follow', async () => {
    const { id } = await server.upload(bytes, 50_000);
    await server.kill();
    await server.start();
    const head = await fetch(`${server.url}/api/uploads/${id}`, {
      method: 'HEAD',
      headers: { 'Tus-Resumable': '1.0.0' },
    });
    expect(head.headers.get('upload-offset')).toBe('50000');
    expect(await server.patch(id, bytes.subarray(50_000), 50_000)).toBe(204);
  });
  it('during ingest: the job is taken up again and the shot is complete', async () => {
    const p = await server.request<{ id: number }>('POST', '/productions', { name: 'Killed' });
    const { id } = await server.upload(bytes);
    const s = await server.request<{ id: number }>('POST', `/productions/${p.body.id}/shots`, {
      name: 'Quay',
      upload: id,
      fileName: 'quay.mp4',
    });
    await server.kill();
    expect(await server.sql('SELECT state FROM media')).toMatchObject([{ state: 'waiting' }]);
    await server.start();
    await server.until(
      async () =>
        (await server.request<{ mediaState: string }>('GET', `/shots/${s.body.id}`)).body.mediaState === 'ready',
    );
    expect((await server.request<{ frameCount: number }>('GET', `/shots/${s.body.id}`)).body.frameCount).toBe(72);
  });
  it('during following: solved frames stay, the run goes on, and ends exactly as an uninterrupted one', async () => {
    const [{ id: shot }] = (await server.sql<{ id: number }>('SELECT id FROM shots')) as [{ id: number }];
    const screen = (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, recipe)).body.id;
    await server.request('POST', `/screens/${screen}/follow`, { from: 0, to: 47, keepLooking: true });
    await server.until(async () => (await frames(screen)).length > 25);
    await server.kill();
    const kept = await frames(screen);
    expect(kept.length).toBeGreaterThan(25);
    await server.start();
    await server.until(
      async () => (await server.sql(`SELECT id FROM jobs WHERE kind = 'follow' AND state = 'done'`)).length === 1,
      60_000,
    );
    const all = await frames(screen);
    expect(all.length).toBe(48);
    expect(all.filter((f) => kept.some((k) => k.frame === f.frame)).slice(0, 20)).toEqual(kept.slice(0, 20));
    const other = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...recipe, name: 'uninterrupted' })
    ).body.id;
    await server.request('POST', `/screens/${other}/follow`, { from: 0, to: 47, keepLooking: true });
    await server.until(
      async () => (await server.sql(`SELECT id FROM jobs WHERE kind = 'follow' AND state = 'done'`)).length === 2,
      60_000,
    );
    expect(await frames(other)).toEqual(all);
    expect(JSON.stringify(all)).not.toContain('NaN');
  });
  it('during a render: the delivery is made after the restart, whole', async () => {
    const [{ id: shot }] = (await server.sql<{ id: number }>('SELECT id FROM shots')) as [{ id: number }];
    const [screen] = await server.sql<{ id: number; revision: number }>(
      'SELECT id, revision FROM screens ORDER BY id LIMIT 1',
    );
    const [media] = await server.sql<{ hash: string }>('SELECT hash FROM media');
    await server.request('PUT', `/screens/${screen!.id}`, {
      revision: screen!.revision,
      recipe: { ...recipe, fill: { media: media!.hash } },
    });
    await server.request('PUT', `/shots/${shot}`, { revision: 1, workingRange: [0, 47] });
    const d = await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'mp4' });
    await server.until(
      async () =>
        (await server.sql<{ frames_done: number }>(`SELECT frames_done FROM jobs WHERE kind = 'deliver'`))[0]!
          .frames_done > 5,
    );
    await server.kill();
    await server.start();
    const row = await server.until(
      async () =>
        (
          await server.request<{ id: number; sha256: string; bytes: number }[]>('GET', `/shots/${shot}/deliveries`)
        ).body.find((x) => x.id === d.body.id && x.sha256),
      60_000,
    );
    expect(row.bytes).toBeGreaterThan(10_000);
  });
  it('stopped politely in the middle: the run goes on at the next start', async () => {
    const [{ id: shot }] = (await server.sql<{ id: number }>('SELECT id FROM shots')) as [{ id: number }];
    const screen = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...recipe, name: 'drained' })
    ).body.id;
    await server.request('POST', `/screens/${screen}/follow`, { from: 0, to: 71, keepLooking: true });
    await server.until(async () => (await frames(screen)).length > 10);
    // As often as it takes: a server that ends in order has not failed.
    for (let restarts = 0; restarts < 6; restarts++) {
      await server.kill('SIGTERM');
      await server.start();
      await server.until(
        async () =>
          (await server.sql(`SELECT id FROM jobs WHERE screen_id = ? AND state = 'running'`, [screen])).length,
      );
    }
    await server.until(async () => (await frames(screen)).length === 72);
  });
});

describe('a run stopped by the person', () => {
  it('ends within a second, keeps what it solved, and goes on from there when it is asked to', async () => {
    const [{ id: shot }] = (await server.sql<{ id: number }>('SELECT id FROM shots')) as [{ id: number }];
    const screen = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...recipe, name: 'stopped' })
    ).body.id;
    const follow = () =>
      server.request<{ id: number; message: string }>('POST', `/screens/${screen}/follow`, {
        from: 8,
        to: 71,
        keepLooking: true,
      });
    const job = await follow();
    await server.until(async () => (await frames(screen)).length > 10);
    expect(await follow()).toMatchObject({
      status: 409,
      body: { message: expect.stringContaining('followed already') },
    });
    const began = Date.now();
    await server.request('POST', `/jobs/${job.body.id}/cancel`);
    await server.until(
      async () =>
        (await server.sql('SELECT id FROM jobs WHERE id = ? AND state = ?', [job.body.id, 'cancelled'])).length === 1,
    );
    expect(Date.now() - began).toBeLessThan(allowedMs(1000));
    const kept = (await frames(screen)).length;
    expect(kept).toBeLessThan(64);
    await follow();
    await server.until(async () => (await frames(screen)).length === 64);
  });
});
