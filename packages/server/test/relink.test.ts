/**
 * A regraded, smaller version of the plate that begins later takes the old one's place: everything stays where it was
 * in the picture.
 */
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Quad } from '../../core/src/geometry/quad';
import { mapQuad } from '../../core/src/geometry/quad';
import { ffmpeg } from '../../media/test/builders/clips';
import { PIN, plateBytes, recipe, truthAt } from './builders/plate';
import { TestServer } from './builders/server';

interface Track {
  readonly outdated: boolean;
  readonly frames: readonly { readonly frame: number; readonly corners: readonly (readonly [number, number])[] }[];
}
interface Shot {
  readonly mediaHash: string;
  readonly rangeFrom: number;
  readonly rangeTo: number;
  readonly frameCount: number;
  readonly screens: readonly {
    readonly id: number;
    readonly revision: number;
    readonly recipe: {
      readonly referenceFrame: number;
      readonly pin: readonly (readonly number[])[];
      readonly touchUps?: readonly { readonly frame: number; readonly offsets: readonly (readonly number[])[] }[];
      readonly dress: {
        readonly softness: { readonly more: readonly { readonly frame: number; readonly value: number }[] };
        readonly levels: { readonly gain: number };
      };
    };
  }[];
}

describe('a new version of the plate', () => {
  let server: TestServer;
  let shot: number;
  let screen: number;
  let folder: string;
  let before: Track;
  const media = async (bytes: Buffer, fileName: string): Promise<string> => {
    const { id } = await server.upload(bytes);
    const { hash } = (await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName })).body;
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${hash}`)).body.state === 'ready',
    );
    return hash;
  };
  const made = async (name: string, args: string[], plate: Buffer): Promise<string> => {
    await writeFile(join(folder, 'plate.mp4'), plate);
    await ffmpeg([
      '-i',
      join(folder, 'plate.mp4'),
      ...args,
      '-c:v',
      'libx264',
      '-crf',
      '12',
      '-pix_fmt',
      'yuv420p',
      join(folder, name),
    ]);
    return media(await readFile(join(folder, name)), name);
  };
  let regraded: string;
  let turned: string;
  beforeAll(async () => {
    [server, folder] = [await TestServer.create(), await mkdtemp(join(tmpdir(), 'yarlop-relink-'))];
    const plate = await plateBytes(24);
    shot = (await server.shot(plate)).shot;
    screen = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, {
        ...recipe,
        touchUps: [
          {
            frame: 12,
            offsets: [
              [2, 0],
              [0, 0],
              [0, 0],
              [0, 0],
            ],
            before: { frames: 3, shape: 'linear' },
            after: { frames: 3, shape: 'linear' },
          },
        ],
        dress: {
          softness: {
            more: [
              { frame: 1, value: 4 },
              { frame: 14, value: 6 },
            ],
          },
          levels: { gain: 1.2 },
        },
      })
    ).body.id;
    const job = await server.request<{ id: number }>('POST', `/screens/${screen}/follow`, { from: 2, to: 20 });
    await server.until(async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ),
    );
    before = (await server.request<Track>('GET', `/screens/${screen}/track`)).body;
    regraded = await made(
      'graded.mp4',
      ['-vf', 'trim=start_frame=3,setpts=PTS-STARTPTS,scale=320:192,eq=contrast=0.8:brightness=0.06:gamma=1.3'],
      plate,
    );
    turned = await made('turned.mp4', ['-vf', 'scale=384:384'], plate);
  }, 120_000);
  afterAll(async () => {
    await server.dispose();
    await rm(folder, { recursive: true, force: true });
  });

  it('is laid over the old one: its offset and scale are found', async () => {
    const { status, body } = await server.request<{
      offset: number;
      scale: number;
      likeness: number;
      margin: number;
      frameCount: number;
      kept: number;
    }>('POST', `/shots/${shot}/relink`, { media: regraded });
    expect(status).toBe(200);
    expect(body).toMatchObject({ offset: -3, scale: 0.5, frameCount: 21, kept: 21 });
    expect(body.likeness).toBeGreaterThan(0.9);
  });
  it('of another shape, of another file that does not exist, or without the reference frame is refused, and nothing changes', async () => {
    for (const [settings, message] of [
      [{ media: turned }, /384x384.*640x384.*shapes differ/],
      [{ media: 'a'.repeat(64) }, /does not exist/],
      [{ media: regraded, offset: -9 }, /reference frame 8 .*frame -1/],
      [{ media: regraded, offset: 100 }, /no frame of the working range/],
    ] as const) {
      const { status, body } = await server.request<{ message: string }>('POST', `/shots/${shot}/relink`, settings);
      expect(status).toBeGreaterThanOrEqual(400);
      expect(body.message).toMatch(message);
    }
    expect((await server.request<Track>('GET', `/screens/${screen}/track`)).body).toEqual(before);
  });
  it('takes its place: corners, touch-ups and keys lie on the same picture, and following goes on', async () => {
    const { status } = await server.request('POST', `/shots/${shot}/relink`, { media: regraded, offset: -3 });
    expect(status).toBe(200);
    const now = (await server.request<Shot>('GET', `/shots/${shot}`)).body;
    const [own] = now.screens;
    const track = (await server.request<Track>('GET', `/screens/${screen}/track`)).body;
    expect(now).toMatchObject({ mediaHash: regraded, rangeFrom: 0, rangeTo: 20, frameCount: 21 });
    expect(own!.recipe.referenceFrame).toBe(5);
    expect(own!.recipe.pin).toEqual(PIN.map(([x, y]) => [x / 2, y / 2]));
    expect(own!.recipe.touchUps).toMatchObject([
      {
        frame: 9,
        offsets: [
          [1, 0],
          [0, 0],
          [0, 0],
          [0, 0],
        ],
      },
    ]);
    // A key before the new plate's first frame is gone; gain is no length.
    expect(own!.recipe.dress).toMatchObject({ softness: { more: [{ frame: 11, value: 3 }] }, levels: { gain: 1.2 } });
    expect(track.outdated).toBe(false);
    expect(track.frames).toHaveLength(before.frames.filter((f) => f.frame >= 3).length);
    for (const f of track.frames)
      for (const [i, [x, y]] of f.corners.entries()) {
        const [bx, by] = before.frames.find((b) => b.frame === f.frame + 3)!.corners[i]!;
        expect(Math.hypot(x - bx / 2, y - by / 2)).toBeLessThan(0.01);
      }
    const job = await server.request<{ id: number }>('POST', `/screens/${screen}/follow`, { from: 0, to: 20 });
    expect(job.status).toBe(202);
    await server.until(
      async () =>
        (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
          (j) => j.id === job.body.id && j.state === 'done',
        ),
      30_000,
    );
    expect((await server.request<Track>('GET', `/screens/${screen}/track`)).body.frames.at(-1)!.frame).toBe(20);
    const revisions = (
      await server.request<{ revision: number; step: string | null }[]>('GET', `/screens/${screen}/revisions`)
    ).body;
    expect(revisions.some((r) => r.step === 'New version of the plate')).toBe(true);
  });
});

describe('a second run on the plate held still', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.create();
  });
  afterAll(() => server.dispose());

  it('is composed with the first: the corners lie where the truth has them on the plate', async () => {
    const until = (job: number): Promise<unknown> =>
      server.until(
        async () =>
          (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
            (j) => j.id === job && j.state === 'done',
          ),
        60_000,
      );
    const { shot, production } = await server.shot(await plateBytes(24));
    const first = (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, recipe)).body.id;
    await until(
      (await server.request<{ id: number }>('POST', `/screens/${first}/follow`, { from: 3, to: 20 })).body.id,
    );
    const delivery = (
      await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, {
        as: 'mkv',
        show: 'stabilised',
        from: 3,
        to: 20,
      })
    ).body.id;
    await server.until(
      async () =>
        (await server.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
          (d) => d.id === delivery && d.sha256,
        ),
      60_000,
    );
    const still = Buffer.from(await (await fetch(`${server.url}/api/deliveries/${delivery}/file`)).arrayBuffer());
    const { id: upload } = await server.upload(still);
    const other = (
      await server.request<{ id: number }>('POST', `/productions/${production}/shots`, {
        name: 'Held still',
        upload,
        fileName: 'still.mkv',
      })
    ).body.id;
    await server.until(
      async () => (await server.request<{ mediaState: string }>('GET', `/shots/${other}`)).body.mediaState === 'ready',
    );
    // A smaller piece of the same surface, on the frame that was the reference of the first run.
    const piece = [
      [240, 140],
      [400, 146],
      [396, 240],
      [236, 236],
    ];
    const second = (
      await server.request<{ id: number }>('POST', `/shots/${other}/screens`, {
        ...recipe,
        name: 'piece',
        referenceFrame: 5,
        pin: piece,
      })
    ).body.id;
    await until(
      (await server.request<{ id: number }>('POST', `/screens/${second}/follow`, { from: 0, to: 17 })).body.id,
    );
    const { text } = (await server.request<{ text: string }>('POST', `/shots/${other}/text`, { as: 'json' })).body;
    const made = await server.request<{ notes: string[]; screens: { id: number }[] }>('POST', `/shots/${shot}/import`, {
      as: 'json',
      text,
      onto: { screen: first, from: 3 },
    });
    expect(made.body).toMatchObject({ notes: expect.any(Array) as string[] });
    expect(made.body.notes.join()).toMatch(/Composed with the motion of "quay phone"/);
    const own = made.body.screens[0]!.id;
    await server.until(
      async () => (await server.request<Track>('GET', `/screens/${own}/track`)).body.frames.length >= 18 || null,
      60_000,
    );
    const { frames } = (await server.request<Track>('GET', `/screens/${own}/track`)).body;
    expect(frames.map((f) => f.frame)).toEqual(Array.from({ length: 18 }, (_, i) => i + 3));
    const apart = frames.flatMap((f) =>
      mapQuad(truthAt(f.frame), piece as unknown as Quad).map(([x, y], i) =>
        Math.hypot(x - f.corners[i]![0], y - f.corners[i]![1]),
      ),
    );
    expect(Math.max(...apart)).toBeLessThan(0.6);
    expect(
      (await server.request('POST', `/shots/${shot}/import`, { as: 'json', text, onto: { screen: second, from: 3 } }))
        .status,
    ).toBe(422);
  }, 120_000);
});
