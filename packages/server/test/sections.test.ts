/** Settings that hold for some frames: what is followed again by them, what stays, and what is found again. */
import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { FOLLOWER_VERSION } from '../../core/src/follow/follower';
import { parseScreen, solveIdentity } from '../../pipeline/src/screen-file';
import { partsOf } from '../../pipeline/src/sections';
import { plateBytes, recipe, PIN } from './builders/plate';
import type { TestTrack } from './builders/following';
import { Following, expectNear } from './builders/following';
import { TestServer } from './builders/server';
import { allowedMs } from '../../core/test/builders/on-time';

let server: TestServer;
let at: Following;
let mediaHash: string;
beforeAll(async () => {
  server = await TestServer.create();
  const { shot, hash } = await server.shot(await plateBytes(24, 0, true));
  [at, mediaHash] = [new Following(server, shot), hash];
}, 90_000);
afterAll(() => server.dispose());

const numbers = (t: TestTrack, from: number, to: number): unknown =>
  t.frames.filter((f) => f.frame >= from && f.frame <= to).map((f) => [f.frame, f.homography, f.sigma, f.trust]);
/** Frames on which a track rests on its edges alone. */
const byEdges = (t: TestTrack): number[] =>
  t.frames.filter((f) => f.frame !== recipe.referenceFrame && f.evidence['edges'] === 1).map((f) => f.frame);
const EDGES = { from: 16, to: 23, evidence: ['edges'] };

describe('a section', () => {
  let id: number;
  let before: TestTrack;
  beforeAll(async () => {
    ({ id } = await at.screen({ name: 'in sections' }));
    await at.run(id);
    before = await at.track(id);
    expectNear(before, PIN, 0.4);
    expect(before).toMatchObject({ outdated: false, stale: [] });
  });

  it('outdates its own frames and no others; what was there stays until it is followed again', async () => {
    await at.save(id, { sections: [EDGES] });
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: true, stale: [{ from: 16, to: 23 }], solveId: before.solveId });
    expect(numbers(t, 0, 23)).toEqual(numbers(before, 0, 23));
  });

  it('is followed alone, from where the frames before it end, which keep their numbers to the last bit', async () => {
    const alone = await at.screen({ name: 'up to there' });
    await at.run(alone.id, { from: 0, to: 15 });
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expect(byEdges(t)).toEqual([16, 17, 18, 19, 20, 21, 22, 23]);
    expectNear(t, PIN, 0.6);
    expect(numbers(t, 0, 15)).toEqual(numbers(await at.track(alone.id), 0, 15));
  });

  it('is trimmed, widened and removed without a run where its frames were followed before', async () => {
    const whole = await at.track(id);
    await at.save(id, { sections: [{ ...EDGES, from: 20 }] });
    const trimmed = await at.track(id);
    expect(trimmed).toMatchObject({ outdated: false });
    expect(byEdges(trimmed)).toEqual([20, 21, 22, 23]);
    await at.save(id, { sections: [{ ...EDGES, from: 14 }] });
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 14, to: 15 }] });
    await at.save(id, {});
    expect(numbers(await at.track(id), 0, 23)).toEqual(numbers(before, 0, 23));
    await at.save(id, { sections: [EDGES] });
    expect(numbers(await at.track(id), 0, 23)).toEqual(numbers(whole, 0, 23));
  });

  it('of several each has its own way, in one track and one run', async () => {
    const sections = [
      { from: 0, to: 3, evidence: ['edges'] },
      { from: 12, to: 15, motion: 'similarity' },
      { from: 18, to: 20, evidence: ['edges'] },
    ];
    const { id: other } = await at.screen({ name: 'several', sections });
    await at.run(other);
    const t = await at.track(other);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expectNear(t, PIN, 0.7);
    expect(byEdges(t)).toEqual([0, 1, 2, 3, 18, 19, 20]);
  });

  it('is read otherwise: its own frames are followed again from that mix, all others stay', async () => {
    const { id: own } = await at.screen({ name: 'read in red' });
    await at.run(own);
    const luma = await at.track(own);
    await at.save(own, { sections: [{ from: 16, to: 23, reading: 'red' }] });
    expect(await at.track(own)).toMatchObject({ outdated: true, stale: [{ from: 16, to: 23 }] });
    await at.run(own);
    const t = await at.track(own);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expectNear(t, PIN, 0.5);
    expect(numbers(t, 0, 15)).not.toEqual([]);
    expect(numbers(t, 16, 23)).not.toEqual(numbers(luma, 16, 23));
  });

  it('is cut back and gone on with', async () => {
    expect((await server.request('POST', `/screens/${id}/cut`, { frame: 18, side: 'after' })).status).toBeLessThan(300);
    const cut = await at.track(id);
    expect(cut.frames.filter((f) => f.frame > 18).map((f) => f.frame)).toEqual([19, 20, 21, 22, 23]);
    expect(cut.stale).toEqual([{ from: 19, to: 23 }]);
    await at.run(id, { from: 8, to: 23, direction: 'forwards' });
    const t = await at.track(id);
    expect(t.outdated).toBe(false);
    expect(byEdges(t)).toEqual([16, 17, 18, 19, 20, 21, 22, 23]);
  });
});

