import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FollowerState } from '../../core/src/follow/memory/follower-state';
import type { FrameResult } from '../../core/src/solve/frame-result';
import { notFound } from '../../core/src/solve/frame-result';
import { distance } from '../../core/src/geometry/point';
import type { Quad } from '../../core/src/geometry/quad';
import { mapQuad } from '../../core/src/geometry/quad';
import type { SceneOptions } from '../../core/test/builders/scene';
import { moved, renderScene, waves } from '../../core/test/builders/scene';
import { makeClip } from '../../media/test/builders/clips';
import { openSource } from '../../media/src/source';
import type { Step } from '../src/follow';
import type { FramePort } from '../src/frame-port';
import { assembleTrack } from '../src/assemble-track';
import { followDirection, untilGivenUp } from '../src/follow';
import { probe } from '../../media/src/probe';
import { Fill, placeOf } from '../src/fill';
import { followSetup, parseScreen, solveIdentity } from '../src/screen-file';
import { parseTrack } from '../src/track-file';
import { writeWhole } from '../src/write-whole';

const PIN: Quad = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
const scene: SceneOptions = {
  width: 420,
  height: 300,
  pin: PIN,
  homography: (n) => moved(PIN, { x: 2 * (n - 5) }),
  texture: waves(5),
  background: waves(9),
  noise: 2,
};
const screen = parseScreen({ format: 'yarlop-screen', version: 1, name: 's', referenceFrame: 5, pin: PIN });
function port(o: SceneOptions, frames: number, blank: (n: number) => boolean = () => false): FramePort {
  return {
    width: o.width,
    frameCount: frames,
    read: async (n) =>
      blank(n)
        ? { width: o.width, height: o.height, data: new Uint8Array(o.width * o.height).fill(90) }
        : renderScene(o, n),
  };
}
async function both(frames: FramePort, from: number, to: number): Promise<FrameResult[]> {
  const setup = followSetup(screen, { width: 420, height: 300, frameCount: frames.frameCount });
  const out: FrameResult[] = [];
  for (const end of [to, from])
    for await (const s of followDirection({ setup, referenceFrame: 5, end }, frames)) out.push(s.result);
  return out;
}
const setup = followSetup(screen, { width: 420, height: 300, frameCount: 20 });
const shot = { setup, referenceFrame: 5, width: 420 };
describe('a followed shot', () => {
  it('holds every frame in order, both ways from the reference', async () => {
    const t = assembleTrack(await both(port(scene, 12), 0, 11), { ...shot, from: 0, to: 11 });
    expect(t.stopped).toBeNull();
    expect(t.frames.map((f) => f.frame)).toEqual([...Array(12).keys()]);
    for (const f of t.frames)
      mapQuad(scene.homography(f.frame), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(0.06),
      );
  });
  it('bridges what was covered and found again, with no evidence and an honest sigma', async () => {
    const t = assembleTrack(
      await both(
        port(scene, 14, (n) => n >= 7 && n <= 9),
        5,
        13,
      ),
      { ...shot, from: 5, to: 13 },
    );
    expect(t.stopped).toBeNull();
    for (const n of [7, 8, 9]) {
      const f = t.frames.find((x) => x.frame === n)!;
      expect(f).toMatchObject({ trust: 0, evidence: {} });
      mapQuad(scene.homography(n), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(2 * f.sigma[i]!),
      );
    }
  });
  it('looks at lost frames again from where the screen was found, and a run taken up before that does the same', async () => {
    // Covered, moved meanwhile, and mostly covered still when it comes back.
    const jumped: SceneOptions = {
      ...scene,
      homography: (n) => moved(PIN, { x: 2 * (n - 5) + (n > 7 ? 70 : 0), y: n > 7 ? 30 : 0 }),
      covers: (n) => {
        if (n === 7 || n === 8)
          return [
            [
              [0, 0],
              [420, 0],
              [420, 300],
              [0, 300],
            ],
          ];
        if (n === 9 || n === 10)
          return [
            [
              [0, 0],
              [300, 0],
              [300, 300],
              [0, 300],
            ],
          ];
        return [];
      },
    };
    const run = { setup, referenceFrame: 5, end: 15 };
    const frames = port(jumped, 16);
    const steps: Step[] = [];
    const states = new Map<number, FollowerState>();
    for await (const s of followDirection(run, frames)) {
      steps.push(s);
      if (!s.again) states.set(s.result.frame, structuredClone(s.state()));
    }
    const lost = steps.filter((s) => !s.again && !s.result.homography).map((s) => s.result.frame);
    const again = steps.filter((s) => s.again);
    expect(lost).toEqual(expect.arrayContaining([9, 10]));
    expect(again.map((s) => s.result.frame)).toEqual([10, 9]);
    for (const { result } of again)
      mapQuad(jumped.homography(result.frame), PIN).forEach((p, i) =>
        expect(distance(p, mapQuad(result.homography!, PIN)[i]!)).toBeLessThan(0.3),
      );
    const before = steps[steps.indexOf(again[0]!) - 1]!.result.frame;
    const resumed: Step[] = [];
    for await (const s of followDirection(
      { ...run, checkpoint: { frame: before, state: states.get(before)! } },
      frames,
    ))
      resumed.push(s);
    expect(resumed.map((s) => s.result)).toEqual(steps.slice(steps.indexOf(again[0]!)).map((s) => s.result));
  });
  it('that is to halt ends with the first frame on which it cannot be vouched for', async () => {
    const frames = port(scene, 11, (n) => n >= 9);
    const found: FrameResult[] = [];
    for await (const s of followDirection({ setup: { ...setup, halts: true }, referenceFrame: 5, end: 15 }, frames))
      found.push(s.result);
    expect(found.map((r) => `${r.frame} ${r.homography !== null}`)).toEqual([
      '5 true',
      '6 true',
      '7 true',
      '8 true',
      '9 false',
    ]);
  });
  it('is given up, looking back, after three frames in a row that were not found, however many failed before', async () => {
    const seen = new Set([10, 7, 5, 1]);
    const asked: number[] = [];
    const found: number[] = [];
    const follow = async (frame: number): Promise<FrameResult> => {
      asked.push(frame);
      const nothing = notFound(frame, 0, 30, 'covered');
      return seen.has(frame) ? { ...nothing, homography: [1, 0, 0, 0, 1, 0, 0, 0, 1] } : nothing;
    };
    for await (const r of untilGivenUp([10, 9, 8, 7, 6, 5, 4, 3, 2, 1], follow)) found.push(r.frame);
    expect(found).toEqual([10, 7, 5]);
    expect(asked).toEqual([10, 9, 8, 7, 6, 5, 4, 3, 2]);
  });
  it('is cut where the screen was lost for good, and says the frame, the direction and the reason', async () => {
    const t = assembleTrack(
      await both(
        port(scene, 14, (n) => n >= 10 || n <= 1),
        0,
        13,
      ),
      { ...shot, from: 0, to: 13 },
    );
    expect(t.frames.map((f) => f.frame)).toEqual([2, 3, 4, 5, 6, 7, 8, 9]);
    expect(t.stopped).toMatchObject([
      { frame: 1, direction: 'backwards' },
      { frame: 10, direction: 'forwards' },
    ]);
    expect(t.stopped!.every((s) => s.reason.endsWith('.'))).toBe(true);
  });
  it('says interrupted where it was interrupted', async () => {
    const results = (await both(port(scene, 14), 5, 9)).filter((r) => r.frame <= 9);
    expect(assembleTrack(results, { ...shot, from: 5, to: 13, interrupted: true }).stopped).toEqual([
      { frame: 10, direction: 'forwards', reason: 'interrupted' },
    ]);
  });
  it("fails in the middle with the frame's own sentence, when a frame cannot be read", async () => {
    const broken: FramePort = {
      ...port(scene, 14),
      read: async (n) =>
        n === 8 ? Promise.reject(new Error('Frame 8 of the plate could not be read.')) : renderScene(scene, n),
    };
    await expect(both(broken, 5, 13)).rejects.toThrow('Frame 8 of the plate could not be read.');
  });
  it('of two frames is followed', async () => {
    const two = { ...scene, homography: (n: number) => moved(PIN, { x: n }) };
    const f = port(two, 2);
    const out: FrameResult[] = [];
    for await (const s of followDirection({ setup, referenceFrame: 0, end: 1 }, f)) out.push(s.result);
    expect(out.map((r) => r.homography !== null)).toEqual([true, true]);
  });
});

