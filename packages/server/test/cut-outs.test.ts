import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes } from './builders/plate';
import { TestServer } from './builders/server';

describe('rectangles of consecutive frames', () => {
  let server: TestServer;
  let hash: string;
  const width = 96;
  const height = 40;
  const at = [
    { x: 0, y: 0 },
    { x: 33, y: 7 },
    { x: 640 - width, y: 384 - height },
  ];
  const post = (body: object, key = hash): Promise<Response> =>
    fetch(`${server.url}/api/media/${key}/cut-outs`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    });

  beforeAll(async () => {
    server = await TestServer.create();
    const { shot } = await server.shot(await plateBytes());
    hash = (await server.request<{ mediaHash: string }>('GET', `/shots/${shot}`)).body.mediaHash;
  });
  afterAll(() => server.dispose());

  it('are the pixels of the lossless pictures, each from its own frame and place', async () => {
    const r = await post({ from: 3, width, height, at });
    const bytes = Buffer.from(await r.arrayBuffer());
    expect(bytes).toHaveLength(3 * width * height * at.length);
    for (const [i, { x, y }] of at.entries()) {
      const png = await fetch(`${server.url}/api/media/${hash}/frames/${3 + i}.png`);
      const own = await sharp(Buffer.from(await png.arrayBuffer()))
        .extract({ left: x, top: y, width, height })
        .raw()
        .toBuffer();
      const size = own.length;
      expect(bytes.subarray(i * size, (i + 1) * size).equals(own)).toBe(true);
    }
  });
  it('come several of each frame', async () => {
    const three = Buffer.from(await (await post({ from: 5, width, height, at })).arrayBuffer());
    const r = await post({ from: 5, width, height, each: 2, at: [at[0], at[1], at[1], at[1]] });
    const bytes = Buffer.from(await r.arrayBuffer());
    const size = 3 * width * height;
    expect(bytes).toHaveLength(4 * size);
    // The first of frame 5, and the last of frame 6, at the place of the second.
    expect(bytes.subarray(0, size).equals(three.subarray(0, size))).toBe(true);
    expect(bytes.subarray(3 * size).equals(three.subarray(size, 2 * size))).toBe(true);
  });
  it.each([
    ['that do not come out even', { from: 3, width, height, each: 2, at }, 422, /no multiple of 2/],
    ['too large', { from: 3, width: 8192, height: 8192, at: [at[0], at[0], at[0]] }, 422, /604 MB; at most 512/],
    ['beyond the picture', { from: 3, width, height, at: [at[0], { x: 600, y: 0 }] }, 422, /On frame 4/],
    ['after the last frame', { from: 22, width, height, at }, 404, /frames 0 to 23/],
    ['without a size', { from: 0, at }, 422, /width/],
  ])('are refused with a sentence %s', async (_, body, status, message) => {
    const r = await post(body);
    expect(r.status).toBe(status);
    expect(((await r.json()) as { message: string }).message).toMatch(message);
  });
  it('of a single picture are refused, and of media that are not there', async () => {
    const { id } = await server.upload(
      await sharp({ create: { width: 640, height: 384, channels: 3, background: 'teal' } })
        .png()
        .toBuffer(),
    );
    const one = (await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'one.png' })).body;
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${one.hash}`)).body.state === 'ready',
    );
    const r = await post({ from: 0, width, height, at: [at[0]] }, one.hash);
    expect([r.status, ((await r.json()) as { message: string }).message]).toEqual([
      422,
      expect.stringContaining('single picture'),
    ]);
    expect((await post({ from: 0, width, height, at }, 'f'.repeat(64))).status).toBe(404);
  });
});