describe('a second run on the steadied plate', () => {
  it('turns a coarse run into a finer one, whatever the first could not follow', async () => {
    const coarse = { name: 'coarse', motion: 'translation' };
    const { id } = await at.screen(coarse);
    await at.run(id);
    const first = await at.track(id);
    const over = { from: 0, to: 23, motion: 'perspective', over: {} };
    await at.save(id, { ...coarse, sections: [over] });
    expect(await at.track(id)).toMatchObject({ outdated: true, stale: [{ from: 0, to: 23 }] });
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expectNear(t, PIN, 0.4);
    // Taking it back finds the coarse run again.
    await at.save(id, coarse);
    expect(numbers(await at.track(id), 0, 23)).toEqual(numbers(first, 0, 23));
  });

  it('follows what it rests on first, where that was not followed yet', async () => {
    const { id } = await at.screen({
      name: 'both at once',
      motion: 'similarity',
      sections: [{ from: 10, to: 23, motion: 'perspective', over: {} }],
    });
    await at.run(id);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expect(t.frames).toHaveLength(24);
  });
});

describe('sections', () => {
  it.each<[string, unknown, RegExp]>([
    ['overlap', [EDGES, { ...EDGES, from: 20 }], /begins before the one before it ends/],
    ['end before they begin', [{ ...EDGES, to: 3 }], /the first of them must come first/],
    ['name what no section has', [{ ...EDGES, fill: {} }], /sections.*fill/],
  ])('that %s are refused with a sentence', async (_, sections, message) => {
    const answer = await server.request<{ message: string }>('POST', `/shots/${at.shot}/screens`, {
      ...recipe,
      sections,
    });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toMatch(message);
  });

  it('beyond the plate are told of when they are to be followed', async () => {
    const { id } = await at.screen({ name: 'beyond', sections: [{ ...EDGES, to: 90 }] });
    const answer = await server.request<{ message: string }>('POST', `/screens/${id}/follow`, { from: 0, to: 23 });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toMatch(/names frame 90, but the plate has frames 0 to 23/);
  });
});

const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
/** A solve that is there without a run: the 24 frames of another one, again and again. */
async function putSolve(screenId: number, identity: string, source: number, [from, to] = [0, 23]): Promise<void> {
  await server.sql(
    `INSERT INTO solves (screen_id, identity, pin, reference_frame)
     SELECT ?, ?, pin, reference_frame FROM solves WHERE id = ?`,
    [screenId, identity, source],
  );
  const [{ id }] = (await server.sql<{ id: number }>('SELECT MAX(id) AS id FROM solves')) as [{ id: number }];
  await server.sql(
    `INSERT INTO solve_frames (solve_id, frame, homography, sigma, trust, evidence, information, blur, seen, own, reason)
     SELECT ?, frame + 24 * n.seq, homography, sigma, trust, evidence, information, blur, seen, own, reason
     FROM solve_frames JOIN seq_0_to_84 n WHERE solve_id = ? AND frame + 24 * n.seq BETWEEN ? AND ?`,
    [id, source, from, to],
  );
}

describe('what an installation had before there were sections', () => {
  it('is found as it was: a solve by the same hash as then', async () => {
    const { id: source } = await at.screen({ name: 'followed' });
    await at.run(source);
    const { solveId } = await at.track(source);
    const { id } = await at.screen({ name: 'of before' });
    expect((await at.track(id)).frames).toEqual([]);
    // Just what the version before wrote, member by member.
    const told = [FOLLOWER_VERSION, mediaHash, 8, [], 'perspective', 'auto', 'usual', 'auto', 'cells', 'auto', []];
    await putSolve(id, sha256(JSON.stringify(told)), solveId);
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false, stale: [] });
    expect(numbers(t, 0, 23)).toEqual(numbers(await at.track(source), 0, 23));
  });
});

describe('two thousand frames in fifty sections', () => {
  it('are opened in two seconds and saved in 150 ms', async () => {
    const { id: source } = await at.screen({ name: 'short' });
    await at.run(source);
    const { solveId } = await at.track(source);
    const sections = Array.from({ length: 50 }, (_, i) => ({ from: 40 * i, to: 40 * i + 39, lens: 0.001 * (i + 1) }));
    const own = { name: 'long', sections };
    const { id } = await at.screen(own);
    for (const part of partsOf(parseScreen({ ...recipe, ...own })))
      await putSolve(id, sha256(solveIdentity(part, mediaHash)), solveId, [part.from, Math.min(part.to, 2039)]);
    /** Ms of the fastest of some tries: others may be at work on the machine. */
    const fastest = async (what: () => Promise<unknown>): Promise<number> => {
      const took: number[] = [];
      for (let i = 0; i < 5; i++) {
        const began = performance.now();
        await what();
        took.push(performance.now() - began);
      }
      return Math.min(...took);
    };
    const t = await at.track(id);
    expect(t).toMatchObject({ outdated: false });
    expect(t.frames).toHaveLength(2040);
    const opening = await fastest(async () => {
      // As they are: what the tests hold answers against takes longer than they do.
      await server.raw('GET', `/api/shots/${at.shot}`);
      JSON.parse((await server.raw('GET', `/api/screens/${id}/track`)).text);
    });
    let { revision } = (await server.request<{ revision: number }>('GET', `/screens/${id}`)).body;
    const saving = await fastest(async () => {
      const trimmed = sections.map((s, i) => (i === 7 ? { ...s, from: s.from + 1 + (revision % 9) } : s));
      const put = await server.request('PUT', `/screens/${id}`, {
        revision,
        recipe: { ...recipe, ...own, sections: trimmed },
      });
      expect(put.status).toBe(200);
      revision++;
    });
    console.info(`50 sections, 2,040 frames: opened in ${opening.toFixed(0)} ms, saved in ${saving.toFixed(0)} ms.`);
    expect(opening).toBeLessThan(allowedMs(2000));
    expect(saving).toBeLessThan(allowedMs(150));
  }, 120_000);
});
