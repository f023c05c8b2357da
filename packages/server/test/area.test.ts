/** What is followed of a Screen, and the pin that rides on it. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { quadToQuad } from '../../core/src/geometry/homography';
import type { Point } from '../../core/src/geometry/point';
import type { Quad } from '../../core/src/geometry/quad';
import { farthest, mapQuad } from '../../core/src/geometry/quad';
import { PIN, plateBytes, recipe, truthAt } from './builders/plate';
import type { TestTrack } from './builders/following';
import { Following, expectNear } from './builders/following';
import { TestServer } from './builders/server';

/** A pin set far from what was dropped: each corner by 40 to 120 px. */
const APART: Quad = [
  [260, 90],
  [520, 140],
  [500, 330],
  [240, 300],
];
let server: TestServer;
let at: Following;
beforeAll(async () => {
  server = await TestServer.create();
  at = new Following(server, (await server.shot(await plateBytes())).shot);
}, 90_000);
afterAll(() => server.dispose());

describe('a pin that is set far from what was followed', () => {
  let id: number;
  let before: TestTrack;
  beforeAll(async () => {
    ({ id } = await at.screen({ name: 'roughly dropped' }));
    await at.run(id);
    before = await at.track(id);
  });

  it('outdates nothing: every number of the plane stays to the last bit, and its corners ride on it', async () => {
    expect(before.area).toEqual(PIN);
    await at.save(id, { pin: APART });
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, solveId: before.solveId, area: PIN });
    expect(t.frames.map((f) => f.homography)).toEqual(before.frames.map((f) => f.homography));
    expectNear(t, APART, 0.4);
  });

  it('is known less well where it lies beyond it, and trusted no more', async () => {
    const t = await at.track(id);
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
    expect((await at.track(id)).frames).toHaveLength(16);
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ solveId: before.solveId, area: PIN });
    for (const f of t.frames.slice(0, 16))
      expect(farthest(mapQuad(f.homography, PIN), before.frames[f.frame]!.corners)).toBeLessThan(0.05);
    expectNear(t, APART, 0.4);
  });

  it('is followed itself where that is asked for, and taking that back finds the first solve again', async () => {
    await at.save(id, { pin: APART, area: APART });
    expect((await at.track(id)).outdated).toBe(true);
    await at.run(id);
    const own = await at.track(id);
    expect(own).toMatchObject({ outdated: false, area: APART });
    expect(own.solveId).not.toBe(before.solveId);
    expectNear(own, APART, 0.4);
    await at.save(id, { pin: APART });
    expect(await at.track(id)).toMatchObject({ outdated: false, solveId: before.solveId });
    await at.save(id, { pin: APART, area: APART });
    expect(await at.track(id)).toMatchObject({ outdated: false, solveId: own.solveId });
  });
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
    const { id } = await at.screen({ name: 'loosely', pin: APART, area: loose, hand });
    await at.run(id);
    const t = await at.track(id);
    expect(t.outdated).toBe(false);
    expectNear(t, APART, 0.8);
    expect(farthest(t.frames[12]!.corners, hand[0]!.corners)).toBeLessThan(1e-6);
  });

  it.each<[string, unknown, RegExp]>([
    ['two points', PIN.slice(0, 2), /area must have at least 3/],
    ['points on a line', [1, 2, 3].map((k) => [100 * k, 50]), /lie on each other/],
  ])('of %s is refused with a sentence', async (_, area, message) => {
    const answer = await server.request<{ message: string }>('POST', `/shots/${at.shot}/screens`, { ...recipe, area });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toMatch(message);
  });

  it('is the pin itself where spots hold its corners: they are followed with it', async () => {
    const spots = PIN.map((at, corner) => ({ name: `corner ${corner}`, at, corner }));
    const { id } = await at.screen({ name: 'spots', spots });
    await at.run(id, { from: 6, to: 10 });
    expect((await at.track(id)).outdated).toBe(false);
    await at.save(id, { name: 'spots', spots, pin: APART });
    expect((await at.track(id)).outdated).toBe(true);
  });
});

it('a plane that is followed carries any quad in it', () => {
  // What the tests above rest on: the truth of a pin elsewhere in the plane is the plane's own movement.
  const h = truthAt(20);
  expect(farthest(mapQuad(quadToQuad(PIN, mapQuad(h, PIN)), APART), mapQuad(h, APART))).toBeLessThan(1e-6);
});
