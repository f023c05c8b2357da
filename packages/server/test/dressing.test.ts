import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';

const GREEN = [40, 180, 70];

describe('dressing', () => {
  let server: TestServer;
  let shot: number;
  let plate: string;
  let screen: { id: number; revision: number; recipe: Record<string, unknown> };
  let fill: string;
  const save = async (part: object): Promise<{ status: number; message?: string }> => {
    const r = await server.request<typeof screen & { message?: string }>('PUT', `/screens/${screen.id}`, {
      revision: screen.revision,
      recipe: { ...recipe, fill: { media: fill }, ...part },
    });
    if (r.status === 200) screen = r.body;
    return { status: r.status, ...(r.body.message ? { message: r.body.message } : {}) };
  };
  async function delivered(more: object = {}): Promise<Buffer> {
    const d = await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'png', ...more });
    await server.until(async () =>
      (await server.request<{ id: number; state: string }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
        (x) => x.id === d.body.id && x.state === 'done',
      ),
    );
    const zip = Buffer.from(await (await fetch(`${server.url}/api/deliveries/${d.body.id}/file`)).arrayBuffer());
    return sharp(zip.subarray(zip.indexOf(Buffer.from('89504e470d0a1a0a', 'hex'))))
      .raw()
      .toBuffer();
  }
  const pixel = (b: Buffer, x: number, y: number): number[] => [
    ...b.subarray((y * 640 + x) * 3, (y * 640 + x) * 3 + 3),
  ];

  beforeAll(async () => {
    server = await TestServer.create();
    const made = await server.shot(await plateBytes(12, 0, true));
    [shot, plate] = [made.shot, made.hash];
    screen = (await server.request<typeof screen>('POST', `/shots/${shot}/screens`, recipe)).body;
    const { id } = await server.upload(
      await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 250, g: 250, b: 250 } } })
        .png()
        .toBuffer(),
    );
    fill = (await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'white.png' })).body.hash;
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${fill}`)).body.state === 'ready',
    );
    const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, { from: 0, to: 11 });
    await server.until(async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ),
    );
    await server.request('PUT', `/shots/${shot}`, { revision: 1, workingRange: [7, 9] });
  }, 120_000);
  afterAll(() => server.dispose());

  it('is proposed from the plate, frame by frame told', async () => {
    const lines = (await (await fetch(`${server.url}/api/screens/${screen.id}/match`, { method: 'POST' })).text())
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { done?: number; total?: number; proposals?: { part: string; told: string }[] });
    expect(lines.slice(0, -1).map((l) => l.done)).toEqual([1, 2, 3]);
    expect(lines[0]!.total).toBe(3);
    const parts = lines.at(-1)!.proposals!.map((p) => p.part);
    expect(parts).toContain('levels');
    expect(parts).toContain('softness');
    expect(lines.at(-1)!.proposals!.find((p) => p.part === 'softness')!.told).toMatch(/sigma of \d\.\d\d px/);
  });
  it('is delivered as it is set, exact outside what the Screen reaches', async () => {
    expect(await save({})).toEqual({ status: 200 });
    const bare = await delivered();
    await save({ dress: { levels: { gain: 0.25 }, edge: { inset: 10 } } });
    const dim = await delivered();
    const own = await sharp(
      Buffer.from(await (await fetch(`${server.url}/api/media/${plate}/frames/7.png`)).arrayBuffer()),
    )
      .raw()
      .toBuffer();
    expect(pixel(bare, 310, 190)).toEqual([250, 250, 250]);
    expect(pixel(dim, 310, 190)[0]).toBeLessThan(150);
    expect(pixel(dim, 20, 20)).toEqual(pixel(own, 20, 20));
    // The left side lies at 193.8 there, and at 203.8 drawn in.
    const [x, y] = [199, 190];
    expect(pixel(dim, x, y)).toEqual(pixel(own, x, y));
    expect(pixel(bare, x, y)).not.toEqual(pixel(own, x, y));
  });
  it('changes over the shot by its keys, and outdates no solve', async () => {
    await save({
      dress: {
        levels: {
          opacity: [
            { frame: 7, value: 0 },
            { frame: 9, value: 1 },
          ],
        },
      },
    });
    const first = await delivered();
    const own = await sharp(
      Buffer.from(await (await fetch(`${server.url}/api/media/${plate}/frames/7.png`)).arrayBuffer()),
    )
      .raw()
      .toBuffer();
    expect(pixel(first, 310, 190)).toEqual(pixel(own, 310, 190));
    expect((await server.request<{ outdated: boolean }>('GET', `/screens/${screen.id}/track`)).body.outdated).toBe(
      false,
    );
  });
  it.each<[string, object, RegExp]>([
    ['an unknown part', { dress: { sparkle: 1 } }, /dress has an unknown member "sparkle"/],
    [
      'a number beyond its limits',
      { dress: { motionBlur: { shutter: 9000 } } },
      /dress\.motionBlur\.shutter must be at most 720/,
    ],
    [
      'a holdout of two points',
      {
        dress: {
          holdouts: [
            {
              kind: 'outline',
              points: [
                [1, 1],
                [2, 2],
              ],
            },
          ],
        },
      },
      /must have at least 3 entries/,
    ],
    [
      'a bend that folds over itself',
      { dress: { bend: { top: [{ at: 0.5, y: 1.4 }] } } },
      /folds the fill over itself on frame 8/,
    ],
    ['a fill of no hash', { fill: { media: 'white.png' } }, /fill\.media is not of the form/],
  ])('refuses %s with a sentence, and keeps what was saved', async (_, part, sentence) => {
    const before = screen.revision;
    const { status, message } = await save(part);
    expect(status).toBe(422);
    expect(message).toMatch(sentence);
    expect((await server.request<typeof screen>('GET', `/screens/${screen.id}`)).body.revision).toBe(before);
  });
  it("holds out by colour what has not the screen's colour", async () => {
    await save({ dress: { holdouts: [{ kind: 'key', colours: [GREEN.map((v) => v / 255)], gone: 0.3, solid: 0.7 }] } });
    const all = await delivered();
    const own = await sharp(
      Buffer.from(await (await fetch(`${server.url}/api/media/${plate}/frames/7.png`)).arrayBuffer()),
    )
      .raw()
      .toBuffer();
    // The plate is grey: nothing has the key's colour, so nothing of the fill shows.
    expect(pixel(all, 310, 190)).toEqual(pixel(own, 310, 190));
  });
  it('is delivered with another fill in its slot, which itself stays as it is', async () => {
    await save({});
    const { id } = await server.upload(
      await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 30, g: 60, b: 200 } } })
        .png()
        .toBuffer(),
    );
    const blue = (await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'blue.png' })).body
      .hash;
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${blue}`)).body.state === 'ready',
    );
    expect(pixel(await delivered({ fill: blue }), 310, 190)).toEqual([30, 60, 200]);
    expect(
      (await server.request<{ fileName: string }[]>('GET', `/shots/${shot}/deliveries`)).body[0]!.fileName,
    ).toMatch(/-blue-r\d+\.zip$/);
    expect(pixel(await delivered(), 310, 190)).toEqual([250, 250, 250]);
    expect(
      (await server.request('POST', `/shots/${shot}/deliveries`, { as: 'png', fill: 'f'.repeat(64) })).status,
    ).toBe(422);
  });
  it('refuses an element in a file without alpha, a range that lies outside, and a table without a template', async () => {
    for (const wrong of [
      { as: 'mp4', show: 'element' },
      { as: 'png', from: 5, to: 2 },
      { as: 'png', to: 99 },
      { as: 'table' },
    ])
      expect((await server.request('POST', `/shots/${shot}/deliveries`, wrong)).status).toBe(422);
  });
  it('comes as clean plate, matte, and the Screen laid flat', async () => {
    const own = await sharp(
      Buffer.from(await (await fetch(`${server.url}/api/media/${plate}/frames/7.png`)).arrayBuffer()),
    )
      .raw()
      .toBuffer();
    expect(pixel(await delivered({ show: 'clean' }), 310, 190)).toEqual(pixel(own, 310, 190));
    expect(pixel(await delivered({ show: 'matte' }), 310, 190)).toEqual([255, 255, 255]);
    const d = await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'mkv', show: 'flat' });
    await server.until(async () =>
      (await server.request<{ id: number; state: string }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
        (x) => x.id === d.body.id && x.state === 'done',
      ),
    );
  });
});
