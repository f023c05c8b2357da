/** Proving and correcting through the interface that the page uses: real database, real clip, exact truth. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mapPoint } from '../../core/src/geometry/homography';
import { mapQuad } from '../../core/src/geometry/quad';
import { flatAreaFor } from '../../core/src/proof/flat-view';
import { PIN, plateBytes, recipe, truthAt } from './builders/plate';
import { TestServer } from './builders/server';

interface Screen {
  id: number;
  revision: number;
  recipe: Record<string, unknown>;
}
interface ProofFrame {
  frame: number;
  by: ([number, number] | null)[];
  reason: (string | null)[];
}
interface Track {
  frames: { frame: number; corners: [number, number][]; homography: number[] }[];
}
let server: TestServer;
let shot: number;
let screen: Screen;
const finished = (id: number): Promise<{ state: string; message: string | null }> =>
  server.until(async () => {
    const j = (await server.request<{ id: number; state: string; message: string | null }[]>('GET', '/jobs')).body.find(
      (x) => x.id === id,
    );
    return j && ['done', 'failed', 'cancelled'].includes(j.state) ? j : null;
  });
const save = async (part: Record<string, unknown>, step?: string): Promise<void> => {
  const now = (await server.request<Screen>('GET', `/screens/${screen.id}`)).body;
  expect(
    (
      await server.request('PUT', `/screens/${screen.id}`, {
        revision: now.revision,
        recipe: { ...now.recipe, ...part },
        ...(step ? { step } : {}),
      })
    ).status,
  ).toBe(200);
};
const prove = async (): Promise<{ frames: ProofFrame[]; outdated: boolean }> => {
  const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/prove`);
  expect(job.status).toBe(202);
  expect((await finished(job.body.id)).state).toBe('done');
  return (await server.request<{ frames: ProofFrame[]; outdated: boolean }>('GET', `/screens/${screen.id}/proof`)).body;
};
const verdict = async (): Promise<{ word: string; reasons: string[] }> =>
  (await server.request<{ id: number; word: string; reasons: string[] }[]>('GET', `/shots/${shot}/verdicts`)).body.find(
    (v) => v.id === screen.id,
  )!;
const cornersOn = async (n: number): Promise<[number, number][]> =>
  (await server.request<Track>('GET', `/screens/${screen.id}/track`)).body.frames.find((f) => f.frame === n)!.corners;

beforeAll(async () => {
  server = await TestServer.create();
  shot = (await server.shot(await plateBytes(24, 0, true))).shot;
  screen = (await server.request<Screen>('POST', `/shots/${shot}/screens`, recipe)).body;
}, 90_000);
afterAll(() => server.dispose());

describe('proving', () => {
  it('of what is not followed yet is refused with a sentence, and the verdict says so', async () => {
    expect(await server.request('POST', `/screens/${screen.id}/prove`)).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('Nothing is followed yet') },
    });
    expect((await server.request('GET', `/screens/${screen.id}/proof`)).body).toBeNull();
    expect((await verdict()).word).toBe('not usable');
  });
  it('measures next to no slip of a good track, and calls it good', async () => {
    const job = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, { from: 0, to: 23 });
    expect((await finished(job.body.id)).state).toBe('done');
    const { frames, outdated } = await prove();
    const told = frames.flatMap((f) => f.by.filter((p) => p !== null));
    expect(outdated).toBe(false);
    expect(frames).toHaveLength(24);
    expect(told.length).toBeGreaterThan(60);
    expect(Math.max(...told.map((p) => Math.hypot(...p)))).toBeLessThan(0.5);
    expect(await verdict()).toMatchObject({ word: 'holds', reasons: [] });
  });
  it('tells one frame at once, and knows when it is outdated', async () => {
    const { body } = await server.request<ProofFrame>('POST', `/screens/${screen.id}/slip`, { frame: 20 });
    expect(body.frame).toBe(20);
    expect(body.by.filter((p) => p).length).toBeGreaterThan(2);
    await save({ likenesses: [{ corner: 1, frame: 16, at: mapPoint(truthAt(16), PIN[1]) }] });
    expect((await server.request<{ outdated: boolean }>('GET', `/screens/${screen.id}/proof`)).body.outdated).toBe(
      true,
    );
    expect((await prove()).outdated).toBe(false);
    expect((await server.request('POST', `/screens/${screen.id}/slip`, { frame: 24 })).body).toMatchObject({
      message: expect.stringContaining('frames 0 to 23'),
    });
  });
});

describe('a touch-up', () => {
  const offsets = [
    [3, 0],
    [0, 0],
    [0, 0],
    [0, 0],
  ];
  it('moves the corners of its frames and no others, outdates neither solve nor proof, and enters the verdict', async () => {
    const before = await cornersOn(18);
    const far = await cornersOn(2);
    await save(
      {
        touchUps: [{ frame: 18, offsets, before: { frames: 4, shape: 'linear' }, after: { frames: 5, shape: 'hold' } }],
      },
      'Move corner TL',
    );
    const h = (await server.request<Track>('GET', `/screens/${screen.id}/track`)).body.frames.find(
      (f) => f.frame === 18,
    )!.homography;
    const after = await cornersOn(18);
    const want = mapPoint(h, [PIN[0][0] + 3, PIN[0][1]]);
    expect(Math.hypot(after[0]![0] - want[0], after[0]![1] - want[1])).toBeLessThan(1e-6);
    expect(after[2]).toEqual(before[2]);
    expect(await cornersOn(2)).toEqual(far);
    expect((await server.request<{ outdated: boolean }>('GET', `/screens/${screen.id}/proof`)).body.outdated).toBe(
      false,
    );
    expect((await verdict()).reasons[0]).toContain('slips by up to');
  });
  it('is in what is delivered, with the matrix that carries the pin there', async () => {
    const { body } = await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'json' });
    await server.until(
      async () =>
        (await server.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
          (d) => d.id === body.id && d.sha256,
        ) ?? null,
    );
    const file = (await (await fetch(`${server.url}/api/deliveries/${body.id}/file`)).json()) as { screens: Track[] };
    const f = file.screens[0]!.frames.find((x) => x.frame === 18)!;
    const shown = await cornersOn(18);
    for (const [i, p] of mapQuad(f.homography, PIN).entries()) {
      expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(1e-6);
      expect(Math.hypot(f.corners[i]![0] - shown[i]![0], f.corners[i]![1] - shown[i]![1])).toBeLessThan(1e-6);
    }
  });
  it('does not move where following goes on from', async () => {
    const before = await cornersOn(12);
    const { body } = await server.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, {
      from: 8,
      to: 23,
      direction: 'forwards',
      start: 17,
    });
    expect((await finished(body.id)).state).toBe('done');
    const t = (await server.request<Track>('GET', `/screens/${screen.id}/track`)).body;
    const own = mapQuad(t.frames.find((f) => f.frame === 21)!.homography, PIN);
    const truth = mapQuad(truthAt(21), PIN);
    for (const i of [0, 1, 2, 3])
      expect(Math.hypot(own[i]![0] - truth[i]![0], own[i]![1] - truth[i]![1])).toBeLessThan(0.4);
    expect((await cornersOn(12))[0]![0]).toBeCloseTo(before[0]![0], 3);
  });
  it('that is not one is refused with its place', async () => {
    const now = (await server.request<Screen>('GET', `/screens/${screen.id}`)).body;
    const bad = await server.request<{ message: string }>('PUT', `/screens/${screen.id}`, {
      revision: now.revision,
      recipe: {
        ...now.recipe,
        touchUps: [
          { frame: 3, offsets, before: { frames: -1, shape: 'linear' }, after: { frames: 1, shape: 'linear' } },
        ],
      },
    });
    expect(bad).toMatchObject({ status: 422, body: { message: expect.stringContaining('touchUps[0].before.frames') } });
  });
});

describe('the flat view', () => {
  it('streams a range of frames as flat pictures that stand still', async () => {
    const area = flatAreaFor(PIN, 20_000);
    const r = await fetch(`${server.url}/api/screens/${screen.id}/flat`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ from: 2, to: 10, area }),
    });
    const bytes = new Uint8Array(await r.arrayBuffer());
    const size = area.width * area.height;
    expect(bytes).toHaveLength(9 * size);
    let sum = 0;
    let n = 0;
    const mx = Math.ceil(area.marginX) + 2;
    const my = Math.ceil(area.marginY) + 2;
    for (let y = my; y < area.height - my; y++)
      for (let x = mx; x < area.width - mx; x++, n++)
        sum += Math.abs(bytes[y * area.width + x]! - bytes[7 * size + y * area.width + x]!);
    expect(sum / n).toBeLessThan(5);
    expect(await server.request('POST', `/screens/${screen.id}/flat`, { from: 2, to: 99, area })).toMatchObject({
      status: 422,
    });
    expect(
      await server.request('POST', `/screens/${screen.id}/flat`, { from: 2, to: 9, area: { ...area, width: 1e6 } }),
    ).toMatchObject({ status: 422 });
  });
});

describe('one who asks much', () => {
  it('waits behind their own questions, and nobody else does', async () => {
    const [much, other] = [await server.newVisitor(), await server.newVisitor()];
    const area = flatAreaFor(PIN, 1_000_000);
    const ASKED = 48;
    let answered = 0;
    const flatView = async (): Promise<number> => {
      const r = await fetch(`${server.url}/api/screens/${screen.id}/flat`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', cookie: much },
        body: JSON.stringify({ from: 0, to: 23, area }),
      });
      await r.arrayBuffer();
      answered++;
      return r.status;
    };
    const snap = (): Promise<{ status: number }> =>
      server.request('POST', `/screens/${screen.id}/snap`, { frame: recipe.referenceFrame, corners: PIN }, other);
    // Threads take their time to begin.
    await Promise.all([snap(), snap(), snap()]);
    const all = Promise.all(Array.from({ length: ASKED }, flatView));
    await new Promise((r) => setTimeout(r, 50));
    const { status } = await snap();
    const before = answered;
    expect(await all).toEqual(Array.from({ length: ASKED }, () => 200));
    expect([200, 422]).toContain(status);
    // In one line for everybody it would have been the last.
    expect(before).toBeLessThan(ASKED / 2);
  });
});

describe('earlier versions', () => {
  it('are listed with the names of their steps, and can be read', async () => {
    const { body } = await server.request<{ revision: number; step: string | null }[]>(
      'GET',
      `/screens/${screen.id}/revisions`,
    );
    expect(body.at(-1)).toMatchObject({ revision: 1, step: 'New Screen' });
    expect(body.map((r) => r.step)).toContain('Move corner TL');
    expect((await server.request<{ recipe: object }>('GET', `/screens/${screen.id}/revisions/1`)).body.recipe).toEqual(
      screen.recipe,
    );
    expect((await server.request('GET', `/screens/${screen.id}/revisions/999`)).status).toBe(404);
  });
});
