/** ffmpeg that is ended by somebody else (a machine that runs out of memory does that): its job fails with a sentence, and can be done again. */
import { execFile } from 'node:child_process';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from '../builders/plate';
import { TestServer } from '../builders/server';

let server: TestServer;
let shot: number;
let hash: string;
beforeAll(async () => {
  server = await TestServer.create();
  ({ shot, hash } = await server.shot(await plateBytes(24, 14)));
  const screen = await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, recipe);
  await server.request('POST', `/screens/${screen.body.id}/follow`, { from: 4, to: 12 });
  await server.ended('follow', 'done');
}, 120_000);
afterAll(() => server.dispose());

/** Ends the tools that work on this server's files, as soon as there are any. */
async function endTools(): Promise<void> {
  const pids = await server.until(async () => {
    const { stdout } = await promisify(execFile)('ps', ['-eo', 'pid=,comm=,args=']);
    const own = stdout.split('\n').filter((l) => /^\s*\d+ ffmpeg /.test(l) && l.includes(server.data));
    return own.length > 0 ? own.map((l) => Number(l.trim().split(' ')[0])) : null;
  });
  for (const pid of pids) process.kill(pid, 'SIGKILL');
}

describe('a tool that is ended by somebody else', () => {
  it('while a plate is read in: that is said, and the working files are made anew', async () => {
    await server.request('POST', `/media/${hash}/anew`);
    await endTools();
    const failed = await server.until(async () => {
      const { body } = await server.request<{ state: string; problem: string }>('GET', `/media/${hash}`);
      return body.state === 'failed' ? body : null;
    });
    expect(failed.problem).toMatch(/^"quay.mp4" could not be decoded: the decoder stopped\.$/);
    expect(
      (await readdir(join(server.data, 'media', hash)).catch(() => [])).filter((n) => n.endsWith('.part')),
    ).toEqual([]);
    expect((await server.request('POST', `/media/${hash}/anew`)).status).toBeLessThan(300);
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${hash}`)).body.state === 'ready',
    );
  });
  it('while a delivery is written: that is said, nothing half stays, and another one is made', async () => {
    const deliver = (): Promise<{ body: { id: number } }> =>
      server.request('POST', `/shots/${shot}/deliveries`, { as: 'mkv', show: 'flat', from: 4, to: 12 });
    const first = await deliver();
    await endTools();
    const { message } = await server.ended('deliver', 'failed');
    expect(message).toMatch(/could not be (written|decoded)[^/]*\.$/);
    const left = await readdir(join(server.data, 'deliveries', String(first.body.id))).catch(() => []);
    expect(left.filter((n) => !n.startsWith('.'))).toEqual([]);
    await deliver();
    await server.ended('deliver', 'done');
  }, 90_000);
});
