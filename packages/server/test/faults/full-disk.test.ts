/**
 * A disk that is really full: a file system of its own in memory, which takes rights to mount; without them nothing is
 * told here, and the run says that these tests were left out.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { rm, statfs, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe, variantOf } from '../builders/plate';
import { TestServer } from '../builders/server';

/** MB; a plate of the tests takes some 20 when it is read in. */
const SIZE = 64;

/** A small disk; null where it may not be mounted. */
function smallDisk(): string | null {
  const folder = mkdtempSync(join(tmpdir(), 'yarlop-disk-'));
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${SIZE}m`, 'tmpfs', folder], { stdio: 'ignore' });
    return folder;
  } catch {
    rmSync(folder, { recursive: true });
    return null;
  }
}

const disk = smallDisk();

describe.skipIf(disk === null)('a full disk', () => {
  let server: TestServer;
  let bytes: Buffer;
  let production: number;
  const filler = join(disk ?? '', 'filler');
  beforeAll(async () => {
    server = await TestServer.create({ YARLOP_RESERVE_BYTES: '0' }, disk!);
    bytes = await plateBytes(24);
    production = (await server.request<{ id: number }>('POST', '/productions', { name: 'Full' })).body.id;
  }, 90_000);
  afterAll(async () => {
    await server.kill('SIGTERM');
    execFileSync('umount', [disk!]);
    await server.dispose();
  });

  /** Leaves so many bytes, or none where something was written meanwhile. */
  async function fill(left: number): Promise<void> {
    await rm(filler, { force: true });
    const { bavail, bsize } = await statfs(disk!);
    await writeFile(filler, Buffer.alloc(Math.max(0, bavail * bsize - left))).catch((e: NodeJS.ErrnoException) => {
      if (e.code !== 'ENOSPC') throw e;
    });
  }
  const create = (
    upload: string,
  ): Promise<{ status: number; body: { id: number; mediaHash: string; message: string } }> =>
    server.request('POST', `/productions/${production}/shots`, { name: 'Quay', upload, fileName: 'quay.mp4' });

  it('in the middle of an upload is said, and the upload goes on once there is room', async () => {
    const begun = await server.upload(bytes, 1000);
    await fill(0);
    expect(await server.patch(begun.id, bytes.subarray(1000), 1000)).toBe(507);
    await rm(filler);
    const head = await fetch(`${server.url}/api/uploads/${begun.id}`, {
      method: 'HEAD',
      headers: { 'Tus-Resumable': '1.0.0' },
    });
    const at = Number(head.headers.get('upload-offset'));
    expect(at).toBeGreaterThanOrEqual(1000);
    expect(await server.patch(begun.id, bytes.subarray(at), at)).toBe(204);
    const made = await create(begun.id);
    expect(made.status).toBe(201);
    await server.until(
      async () =>
        (await server.request<{ mediaState: string }>('GET', `/shots/${made.body.id}`)).body.mediaState === 'ready',
    );
  });
  it('before reading in is said with what it would take, and what is there can be worked with', async () => {
    await fill(4 * 2 ** 20);
    const refused = await create((await server.upload(variantOf(bytes))).id);
    expect(refused).toMatchObject({
      status: 507,
      body: { message: expect.stringMatching(/reading it in would take some .* GB/) },
    });
    const [shot] = await server.sql<{ id: number }>('SELECT id FROM shots');
    const screen = await server.request<{ id: number; revision: number }>('POST', `/shots/${shot!.id}/screens`, recipe);
    expect(screen.status).toBe(201);
    const saved = await server.request('PUT', `/screens/${screen.body.id}`, {
      revision: screen.body.revision,
      recipe: { ...recipe, name: 'kept' },
    });
    expect(saved.status).toBe(200);
    expect((await server.request('POST', `/screens/${screen.body.id}/follow`, { from: 0, to: 23 })).status).toBe(202);
    await server.ended('follow', 'done');
    await fill(10_000);
    expect((await server.request('POST', `/shots/${shot!.id}/deliveries`, { as: 'mkv', show: 'flat' })).status).toBe(
      201,
    );
    expect((await server.ended('deliver', 'failed')).message).toMatch(
      /The disk has \d+ MB left, and this delivery takes about \d+ MB; free some space/,
    );
  });
  it('in the middle of reading in is said, the original stays, and the working files are made anew once there is room', async () => {
    const [media] = await server.sql<{ hash: string }>('SELECT hash FROM media');
    const ended = () =>
      server.until(async () => {
        const { body } = await server.request<{ state: string; problem: string }>('GET', `/media/${media!.hash}`);
        return ['failed', 'ready'].includes(body.state) ? body : null;
      });
    let failed = { state: 'ready', problem: '' };
    // Between the reckoning and the work the disk fills up; where the work was quicker it is tried again.
    for (let tries = 0; tries < 10 && failed.state === 'ready'; tries++) {
      await rm(filler, { force: true });
      await server.request('POST', `/media/${media!.hash}/anew`);
      await fill(0);
      failed = await ended();
    }
    expect(failed.problem).toMatch(/the disk is full; free some space/);
    await rm(filler);
    expect((await server.request('POST', `/media/${media!.hash}/anew`)).status).toBeLessThan(300);
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${media!.hash}`)).body.state === 'ready',
    );
  });
  it('lets Yarlop start, which is when one must be able to delete', async () => {
    await fill(0);
    await server.kill();
    await server.start();
    const [delivery] = await server.sql<{ id: number }>('SELECT id FROM deliveries');
    expect((await server.request('DELETE', `/deliveries/${delivery!.id}`)).status).toBeLessThan(300);
    await rm(filler);
  });
});
