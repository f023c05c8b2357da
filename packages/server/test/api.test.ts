import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import type { TrackFile } from '../../core/src/formats/track-json';
import { mapPoint } from '../../core/src/geometry/homography';
import { mapQuad } from '../../core/src/geometry/quad';
import { PIN, plateBytes, recipe, truthAt } from './builders/plate';
import { TestServer } from './builders/server';

let server: TestServer;
let ids: { production: number; shot: number; hash: string };
let screen: { id: number; revision: number };
beforeAll(async () => {
  server = await TestServer.create();
  ids = await server.shot(await plateBytes());
  screen = (await server.request<typeof screen>('POST', `/shots/${ids.shot}/screens`, recipe)).body;
}, 90_000);
afterAll(() => server.dispose());

interface Track {
  outdated: boolean;
  solveId: number;
  frames: { frame: number; corners: [number, number][] }[];
}
const track = async (): Promise<Track> => (await server.request<Track>('GET', `/screens/${screen.id}/track`)).body;
const finished = (id: number): Promise<{ state: string; message: string | null }> =>
  server.until(async () => {
    const jobs = (await server.request<{ id: number; state: string; message: string | null }[]>('GET', '/jobs')).body;
    const j = jobs.find((x) => x.id === id);
    return j && ['done', 'failed', 'cancelled'].includes(j.state) ? j : null;
  });

describe('a shot', () => {
  it('takes size, rate and length from its plate', async () => {
    const { body } = await server.request('GET', `/shots/${ids.shot}`);
    expect(body).toMatchObject({
      frameCount: 24,
      rangeFrom: 0,
      rangeTo: 23,
      probe: { width: 640, height: 384, frameRate: [24, 1] },
    });
  });
  it('serves lossless pictures and playback proxies, frame by frame', async () => {
    const png = await fetch(`${server.url}/api/media/${ids.hash}/frames/5.png`);
    const jpg = await fetch(`${server.url}/api/media/${ids.hash}/proxy/5.jpg`);
    expect(png.headers.get('cache-control')).toContain('immutable');
    expect(await sharp(Buffer.from(await png.arrayBuffer())).metadata()).toMatchObject({
      width: 640,
      height: 384,
      format: 'png',
    });
    expect(await sharp(Buffer.from(await jpg.arrayBuffer())).metadata()).toMatchObject({ width: 640, format: 'jpeg' });
    expect((await server.request('GET', `/media/${ids.hash}/frames/24.png`)).body).toMatchObject({
      code: 'out-of-range',
      message: expect.stringContaining('frames 0 to 23'),
    });
  });
  it('from a numbered sequence sent as one run of bytes starts at its first number', async () => {
    const pngs = await Promise.all(
      [0, 1, 2].map((n) =>
        sharp({ create: { width: 64, height: 48, channels: 3, background: { r: 60 * n, g: 20, b: 90 } } })
          .png()
          .toBuffer(),
      ),
    );
    const { id } = await server.upload(Buffer.concat(pngs));
    const files = pngs.map((b, i) => ({ name: `quay.${1001 + i}.png`, size: b.length }));
    const made = await server.request<{ probe: object; message: string }>(
      'POST',
      `/productions/${ids.production}/shots`,
      { name: 'Seq', upload: id, fileName: 'quay.#.png', files },
    );
    expect(made.status).toBe(201);
    expect(made.body.probe).toMatchObject({ firstFrame: 1001, frameCount: 3, width: 64 });
    const again = await server.upload(Buffer.concat([pngs[0]!, pngs[2]!]));
    const gap = await server.request('POST', `/productions/${ids.production}/shots`, {
      name: 'Gap',
      upload: again.id,
      fileName: 'quay.#.png',
      files: [files[0], files[2]],
    });
    expect(gap).toMatchObject({ status: 422, body: { message: expect.stringContaining('frame 1002 is missing') } });
  });
  it('from a long sequence is answered at once; what is wrong with a later picture is said when it is read in', async () => {
    const LONG = 40;
    const picture = (width: number): Promise<Buffer> =>
      sharp({ create: { width, height: 48, channels: 3, background: { r: 60, g: 20, b: 90 } } })
        .png()
        .toBuffer();
    const [usual, wide] = await Promise.all([picture(64), picture(80)]);
    const pngs = Array.from({ length: LONG }, (_, n) => (n === LONG - 2 ? wide : usual));
    const { id } = await server.upload(Buffer.concat(pngs));
    const made = await server.request<{ id: number; mediaHash: string }>(
      'POST',
      `/productions/${ids.production}/shots`,
      {
        name: 'Long',
        upload: id,
        fileName: 'quay.#.png',
        files: pngs.map((b, n) => ({ name: `quay.${1001 + n}.png`, size: b.length })),
      },
    );
    // Had every picture been asked before, it would have been refused.
    expect(made.status).toBe(201);
    const media = await server.until(async () => {
      const { body } = await server.request<{ state: string; problem: string }>('GET', `/media/${made.body.mediaHash}`);
      return body.state === 'failed' ? body : null;
    });
    expect(media.problem).toMatch(/mixed sizes: .*1001.* is 64x48, .*1039.* is 80x48; bring in one size/);
  });
});

