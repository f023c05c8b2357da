/** A run over sections that are followed with settings of their own. */
import { describe, expect, it } from 'vitest';
import type { FollowSection } from '../../core/src/follow/memory/follower-state';
import { followedFirst, sectionOn, setupsOf } from '../../core/src/follow/memory/sections';
import type { Quad } from '../../core/src/geometry/quad';
import { insidePolygon } from '../../core/src/geometry/polygon';
import { farthest, mapQuad } from '../../core/src/geometry/quad';
import { grownPin } from '../../core/src/pin/inset';
import type { SceneOptions } from '../../core/test/builders/scene';
import { moved, renderScene, waves } from '../../core/test/builders/scene';
import type { FrameResult } from '../../core/src/solve/frame-result';
import type { FramePort } from '../src/frame-port';
import { followDirection } from '../src/follow';
import { followShot } from '../src/follow-shot';
import { followSetup, parseScreen, solveIdentity } from '../src/screen-file';
import { partsOf } from '../src/sections';
import { steadiedStretches } from '../src/steadied';

const PIN: Quad = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
const picture = waves(5);
const scene: SceneOptions = {
  width: 420,
  height: 300,
  pin: grownPin(PIN, 12),
  homography: (n) => moved(PIN, { x: 3 * (n - 3), y: n - 3, turn: 0.01 * (n - 3) }),
  // A black bezel about the glass.
  texture: (x, y) => (insidePolygon([x, y], PIN) ? 60 + 0.75 * picture(x, y) : 16),
  background: waves(9),
  noise: 2,
};
const SIZE = { width: 420, height: 300 };
const FRAMES = 12;
const frames: FramePort = { width: 420, frameCount: FRAMES, read: async (n) => renderScene(scene, n) };
const recipe = { format: 'yarlop-screen', version: 1, name: 's', referenceFrame: 3, pin: PIN };
const setupWith = (own: object): ReturnType<typeof followSetup> =>
  followSetup(parseScreen({ ...recipe, ...own }), { ...SIZE, frameCount: FRAMES });
async function onwards(own: object): Promise<FrameResult[]> {
  const out: FrameResult[] = [];
  for await (const s of followDirection({ setup: setupWith(own), referenceFrame: 3, end: FRAMES - 1 }, frames))
    if (!s.again) out.push(s.result);
  return out;
}
const off = (r: FrameResult): number => farthest(mapQuad(r.homography!, PIN), mapQuad(scene.homography(r.frame), PIN));

describe('a direction over sections', () => {
  it('follows each with its own settings, and what lies before one as if there were none', async () => {
    const plain = await onwards({});
    const cut = await onwards({ sections: [{ from: 7, to: 9, evidence: ['edges'] }] });
    expect(cut.slice(0, 4)).toEqual(plain.slice(0, 4));
    const texture = cut.map((r) => [r.frame, (r.evidence['texture'] ?? 0) > 0]);
    expect(texture.slice(1)).toEqual([4, 5, 6, 7, 8, 9, 10, 11].map((n) => [n, n < 7 || n > 9]));
    for (const r of cut) expect(off(r)).toBeLessThan(0.5);
  });
  it('says which section cannot be followed, and why', async () => {
    const blank = [
      [125, 79],
      [290, 79],
      [290, 88],
    ];
    const patches = [{ kind: 'follow', points: blank }];
    await expect(onwards({ sections: [{ from: 6, to: 9, patches, evidence: ['texture'] }] })).rejects.toThrow(
      /^From frame 6 on: .* follow patch/,
    );
  });
  it('reads its frames as it says, the reference frame too', async () => {
    // From frame 7 on the screen's picture is seen in red alone; in luma another one comes up.
    const other = waves(31);
    const changed = { ...scene, texture: (x: number, y: number) => (insidePolygon([x, y], PIN) ? other(x, y) : 16) };
    const negative = { ...scene, texture: (x: number, y: number) => 255 - scene.texture!(x, y) };
    const asked = new Set<string>();
    const port: FramePort = {
      ...frames,
      read: async (n) => renderScene(n < 7 ? scene : changed, n),
      as: (reading) => {
        asked.add(reading);
        return { ...frames, read: async (n) => renderScene(negative, n) };
      },
    };
    const of = async (own: object): Promise<FrameResult[]> => {
      const out: FrameResult[] = [];
      const run = { setup: setupWith({ evidence: ['texture'], ...own }), referenceFrame: 3, end: FRAMES - 1 };
      for await (const s of followDirection(run, port)) if (!s.again) out.push(s.result);
      return out;
    };
    const isNear = (r: FrameResult): boolean => r.homography !== null && off(r) < 0.3 && r.trust > 0.3;
    expect((await of({ sections: [{ from: 7, to: 11, reading: 'red' }] })).every(isNear)).toBe(true);
    expect([...asked]).toEqual(['red']);
    expect((await of({})).filter((r) => r.frame >= 7).some(isNear)).toBe(false);
  });
  it('goes on with what the one before knew of the camera', async () => {
    let views = 0;
    const own = setupWith({ sections: [{ from: 7, to: 11, motion: 'perspective', density: 'many' }] });
    for await (const s of followDirection({ setup: own, referenceFrame: 3, end: 7 }, frames))
      views = s.state().shutter.frames + s.state().views.length;
    expect(views).toBeGreaterThan(1);
  });
});

