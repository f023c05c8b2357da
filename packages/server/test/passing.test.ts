/** What frames are followed with that lies on them alone: what passes in front, and how spots were placed. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mapPoint } from '../../core/src/geometry/homography';
import { insidePolygon } from '../../core/src/geometry/polygon';
import { PIN, plateBytes, truthAt } from './builders/plate';
import type { TestTrack } from './builders/following';
import { Following, expectNear } from './builders/following';
import { TestServer } from './builders/server';

let server: TestServer;
let at: Following;
beforeAll(async () => {
  server = await TestServer.create();
  at = new Following(server, (await server.shot(await plateBytes(24, 0, true))).shot);
}, 90_000);
afterAll(() => server.dispose());

/** What was found up to a frame, before frames are made to agree with their neighbours. */
const found = (t: TestTrack, to: number): Promise<unknown[]> =>
  server.sql(
    'SELECT frame, homography, sigma, trust FROM solve_frames WHERE solve_id = ? AND frame <= ? ORDER BY frame',
    [t.solveId, to],
  );

describe('a carried outline', () => {
  const outline = [
    [300, 160],
    [420, 160],
    [420, 250],
    [300, 250],
  ];
  const carrier = {
    name: 'cup',
    carried: true,
    device: 'other',
    pin: outline,
    patches: [{ kind: 'follow', points: outline }],
    motion: 'affine',
    evidence: ['texture'],
  };

  it('is followed by a run of its own, and what lies under it is not followed by the Screen that ignores it', async () => {
    const { id: cup } = await at.screen(carrier);
    await at.run(cup);
    const { id } = await at.screen({ name: 'behind the cup', ignores: ['cup'] });
    await at.run(id);
    const t = await at.track(id);
    expectNear(t, PIN, 0.6);
    const passes = (await at.track(cup)).frames.find((f) => f.frame === 14)!.corners;
    /** Cells of a Screen that lie under it. */
    const places = async (of: number): Promise<number> => {
      const { homography } = (await at.track(of)).frames.find((f) => f.frame === 14)!;
      const { cells } = (await server.request<{ cells: number[] }>('GET', `/screens/${of}/seen/14`)).body;
      const used = Array.from({ length: cells.length / 4 }, (_, i) => cells.slice(4 * i, 4 * i + 4));
      expect(used.length).toBeGreaterThan(10);
      return used.filter(
        ([x, y, side, trust]) => side! * trust! > 0 && insidePolygon(mapPoint(homography, [x!, y!]), passes),
      ).length;
    };
    const { id: other } = await at.screen({ name: 'not behind it' });
    await at.run(other);
    expect(await places(other)).toBeGreaterThan(3);
    expect(await places(id)).toBe(0);
  });

  it('is waited for by the Screens that ignore it, when both are to be followed', async () => {
    const { id: mug } = await at.screen({ ...carrier, name: 'mug' });
    const { id: behind } = await at.screen({ name: 'behind the mug', ignores: ['mug'] });
    const order = { from: 0, to: 23 };
    const [first, then] = await Promise.all([
      server.request<{ id: number }>('POST', `/screens/${mug}/follow`, order),
      // Just after it.
      new Promise((r) => setTimeout(r, 100)).then(() =>
        server.request<{ id: number }>('POST', `/screens/${behind}/follow`, order),
      ),
    ]);
    const seen = new Set<string>();
    await server.until(async () => {
      const { body } = await server.request<{ id: number; state: string }[]>('GET', '/jobs');
      const stateOf = (id: number): string => body.find((j) => j.id === id)!.state;
      seen.add(`${stateOf(first.body.id)} ${stateOf(then.body.id)}`);
      return stateOf(then.body.id) === 'done';
    });
    expect([...seen].filter((s) => /^(waiting|running) (running|done)/.test(s))).toEqual([]);
    expect(seen).toContain('running waiting');
  });

  it('that is followed otherwise outdates the frames where it passes elsewhere, and no others', async () => {
    const { id: jug } = await at.screen({ ...carrier, name: 'jug' });
    await at.run(jug);
    const { id } = await at.screen({ name: 'behind the jug', ignores: ['jug'] });
    await at.run(id);
    const before = await at.track(id);
    const kept = await found(before, 15);
    expect(before).toMatchObject({ outdated: false, stale: [] });
    // It has a handle from frame 16 on.
    const wider = outline.map(([x, y]) => [x! > 400 ? x! + 12 : x!, y!]);
    const keys = [8, 15, 16].map((frame) => ({ frame, points: frame === 16 ? wider : outline }));
    await at.save(jug, { ...carrier, name: 'jug', patches: [{ kind: 'follow', points: outline, keys }] });
    await at.run(jug);
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 16, to: 23 }] });
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expectNear(t, PIN, 0.6);
    expect(await found(t, 15)).toEqual(kept);
  });

  it('is none of what is delivered', async () => {
    const csv = await server.request<{ text: string }>('POST', `/shots/${at.shot}/text`, { as: 'csv' });
    expect(csv.body.text).toContain('behind the cup');
    expect(csv.body.text).not.toMatch(/^cup,/m);
  });
});

describe('a spot that is placed by hand', () => {
  it('outdates the frames from there on, away from the reference; those before keep their numbers', async () => {
    const spot = { name: 'mark', at: [250, 180] };
    const { id } = await at.screen({ name: 'with a spot', spots: [spot] });
    await at.run(id);
    const kept = await found(await at.track(id), 17);
    expect(kept).toHaveLength(18);
    const [x, y] = mapPoint(truthAt(18), [250, 180]);
    await at.save(id, { name: 'with a spot', spots: [{ ...spot, keys: [{ frame: 18, at: [x + 0.3, y] }] }] });
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 18, to: 23 }] });
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expect(await found(t, 17)).toEqual(kept);
    // One that is looked for elsewhere is another spot, on all frames.
    await at.save(id, { name: 'with a spot', spots: [{ ...spot, at: [260, 170] }] });
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 0, to: 23 }] });
  });
});