describe('laying the pin onto the glass', () => {
  let device: { id: number };
  beforeAll(async () => {
    const made = await server.shot(await plateBytes(12, 0, true));
    device = (await server.request<typeof device>('POST', `/shots/${made.shot}/screens`, recipe)).body;
  });
  it('answers with the corners of the glass and what each side was found to', async () => {
    const rough = PIN.map(([x, y], i) => [x + [2, -2, 1.5, -1][i]!, y + [-1.5, 1, 2, -2][i]!]);
    const { status, body } = await server.request<{
      corners: [number, number][];
      sides: { found: boolean; residual: number | null; reason: string | null }[];
    }>('POST', `/screens/${device.id}/snap`, { frame: 8, corners: rough, exclude: [false, false, true, false] });
    expect(status).toBe(200);
    for (const i of [0, 1])
      expect(Math.hypot(body.corners[i]![0] - PIN[i]![0], body.corners[i]![1] - PIN[i]![1])).toBeLessThan(0.4);
    expect(body.sides.map((s) => s.found)).toEqual([true, true, false, true]);
    expect(body.sides[2]).toMatchObject({ reason: 'Left out.', residual: null });
    expect(
      (await server.request<{ recipe: { pin: number[][] } }>('GET', `/screens/${device.id}`)).body.recipe.pin,
    ).toEqual(PIN);
  });
  it('says what is wrong with a question that cannot be answered', async () => {
    expect(await server.request('POST', `/screens/${device.id}/snap`, { frame: 12, corners: PIN })).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('frames 0 to 11') },
    });
    expect(
      await server.request('POST', `/screens/${device.id}/snap`, { frame: 3, corners: PIN.slice(1) }),
    ).toMatchObject({ status: 422 });
    expect(
      await server.request('POST', `/screens/${device.id}/snap`, {
        frame: 3,
        corners: [PIN[0], PIN[2], PIN[1], PIN[3]],
      }),
    ).toMatchObject({ status: 422, body: { message: expect.stringContaining('cross each other') } });
  });
});