describe('a recipe', () => {
  it('asks for evidence that is there', () => {
    expect(() => followSetup({ ...screen, evidence: ['spots'] }, { width: 420, height: 300, frameCount: 9 })).toThrow(
      /evidence is spots alone, but the Screen has no spot; add spots/,
    );
    expect(() =>
      followSetup({ ...screen, presence: [{ from: 6, to: 8 }] }, { width: 420, height: 300, frameCount: 9 }),
    ).toThrow(/presence leaves out the reference frame 5/);
    expect(
      followSetup({ ...screen, evidence: ['edges'] }, { width: 420, height: 300, frameCount: 9 }).evidence,
    ).toEqual(['edges']);
    expect(() => followSetup(screen, { width: 420, height: 300, frameCount: 5 })).toThrow(
      /referenceFrame is 5, but the plate has frames 0 to 4/,
    );
  });
  it('gives a solve its identity by what the solve used, and by nothing else', () => {
    const identity = (own: typeof screen, plate: string): string => solveIdentity({ screen: own, first: null }, plate);
    const same = identity({ ...screen, name: 'other', fill: { media: 'a'.repeat(64) } }, 'p');
    expect(identity(screen, 'p')).toBe(same);
    for (const other of [
      { motion: 'affine' as const },
      { density: 'many' as const },
      { referenceFrame: 6 },
      {
        patches: [
          {
            kind: 'ignore' as const,
            points: [
              [0, 0],
              [9, 0],
              [9, 9],
            ] as [[number, number], [number, number], [number, number]],
          },
        ],
      },
    ])
      expect(identity({ ...screen, ...other }, 'p')).not.toBe(same);
    expect(identity(screen, 'q')).not.toBe(same);
  });
});