describe('a second run on the steadied plate', () => {
  it('finds the whole movement, where the first had less freedom than was true', async () => {
    const own = setupWith({ motion: 'translation', sections: [{ from: 5, to: 11, motion: 'perspective', over: {} }] });
    const told: [number, boolean][] = [];
    const { results } = await followShot(
      {
        setup: own,
        referenceFrame: 3,
        ways: [{ direction: 'forwards', end: 11 }],
        follow: (run) => followDirection(run, frames),
        isWhole: true,
        steadied: steadiedStretches(own, 3, [0, 11]),
        isCancelled: () => false,
        ...SIZE,
      },
      ({ result, isSteadied }) => told.push([result.frame, isSteadied]),
    );
    const isSteadied = told.filter(([, is]) => is).map(([n]) => n);
    expect(isSteadied).toEqual([5, 6, 7, 8, 9, 10, 11]);
    for (const r of results.values()) if (r.frame > 4) expect(off(r)).toBeLessThan(0.2);
    expect(off(results.get(4)!)).toBeGreaterThan(0.3);
  });
  it('runs away from the reference on both sides of it', () => {
    const own = setupWith({ sections: [{ from: 1, to: 8, density: 'many', over: {} }] });
    expect(steadiedStretches(own, 3, [0, 6])).toEqual([
      { direction: 'forwards', first: 3, last: 6 },
      { direction: 'backwards', first: 2, last: 1 },
    ]);
    expect(steadiedStretches(own, 3, [9, 11])).toEqual([]);
  });
});

describe('a recipe with sections', () => {
  const screen = parseScreen({
    ...recipe,
    sections: [
      { from: 2, to: 4, motion: 'affine' },
      { from: 8, to: 9, lens: 'auto', over: { density: 'few' } },
    ],
    lens: 0.1,
  });
  it('has a part for every frame', () => {
    const parts = partsOf(screen).map(({ from, to, screen: own }) => [from, to, own.motion, own.lens]);
    expect(parts).toEqual([
      [0, 1, undefined, 0.1],
      [2, 4, 'affine', 0.1],
      [5, 7, undefined, 0.1],
      [8, 9, undefined, 'auto'],
      [10, Infinity, undefined, 0.1],
    ]);
  });
  it('has a solve of its own for each way of following, and the same for the same', () => {
    const [first, second, third, fourth] = partsOf(screen).map((p) => solveIdentity(p, 'p'));
    expect(third).toBe(first);
    expect(new Set([first, second, fourth]).size).toBe(3);
    const over = partsOf(screen)[3]!;
    expect(solveIdentity({ ...over, first: null }, 'p')).not.toBe(fourth);
  });
  it('tells the follower what differs, frame by frame', () => {
    const setup = followSetup(screen, { ...SIZE, frameCount: FRAMES });
    const on = setupsOf(setup);
    expect([1, 3, 8].map((n) => [on(n).motion, on(n).lens])).toEqual([
      ['perspective', 0.1],
      ['affine', 0.1],
      ['perspective', undefined],
    ]);
    expect(on(2)).toBe(on(4));
    const sections = setup.sections as readonly FollowSection[];
    expect(followedFirst(setup).sections!.map((s) => s.ways)).toEqual([sections[0]!.ways, { density: 'few' }]);
    expect(sectionOn(sections, 5)).toBeUndefined();
  });
});