describe('following', () => {
  it('solves every frame near the truth, and outdates nothing when only the pin is nudged or a fill chosen', async () => {
    const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, { from: 0, to: 23 });
    expect(job.status).toBe(202);
    expect(await finished(job.body.id)).toMatchObject({ state: 'done', message: null });
    const t = await track();
    expect(t.frames.map((f) => f.frame)).toEqual([...Array(24).keys()]);
    for (const f of t.frames)
      mapQuad(truthAt(f.frame), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(0.15),
      );
    const nudged = { ...recipe, pin: [[200.4, 110], ...PIN.slice(1)] };
    screen = (
      await server.request<typeof screen>('PUT', `/screens/${screen.id}`, { revision: screen.revision, recipe: nudged })
    ).body;
    const after = await track();
    expect(after).toMatchObject({ outdated: false, solveId: t.solveId });
    expect(after.frames[8]!.corners[0]![0]).toBeCloseTo(200.4, 6);
  });
  it('is outdated by another motion model, and follows again into a solve of its own', async () => {
    const before = await track();
    screen = (
      await server.request<typeof screen>('PUT', `/screens/${screen.id}`, {
        revision: screen.revision,
        recipe: { ...recipe, motion: 'affine' },
      })
    ).body;
    expect(await track()).toMatchObject({ outdated: true, solveId: before.solveId });
    const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, { from: 6, to: 10 });
    await finished(job.body.id);
    const t = await track();
    expect(t.outdated).toBe(false);
    expect(t.frames.map((f) => f.frame)).toEqual([6, 7, 8, 9, 10]);
    screen = (
      await server.request<typeof screen>('PUT', `/screens/${screen.id}`, { revision: screen.revision, recipe })
    ).body;
    expect(await track()).toMatchObject({ outdated: false, solveId: before.solveId });
  });
  it('goes on one frame from where it stands', async () => {
    const one = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, {
      ...recipe,
      name: 'second',
    });
    for (const to of [9, 10])
      await finished(
        (await server.request<{ id: number }>('POST', `/screens/${one.body.id}/follow`, { from: 8, to })).body.id,
      );
    expect(
      (await server.request<Track>('GET', `/screens/${one.body.id}/track`)).body.frames.map((f) => f.frame),
    ).toEqual([8, 9, 10]);
    await server.request('DELETE', `/screens/${one.body.id}`);
  });
  it.each<[string, object, RegExp]>([
    ['a range past the end', { from: 0, to: 24 }, /frames 0 to 23/],
    ['a range without the reference', { from: 9, to: 12 }, /contain the reference frame 8/],
    ['negative frames', { from: -1, to: 9 }, /from must be at least 0/],
  ])('refuses %s', async (_, range, message) => {
    const r = await server.request<{ message: string }>('POST', `/screens/${screen.id}/follow`, range);
    expect(r.status).toBe(422);
    expect(r.body.message).toMatch(message);
  });
  it('cuts back, goes on from where it was cut, and follows a part again over what was there', async () => {
    const frames = async (): Promise<number[]> => (await track()).frames.map((f) => f.frame);
    const start = async (body: object): Promise<unknown> => {
      const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, body);
      expect(job.status).toBe(202);
      return finished(job.body.id);
    };
    expect((await server.request('POST', `/screens/${screen.id}/cut`, { frame: 15, side: 'after' })).status).toBe(200);
    expect(await frames()).toEqual([...Array(16).keys()]);
    expect(await start({ from: 8, to: 20, direction: 'forwards' })).toMatchObject({ state: 'done' });
    expect(await frames()).toEqual([...Array(21).keys()]);
    expect(await start({ from: 8, to: 23, direction: 'forwards', start: 17 })).toMatchObject({ state: 'done' });
    const after = (await track()).frames;
    expect(after.map((f) => f.frame)).toEqual([...Array(24).keys()]);
    for (const f of after)
      mapQuad(truthAt(f.frame), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(0.5),
      );
    expect(await server.request('POST', `/screens/${screen.id}/cut`, { frame: 3, side: 'after' })).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('reference frame 8 would be cut off') },
    });
    expect((await server.request('POST', `/screens/${screen.id}/cut`, { frame: 5, side: 'before' })).status).toBe(200);
    expect(
      (
        await server.request('POST', `/screens/${screen.id}/follow`, {
          from: 0,
          to: 8,
          direction: 'backwards',
          start: 2,
        })
      ).body,
    ).toMatchObject({ code: 'not-followed' });
    expect(await start({ from: 0, to: 23 })).toMatchObject({ state: 'done' });
    expect(await frames()).toEqual([...Array(24).keys()]);
  });
  it('runs a spot by itself, a line a frame, from where its place is known, and says why it cannot', async () => {
    const spot = { name: 'buoy', at: [300, 190] };
    const made = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, {
      ...recipe,
      name: 'spotted',
      spots: [spot],
    });
    const own = made.body.id;
    const run = async (
      body: object,
    ): Promise<{
      status: number;
      lines: { frame: number; at: [number, number] | null; sigma: number; message?: string }[];
    }> => {
      const r = await fetch(`${server.url}/api/screens/${own}/spot-run`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      });
      return {
        status: r.status,
        lines: (await r.text())
          .trim()
          .split('\n')
          .map((l) => JSON.parse(l) as never),
      };
    };
    const { lines } = await run({ spot: 0, start: 8, end: 18 });
    expect(lines.map((l) => l.frame)).toEqual([...Array(10).keys()].map((n) => n + 9));
    for (const l of lines)
      expect(Math.hypot(...mapPoint(truthAt(l.frame), [300, 190]).map((v, i) => v - l.at![i]!))).toBeLessThan(0.25);
    expect((await run({ spot: 0, start: 8, end: 5 })).lines.map((l) => l.frame)).toEqual([7, 6, 5]);
    expect(await run({ spot: 0, start: 12, end: 20 })).toMatchObject({
      status: 422,
      lines: [{ message: expect.stringContaining('"buoy" is on frame 12 is not known; place it there by hand') }],
    });
    expect((await run({ spot: 3, start: 8, end: 20 })).lines[0]!.message).toContain('no spot 4');
    expect((await run({ spot: 0, start: 8, end: 90 })).lines[0]!.message).toContain('frames 0 to 23');
    const path = lines.map((l) => [l.frame, ...l.at!, l.sigma]);
    const { body } = await server.request<{ revision: number }>('GET', `/screens/${own}`);
    expect(
      (
        await server.request('PUT', `/screens/${own}`, {
          revision: body.revision,
          recipe: { ...recipe, name: 'spotted', spots: [{ ...spot, path }] },
        })
      ).status,
    ).toBe(200);
    expect((await run({ spot: 0, start: 18, end: 20 })).lines.map((l) => l.frame)).toEqual([19, 20]);
    await server.request('DELETE', `/screens/${own}`);
  });
  it('tells what a frame was followed by', async () => {
    const seen = (await server.request<{ cells: number[]; spots: unknown[] }>('GET', `/screens/${screen.id}/seen/12`))
      .body;
    expect(seen.cells.length % 4).toBe(0);
    expect(seen.cells.length).toBeGreaterThan(40);
    expect(seen.cells.filter((_, i) => i % 4 === 3 && seen.cells[i]! > 50).length).toBeGreaterThan(10);
    expect((await server.request('GET', `/screens/${screen.id}/seen/no`)).status).toBe(422);
  });
  it('keeps pins placed by hand and frames without the screen apart from what was followed', async () => {
    const now = (await server.request<{ revision: number; recipe: object }>('GET', `/screens/${screen.id}`)).body;
    const corners = PIN.map(([x, y]) => [x + 30, y + 4]);
    const saved = await server.request<{ revision: number }>('PUT', `/screens/${screen.id}`, {
      revision: now.revision,
      recipe: {
        ...now.recipe,
        hand: [{ frame: 20, corners }],
        presence: [
          { from: 0, to: 3 },
          { from: 6, to: 23 },
        ],
      },
    });
    expect(saved.status).toBe(200);
    const t = await track();
    expect(t.outdated).toBe(false);
    expect(t.frames.map((f) => f.frame)).toEqual([...Array(24).keys()].filter((n) => n < 4 || n > 5));
    t.frames
      .find((f) => f.frame === 20)!
      .corners.forEach((p, i) => expect(Math.hypot(p[0] - corners[i]![0]!, p[1] - corners[i]![1]!)).toBeLessThan(1e-6));
    expect(
      (
        await server.request('PUT', `/screens/${screen.id}`, {
          revision: saved.body.revision,
          recipe: {
            ...now.recipe,
            hand: [
              {
                frame: 2,
                corners: [
                  [0, 0],
                  [1, 1],
                ],
              },
            ],
          },
        })
      ).body,
    ).toMatchObject({ message: expect.stringContaining('hand') });
    screen = (
      await server.request<typeof screen>('PUT', `/screens/${screen.id}`, {
        revision: saved.body.revision,
        recipe: now.recipe,
      })
    ).body;
  });
});

