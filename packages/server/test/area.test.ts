/** What is followed of a Screen, and the pin that rides on it. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { quadToQuad } from '../../core/src/geometry/homography';
import type { Point } from '../../core/src/geometry/point';
import type { Quad } from '../../core/src/geometry/quad';
import { farthest, mapQuad } from '../../core/src/geometry/quad';
import { PIN, plateBytes, recipe, truthAt } from './builders/plate';
import { TestServer } from './builders/server';

/** A pin set far from what was dropped: each corner by 40 to 120 px. */
const APART: Quad = [
  [260, 90],
  [520, 140],
  [500, 330],
  [240, 300],
];
type Recipe = typeof recipe & { area?: unknown; hand?: unknown; spots?: unknown };
interface Screen {
  readonly id: number;
  readonly revision: number;
}
interface Track {
  readonly outdated: boolean;
  readonly solveId: number;
  readonly area: Quad;
  readonly frames: readonly {
    readonly frame: number;
    readonly corners: Quad;
    readonly homography: readonly number[];
    readonly sigma: readonly number[];
    readonly trust: number;
  }[];
}
let server: TestServer;
let shot: number;
beforeAll(async () => {
  server = await TestServer.create();
  shot = (await server.shot(await plateBytes())).shot;
}, 90_000);
afterAll(() => server.dispose());

async function screenOf(own: Partial<Recipe>): Promise<Screen> {
  return (await server.request<Screen>('POST', `/shots/${shot}/screens`, { ...recipe, ...own })).body;
}
async function saved(id: number, own: Partial<Recipe>): Promise<void> {
  const { revision } = (await server.request<Screen>('GET', `/screens/${id}`)).body;
  const put = await server.request('PUT', `/screens/${id}`, { revision, recipe: { ...recipe, ...own } });
  expect(put.status).toBe(200);
}
async function followed(id: number, order: object = { from: 0, to: 23 }): Promise<void> {
  const started = await server.request<{ id: number }>('POST', `/screens/${id}/follow`, order);
  expect(started.status).toBe(202);
  await server.until(async () => {
    const jobs = (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body;
    return jobs.find((j) => j.id === started.body.id)?.state === 'done' || null;
  });
}
const trackOf = async (id: number): Promise<Track> => (await server.request<Track>('GET', `/screens/${id}/track`)).body;
function expectNear(t: Track, pin: Quad, px: number): void {
  expect(t.frames.map((f) => f.frame)).toEqual([...Array(24).keys()]);
  for (const f of t.frames) expect(farthest(f.corners, mapQuad(truthAt(f.frame), pin))).toBeLessThan(px);
}

describe('a pin that is set far from what was followed', () => {
  let id: number;
  let before: Track;
  beforeAll(async () => {
    ({ id } = await screenOf({ name: 'roughly dropped' }));
    await followed(id);
    before = await trackOf(id);
  }, 60_000);

  it('outdates nothing: every number of the plane stays to the last bit, and its corners ride on it', async () => {
    expect(before.area).toEqual(PIN);
    await saved(id, { pin: APART as never });
    const t = await trackOf(id);
    expect(t).toMatchObject({ outdated: false, solveId: before.solveId, area: PIN });
    expect(t.frames.map((f) => f.homography)).toEqual(before.frames.map((f) => f.homography));
    expectNear(t, APART, 0.4);
  });

  it('is known less well where it lies beyond it, and trusted no more', async () => {
    const t = await trackOf(id);
    for (const [i, f] of t.frames.entries()) {
      if (f.frame === recipe.referenceFrame) continue;
      const was = before.frames[i]!;
      // TR, BR lie 80 px and more outside what was followed.
      expect(f.sigma[1]).toBeGreaterThan(was.sigma[1]!);
      expect(f.sigma[2]).toBeGreaterThan(was.sigma[2]!);
      expect(f.trust).toBeLessThanOrEqual(was.trust);
    }
  });

  it('is gone on with from a frame in the middle, after what was followed and not after the pin', async () => {
    expect((await server.request('POST', `/screens/${id}/cut`, { frame: 15, side: 'after' })).status).toBeLessThan(300);
    expect((await trackOf(id)).frames).toHaveLength(16);
    await followed(id);
    const t = await trackOf(id);
    expect(t).toMatchObject({ solveId: before.solveId, area: PIN });
    for (const f of t.frames.slice(0, 16))
      expect(farthest(mapQuad(f.homography, PIN), before.frames[f.frame]!.corners)).toBeLessThan(0.05);
    expectNear(t, APART, 0.4);
  }, 60_000);

  it('is followed itself where that is asked for, and taking that back finds the first solve again', async () => {
    await saved(id, { pin: APART as never, area: APART });
    expect((await trackOf(id)).outdated).toBe(true);
    await followed(id);
    const own = await trackOf(id);
    expect(own).toMatchObject({ outdated: false, area: APART });
    expect(own.solveId).not.toBe(before.solveId);
    expectNear(own, APART, 0.4);
    await saved(id, { pin: APART as never });
    expect(await trackOf(id)).toMatchObject({ outdated: false, solveId: before.solveId });
    await saved(id, { pin: APART as never, area: APART });
    expect(await trackOf(id)).toMatchObject({ outdated: false, solveId: own.solveId });
  }, 60_000);
});

describe('an area', () => {
  it('that is drawn loosely is what is followed, and hand keys are of the pin', async () => {
    const loose: readonly Point[] = [
      [230, 130],
      [410, 125],
      [425, 200],
      [400, 250],
      [220, 240],
    ];
    const hand = [{ frame: 12, corners: mapQuad(truthAt(12), APART) }];
    const { id } = await screenOf({ name: 'loosely', pin: APART as never, area: loose, hand });
    await followed(id);
    const t = await trackOf(id);
    expect(t.outdated).toBe(false);
    expectNear(t, APART, 0.8);
    expect(farthest(t.frames[12]!.corners, hand[0]!.corners)).toBeLessThan(1e-6);
  }, 60_000);

  it.each<[string, unknown, RegExp]>([
    ['two points', PIN.slice(0, 2), /area must have at least 3/],
    ['points on a line', [1, 2, 3].map((k) => [100 * k, 50]), /lie on each other/],
  ])('of %s is refused with a sentence', async (_, area, message) => {
    const answer = await server.request<{ message: string }>('POST', `/shots/${shot}/screens`, { ...recipe, area });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toMatch(message);
  });

  it('is the pin itself where spots hold its corners: they are followed with it', async () => {
    const spots = PIN.map((at, corner) => ({ name: `corner ${corner}`, at, corner }));
    const { id } = await screenOf({ name: 'spots', spots });
    await followed(id, { from: 6, to: 10 });
    expect((await trackOf(id)).outdated).toBe(false);
    await saved(id, { name: 'spots', spots, pin: APART as never });
    expect((await trackOf(id)).outdated).toBe(true);
  }, 60_000);
});

it('a plane that is followed carries any quad in it', () => {
  // What the tests above rest on: the truth of a pin elsewhere in the plane is the plane's own movement.
  const h = truthAt(20);
  expect(farthest(mapQuad(quadToQuad(PIN, mapQuad(h, PIN)), APART), mapQuad(h, APART))).toBeLessThan(1e-6);
});
