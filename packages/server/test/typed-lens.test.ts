/** A lens that is typed after following: no run, the same corners as a run behind it would give, and the way back. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { farthest } from '../../core/src/geometry/quad';
import { Following } from './builders/following';
import type { TestTrack } from './builders/following';
import { plateBytes } from './builders/plate';
import { TestServer } from './builders/server';

/** Radial terms that bow the plate's corners by some 30 px, and by less. */
const [STRONG, WEAK] = [-0.1, -0.07];

let server: TestServer;
let at: Following;
beforeAll(async () => {
  server = await TestServer.create();
  at = new Following(server, (await server.shot(await plateBytes(24, 0, true))).shot);
}, 90_000);
afterAll(() => server.dispose());

const corners = (t: TestTrack): unknown => t.frames.map((f) => [f.frame, f.corners]);
const apart = (a: TestTrack, b: TestTrack): number =>
  Math.max(...a.frames.map((f, i) => farthest(f.corners, b.frames[i]!.corners)));
const jobs = async (): Promise<number> => (await server.sql('SELECT id FROM jobs')).length;

describe('a lens that is typed after following', () => {
  it('asks for no run, puts the corners where a run has them, and is taken back to the last bit', async () => {
    const { id } = await at.screen({ name: 'found' });
    await at.run(id);
    const found = await at.track(id);
    const ran = await jobs();
    await at.save(id, { lens: STRONG });
    const typed = await at.track(id);
    expect(typed).toMatchObject({ outdated: false, stale: [], lens: STRONG, solveId: found.solveId });
    expect(await jobs()).toBe(ran);
    const { id: other } = await at.screen({ name: 'followed so', lens: STRONG });
    await at.run(other);
    const run = await at.track(other);
    expect(apart(found, run)).toBeGreaterThan(0.15);
    // To first order in a term that is far from 0.
    expect(apart(typed, run)).toBeLessThan(apart(found, run) / 2);
    await at.save(id, {});
    expect(corners(await at.track(id))).toEqual(corners(found));
  });

  it('is told from a run behind another typed one too, and followed itself when that is asked for', async () => {
    const { id } = await at.screen({ name: 'typed before', lens: WEAK });
    await at.run(id);
    await at.save(id, { lens: STRONG });
    const told = await at.track(id);
    expect(told).toMatchObject({ outdated: false, stale: [], lens: STRONG });
    await at.run(id);
    const run = await at.track(id);
    expect(run.solveId).not.toBe(told.solveId);
    expect(apart(told, run)).toBeLessThan(0.1);
    // What is found is not told from what was typed: that was never looked for.
    await at.save(id, {});
    expect(await at.track(id)).toMatchObject({ outdated: true });
  });

  it('names the frames that cannot tell how they would lie, as those of an earlier version', async () => {
    const { id } = await at.screen({ name: 'of before' });
    await at.run(id);
    const { solveId } = await at.track(id);
    await server.sql('UPDATE solve_frames SET lens = NULL, bow = NULL WHERE solve_id = ? AND frame > 15', [solveId!]);
    await at.save(id, { lens: WEAK });
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 16, to: 23 }] });
    // Followed behind that one, they are told behind every other.
    await at.run(id);
    await at.save(id, { lens: STRONG });
    expect(await at.track(id)).toMatchObject({ outdated: false, stale: [] });
  });
});