describe('files', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'yarlop-pipeline-'));
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));
  it('are written whole or not at all', async () => {
    await writeWhole(join(folder, 'a/b.txt'), 'whole');
    expect(await readdir(join(folder, 'a'))).toEqual(['b.txt']);
    await writeFile(join(folder, 'wall'), '');
    await expect(writeWhole(join(folder, 'wall/x.txt'), 'x')).rejects.toThrow();
    expect(await readdir(folder)).toEqual(['a', 'wall']);
  });
  it('of tracks with missing or doubled frames are refused with the row', () => {
    const f = (frame: number) => ({
      frame,
      corners: PIN,
      homography: [1, 0, 0, 0, 1, 0, 0, 0, 1],
      sigma: [0, 0, 0, 0],
      trust: 1,
      evidence: {},
    });
    const file = (frames: object[], referenceFrame = 0) => ({
      format: 'yarlop-track',
      version: 1,
      plate: { name: 'p', width: 9, height: 9, frameRate: [24, 1], firstFrame: 0, frameCount: 3 },
      coordinates: '',
      screens: [{ name: 's', referenceFrame, stopped: null, frames }],
    });
    expect(() => parseTrack(file([f(0), f(2)]), 't.json')).toThrow(/row 2: frame 2 stands where 1 belongs/);
    expect(() => parseTrack(file([f(0), f(0)]), 't.json')).toThrow(/row 2: frame 0/);
    expect(() => parseTrack(file([f(0)], 7), 't.json')).toThrow(/no row for its reference frame 7/);
    expect(() => parseTrack({ ...file([f(0)]), extra: 1 }, 't.json')).toThrow(/unknown member "extra"/);
  });
  it('a clip as fill plays from the first frame and holds its last picture', async () => {
    await makeClip({
      frames: 3,
      width: 64,
      height: 48,
      code: (n) => (n === 2 ? 1023 : 0),
      args: ['-c:v', 'ffv1', join(folder, 'fill.mkv')],
    });
    const source = await openSource(join(folder, 'fill.mkv'));
    const fill = await Fill.open(
      { media: placeOf(source), foreground: null, table: null },
      { ...screen, fill: { media: 'a'.repeat(64), rate: 'frames' } },
    );
    const plate = await probe(source);
    const lit = async (n: number): Promise<number> => (await fill.on(n, plate))[0]!.data[(8 * 64 + 8) * 4]!;
    expect(await lit(0)).toBeLessThan(0.1);
    expect(await lit(2)).toBeGreaterThan(0.7);
    expect(await lit(50)).toBeGreaterThan(0.7);
    await fill.close();
  });
});
