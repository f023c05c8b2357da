import { execFile } from 'node:child_process';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe, truthAt } from './builders/plate';
import { mapQuad } from '../../core/src/geometry/quad';
import { ffmpeg, pitch } from '../../media/test/builders/clips';
import { TestServer } from './builders/server';

/** The clip with a low tone for its first two seconds and a high one from then on. */
async function withTones(clip: Buffer, folder: string): Promise<Buffer> {
  const [silent, loud] = [join(folder, 'silent.mp4'), join(folder, 'loud.mp4')];
  await writeFile(silent, clip);
  const tones = `aevalsrc=sin(2*PI*t*(1150+850*sgn(t-2))):duration=${FRAMES / 24}:sample_rate=48000`;
  await ffmpeg(['-i', silent, '-f', 'lavfi', '-i', tones, '-c:v', 'copy', '-c:a', 'aac', loud]);
  return readFile(loud);
}

const run = promisify(execFile);
const FRAMES = 144;

describe('a long delivery', () => {
  let server: TestServer;
  let shot: number;
  let folder: string;
  interface State {
    readonly id: number;
    readonly jobId: number;
    readonly state: string;
    readonly framesDone: number;
    readonly message: string | null;
  }
  const state = async (id: number): Promise<State> =>
    (await server.request<State[]>('GET', `/shots/${shot}/deliveries`)).body.find((d) => d.id === id)!;
  const start = async (settings: object): Promise<State> =>
    state((await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, settings)).body.id);
  const reached = (id: number, n: number): Promise<unknown> =>
    server.until(async () => {
      const s = await state(id);
      return s.framesDone >= n || s.state === 'done';
    });
  const done = (id: number): Promise<unknown> => server.until(async () => (await state(id)).state === 'done' || null);
  /** A checksum for every picture of a clip. */
  async function pictures(id: number): Promise<string[]> {
    const path = join(folder, `${id}.mkv`);
    await writeFile(path, Buffer.from(await (await fetch(`${server.url}/api/deliveries/${id}/file`)).arrayBuffer()));
    const { stdout } = await run('ffmpeg', ['-loglevel', 'error', '-i', path, '-f', 'framemd5', '-'], {
      maxBuffer: 1e7,
    });
    return stdout
      .split('\n')
      .filter((l) => l && !l.startsWith('#'))
      .map((l) => l.split(',').at(-1)!.trim());
  }

  beforeAll(async () => {
    [server, folder] = [await TestServer.create(), await mkdtemp(join(tmpdir(), 'yarlop-queue-'))];
    shot = (await server.shot(await withTones(await plateBytes(24, FRAMES / 24 - 1), folder))).shot;
    const { id } = await server.upload(
      await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 250, g: 120, b: 20 } } })
        .png()
        .toBuffer(),
    );
    const fill = (await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'amber.png' })).body
      .hash;
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${fill}`)).body.state === 'ready',
    );
    const hand = Array.from({ length: FRAMES }, (_, frame) => ({
      frame,
      corners: mapQuad(truthAt(frame % 24), recipe.pin),
    })).filter((k) => k.frame !== 8);
    const screen = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, {
        ...recipe,
        evidence: ['hand'],
        hand,
        fill: { media: fill },
        dress: { softness: { more: 2 } },
      })
    ).body;
    const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, {
      from: 0,
      to: FRAMES - 1,
    });
    await server.until(async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ),
    );
  }, 120_000);
  afterAll(async () => {
    await server.dispose();
    await rm(folder, { recursive: true, force: true });
  });

  it.each<[string, { from?: number; to?: number; loop?: number }]>([
    ['a range', { from: 84 }],
    ['a loop, whose end fades into what comes before it', { from: 86, to: FRAMES - 1, loop: 8 }],
  ])(
    'of %s is paused, keeps what it has, goes on from there, and has the pictures of one that was let run',
    async (_, range) => {
      const frames = FRAMES - (range.from ?? 0);
      const paused = await start({ as: 'mkv', ...range });
      await reached(paused.id, 16);
      expect((await server.request('POST', `/jobs/${paused.jobId}/pause`)).status).toBe(200);
      await server.until(async () => (await state(paused.id)).state === 'paused' || null);
      expect(
        (await readdir(join(server.data, 'deliveries', String(paused.id), '.pieces'))).filter((n) =>
          n.endsWith('.mkv'),
        ),
        // Of 12 frames, and of 24 where it was quick; the one that was under way is given up.
      ).not.toHaveLength(0);
      await server.request('POST', `/jobs/${paused.jobId}/resume`);
      await done(paused.id);
      const whole = await start({ as: 'mkv', ...range });
      await done(whole.id);
      const [a, b] = [await pictures(paused.id), await pictures(whole.id)];
      expect(a).toHaveLength(frames);
      expect(a).toEqual(b);
    },
  );
  it.each([
    ['in one piece', 60, 83],
    ['in pieces that are joined', 84, 143],
  ])('takes along the sound of its own range, %s', async (_, from, to) => {
    const d = await start({ as: 'mp4', sound: true, from, to });
    await done(d.id);
    const path = join(folder, `tones-${from}.mp4`);
    await writeFile(path, Buffer.from(await (await fetch(`${server.url}/api/deliveries/${d.id}/file`)).arrayBuffer()));
    // The tone is high from frame 48 on: a range that began at 0 would be low throughout, or for its first half.
    expect(await pitch(path)).toBeGreaterThan(1800);
    const { stdout } = await run('ffprobe', [
      ...['-loglevel', 'error', '-select_streams', 'a', '-show_entries', 'stream=duration', '-of', 'csv=p=0', path],
    ]);
    expect(Math.abs(Number(stdout) - (to - from + 1) / 24)).toBeLessThan(0.1);
  });
  it('as a loop lies in the range whose ends differ least, and is as long', async () => {
    const { status, body } = await server.request<{ from: number; to: number; levels: number; px: number }>(
      'POST',
      `/shots/${shot}/loop`,
      { dissolve: 0, least: 40 },
    );
    expect(status).toBe(200);
    // The plate comes round every 24 frames.
    expect((body.to - body.from + 1) % 24).toBe(0);
    expect(body.levels).toBeLessThan(0.5);
    expect((await server.request('POST', `/shots/${shot}/loop`, { dissolve: 8, least: 4000 })).body).toMatchObject({
      message: expect.stringMatching(/too short for a loop/) as string,
    });
    expect(
      (
        await server.request<{ message: string }>('POST', `/shots/${shot}/deliveries`, {
          as: 'mkv',
          from: 2,
          to: 60,
          loop: 8,
        })
      ).body.message,
    ).toMatch(/begin later, or dissolve for less/);
    const d = await start({ as: 'mkv', from: 24, to: 47, loop: 4 });
    await done(d.id);
    expect(await pictures(d.id)).toHaveLength(24);
  });
  it('that is paused and then cancelled leaves nothing behind', async () => {
    const d = await start({ as: 'png' });
    await reached(d.id, 30);
    await server.request('POST', `/jobs/${d.jobId}/pause`);
    await server.until(async () => (await state(d.id)).state === 'paused' || null);
    await server.request('POST', `/jobs/${d.jobId}/cancel`);
    expect((await state(d.id)).state).toBe('cancelled');
    await expect(readdir(join(server.data, 'deliveries', String(d.id)))).rejects.toThrow(/ENOENT/);
    expect((await server.request('POST', `/jobs/${d.jobId}/resume`)).status).toBe(409);
  });
  it('that waits is rendered when its turn comes, in the order that was set last', async () => {
    const all: State[] = [];
    for (let i = 0; i < 5; i++) all.push(await start({ as: 'mkv', name: `q${i}` }));
    const queue = async (): Promise<number[]> =>
      (await server.request<{ id: number }[]>('GET', '/jobs/queue')).body.map((q) => q.id);
    const waiting = await queue();
    expect(waiting.length).toBeGreaterThanOrEqual(2);
    expect(waiting).toEqual([...waiting].sort((a, b) => a - b));
    const wanted = [...waiting].reverse();
    // What is not in the queue any more is passed over.
    expect(
      (await server.request<{ id: number }[]>('PUT', '/jobs/queue', { jobs: [all[0]!.jobId, 999_999, ...wanted] })).body
        .map((q) => q.id)
        .filter((id) => wanted.includes(id)),
    ).toEqual(wanted);
    expect((await server.request('PUT', '/jobs/queue', { jobs: [] })).status).toBe(422);
    for (const d of all) if (!waiting.includes(d.jobId)) await server.request('POST', `/jobs/${d.jobId}/cancel`);
    await server.until(async () => !(await queue()).includes(wanted[0]!) || null);
    expect(await queue()).toContain(wanted.at(-1)!);
    for (const d of all) await server.request('POST', `/jobs/${d.jobId}/cancel`);
    await server.until(
      async () =>
        (await server.request<{ state: string }[]>('GET', '/jobs')).body.every((j) => j.state !== 'running') || null,
      30_000,
    );
  });
  it('goes on from its last whole pictures after its server was killed', async () => {
    const d = await start({ as: 'png', from: 84 });
    await reached(d.id, 40);
    await server.kill();
    const kept = (await readdir(join(server.data, 'deliveries', String(d.id), '.pieces'))).filter((n) =>
      n.endsWith('.png'),
    ).length;
    // Of 12 and 24 frames; the next, of all that is left, was under way.
    expect(kept).toBe(36);
    await server.start();
    await done(d.id);
    const zip = Buffer.from(await (await fetch(`${server.url}/api/deliveries/${d.id}/file`)).arrayBuffer());
    expect(zip.readUInt16LE(zip.lastIndexOf(Buffer.from('504b0506', 'hex')) + 10)).toBe(FRAMES - 84);
  });
});