describe('deliveries', () => {
  const deliver = async (
    settings: object,
  ): Promise<{ id: number; fileName: string; sha256: string; bytes: number; content: Buffer }> => {
    const d = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/deliveries`, settings);
    expect(d.status).toBe(201);
    const row = await server.until(
      async () =>
        (
          await server.request<{ id: number; fileName: string; sha256: string; bytes: number }[]>(
            'GET',
            `/shots/${ids.shot}/deliveries`,
          )
        ).body.find((x) => x.id === d.body.id && x.sha256),
      60_000,
    );
    const file = await fetch(`${server.url}/api/deliveries/${row.id}/file`);
    return { ...row, content: Buffer.from(await file.arrayBuffer()) };
  };
  it('CSV and JSON carry the corners and their checksum', async () => {
    const json = await deliver({ as: 'json' });
    const csv = await deliver({ as: 'csv', origin: 'bottom-left' });
    expect(createHash('sha256').update(json.content).digest('hex')).toBe(json.sha256);
    expect((JSON.parse(json.content.toString()) as TrackFile).screens[0]!.frames).toHaveLength(24);
    expect(csv.content.toString()).toContain('origin bottom-left');
    expect(csv.bytes).toBe(csv.content.length);
  });
  it('a picture without a fill is refused with the mend', async () => {
    expect(await server.request('POST', `/shots/${ids.shot}/deliveries`, { as: 'mp4' })).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('choose one in Dress') },
    });
  });
  it('MP4 and PNG hold the working range with the fill in place, the PNG exact outside the pin', async () => {
    const fill = await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 250, g: 20, b: 30 } } })
      .png()
      .toBuffer();
    const { id } = await server.upload(fill);
    const media = await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'red.png' });
    await server.until(
      async () => (await server.request<{ state: string }>('GET', `/media/${media.body.hash}`)).body.state === 'ready',
    );
    screen = (
      await server.request<typeof screen>('PUT', `/screens/${screen.id}`, {
        revision: screen.revision,
        recipe: { ...recipe, fill: { media: media.body.hash } },
      })
    ).body;
    await server.request('PUT', `/shots/${ids.shot}`, { revision: 1, workingRange: [7, 9] });
    const png = await deliver({ as: 'png' });
    const mp4 = await deliver({ as: 'mp4' });
    expect(mp4.content.subarray(4, 8).toString()).toBe('ftyp');
    const start = png.content.indexOf(Buffer.from('89504e470d0a1a0a', 'hex'), 0);
    const first = await sharp(png.content.subarray(start)).raw().toBuffer();
    const plate = await sharp(
      Buffer.from(await (await fetch(`${server.url}/api/media/${ids.hash}/frames/7.png`)).arrayBuffer()),
    )
      .raw()
      .toBuffer();
    const pixel = (b: Buffer, x: number, y: number): number[] => [
      ...b.subarray((y * 640 + x) * 3, (y * 640 + x) * 3 + 3),
    ];
    expect(pixel(first, 310, 190)).toEqual([250, 20, 30]);
    expect(pixel(first, 20, 20)).toEqual(pixel(plate, 20, 20));
    expect(png.content.toString('latin1').match(/-r\d+\.\d{4}\.png/g)!.length).toBe(6);
  });
});

describe('saving', () => {
  it('two tabs: the second is told, nothing is overwritten', async () => {
    const mine = await server.request<typeof screen>('PUT', `/screens/${screen.id}`, {
      revision: screen.revision,
      recipe: { ...recipe, name: 'first tab' },
    });
    const other = await server.request<{ code: string; details: { recipe: { name: string } } }>(
      'PUT',
      `/screens/${screen.id}`,
      { revision: screen.revision, recipe: { ...recipe, name: 'second tab' } },
    );
    expect(other).toMatchObject({ status: 409, body: { code: 'stale', details: { recipe: { name: 'first tab' } } } });
    expect(
      await server.sql('SELECT revision FROM screen_revisions WHERE screen_id = ? AND revision = ?', [
        screen.id,
        mine.body.revision,
      ]),
    ).toHaveLength(1);
    screen = mine.body;
    expect((await server.request('PUT', `/shots/${ids.shot}`, { revision: 1, workingRange: [0, 3] })).status).toBe(409);
  });
  it.each<[string, object, RegExp]>([
    ['three corners', { pin: PIN.slice(0, 3) }, /pin must have at least 4/],
    ['a bow-tie', { pin: [PIN[0], PIN[2], PIN[1], PIN[3]] }, /cross each other/],
    ['1e12', { pin: [[1e12, 0], ...PIN.slice(1)] }, /at most 1000000/],
    [
      'two-point patches',
      {
        patches: [
          {
            kind: 'ignore',
            points: [
              [1, 1],
              [2, 2],
            ],
          },
        ],
      },
      /at least 3/,
    ],
    ['a reference past the end', { referenceFrame: 99 }, /frames 0 to 23/],
  ])('a recipe with %s is refused and the saved one stays', async (_, part, message) => {
    const r = await server.request<{ message: string }>('PUT', `/screens/${screen.id}`, {
      revision: screen.revision,
      recipe: { ...recipe, ...part },
    });
    expect(r.status).toBe(422);
    expect(r.body.message).toMatch(message);
    expect((await server.request<typeof screen>('GET', `/screens/${screen.id}`)).body.revision).toBe(screen.revision);
  });
  it('a patch wholly outside is saved as drawn but refused when it is to be followed', async () => {
    const s = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, {
      ...recipe,
      patches: [
        {
          kind: 'follow',
          points: [
            [900, 900],
            [950, 900],
            [950, 950],
          ],
        },
      ],
    });
    expect(await server.request('POST', `/screens/${s.body.id}/follow`, { from: 0, to: 23 })).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('outside the picture') },
    });
    await server.request('DELETE', `/screens/${s.body.id}`);
  });
  it('NaN and 4 MB of JSON are turned away', async () => {
    expect(
      await server.request('PUT', `/screens/${screen.id}`, '{"revision":1,"recipe":{"pin":[[NaN]]}}'),
    ).toMatchObject({ status: 400, body: { message: 'The request is not valid JSON.' } });
    expect(
      await server.request('PUT', `/screens/${screen.id}`, { revision: 1, recipe: 'x'.repeat(4_000_000) }),
    ).toMatchObject({ status: 413 });
  });
});

describe('tricks', () => {
  it('in names are only names', async () => {
    const name = `'; DROP TABLE shots; -- ../../etc/passwd <b>`;
    const p = await server.request<{ id: number; name: string }>('POST', '/productions', { name });
    expect(p.body.name).toBe(name);
    expect((await server.request<unknown[]>('GET', '/productions')).body.length).toBeGreaterThan(1);
    expect((await server.request('POST', '/productions', { name: 'a\u0000b' })).status).toBe(422);
    expect((await server.request('POST', '/productions', { name: '' })).status).toBe(422);
  });
  it.each([
    '/media/..%2f..%2fetc%2fpasswd',
    `/media/${'g'.repeat(64)}`,
    '/deliveries/1%20OR%201=1/file',
    '/shots/99999',
    '/uploads/..%2f..%2fx',
  ])('in the address %s find nothing', async (path) => {
    expect((await server.request('GET', path)).status).toBe(404);
  });
  it('from other hosts and origins are turned away', async () => {
    const r = await fetch(`${server.url}/api/productions`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: 'http://elsewhere.example' },
      body: '{"name":"x"}',
    });
    expect(r.status).toBe(403);
    expect((await fetch(`${server.url}/api/health`)).headers.get('content-security-policy')).toContain(
      "default-src 'self'",
    );
  });
});

describe('uploads', () => {
  it.each<[string, () => Uint8Array | Promise<Uint8Array>, RegExp]>([
    ['text renamed .mp4', () => Buffer.from('no film at all '.repeat(100)), /holds no pictures/],
    ['a playlist', () => Buffer.from('#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n/etc/passwd\n'), /quay\.mp4"/],
  ])('of %s is refused and leaves nothing in the library', async (_, bytes, message) => {
    const { id } = await server.upload(await bytes());
    const before = await server.sql('SELECT hash FROM media');
    const r = await server.request<{ message: string }>('POST', `/productions/${ids.production}/shots`, {
      name: 'x',
      upload: id,
      fileName: 'quay.mp4',
    });
    expect(r.status).toBe(422);
    expect(r.body.message).toMatch(message);
    expect(await server.sql('SELECT hash FROM media')).toEqual(before);
  });
  it('that are not finished cannot be used, and go on where they stopped', async () => {
    const bytes = await plateBytes(2);
    const { id } = await server.upload(bytes, 1000);
    expect(await server.request('POST', '/media', { upload: id, fileName: 'q.mp4' })).toMatchObject({
      status: 409,
      body: { message: expect.stringContaining('not finished') },
    });
    expect(await server.patch(id, bytes.subarray(1000), 1000)).toBe(204);
    expect((await server.request('POST', '/media', { upload: id, fileName: 'q.mp4' })).status).toBe(201);
  });
});

describe('little room', () => {
  it('on the disk is said before the upload begins', async () => {
    const full = await TestServer.create({ YARLOP_RESERVE_BYTES: String(1e18) });
    try {
      expect(await full.upload(Buffer.alloc(10))).toMatchObject({
        status: 507,
        text: expect.stringContaining('Free some space'),
      });
    } finally {
      await full.dispose();
    }
  });
});
