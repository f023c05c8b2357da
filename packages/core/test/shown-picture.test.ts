/** Pictures that a Screen shows in turn: claims about what is remembered of them, and shots that light up and cut. */
import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { hasChanged } from '../src/follow/frame/shown-picture';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import { Remembered } from '../src/follow/memory/remembered';
import type { KeyPicture } from '../src/follow/picture/key-pictures';
import type { Point } from '../src/geometry/point';
import { insidePolygon } from '../src/geometry/polygon';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { grownPin } from '../src/pin/inset';
import type { FrameResult } from '../src/solve/frame-result';
import type { SceneOptions } from './builders/scene';
import { moved, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
describe('whether the glass shows something else', () => {
  const dark = new Array<number>(40).fill(20);
  const lit = (share: number, by: number): number[] => dark.map((v, i) => (i < share * 40 ? v + by : v));
  it('is told by how many places change by how much', () => {
    expect(hasChanged(dark, lit(0.5, 60))).toBe(true);
    expect(hasChanged(lit(0.5, 60), dark)).toBe(true);
    expect(hasChanged(dark, lit(0.1, 60))).toBe(false);
    expect(hasChanged(dark, lit(1, 8))).toBe(false);
  });
  it('is not told where nothing was seen before, or hardly any of it is', () => {
    expect(hasChanged(null, dark)).toBe(false);
    expect(
      hasChanged(
        dark,
        lit(1, 90).map((v, i) => (i % 8 ? null : v)),
      ),
    ).toBe(false);
    expect(
      hasChanged(
        dark,
        lit(1, 90).map((v, i) => (i % 2 ? null : v)),
      ),
    ).toBe(true);
  });
});

describe('what is remembered', () => {
  const at: Point = [200, 150];
  const luma = renderScene(
    {
      width: 8,
      height: 8,
      pin: [
        [0, 0],
        [8, 0],
        [8, 8],
        [0, 8],
      ],
      homography: () =>
        moved(
          [
            [0, 0],
            [8, 0],
            [8, 8],
            [0, 8],
          ],
          {},
        ),
    },
    0,
  );
  const frameOf = (frame: number, scale = 1) => ({
    ...{ frame, luma, homography: [scale, 0, 0, 0, scale, 0, 0, 0, 1], kept: { sigma: [1, 1, 1, 1], velocity: [] } },
  });
  function remembered(reference: number): Remembered {
    const all = new Remembered(
      ({ frame, homography, kept }) =>
        ({ frame, homography, ...kept, picture: kept.picture ?? 0 }) as unknown as KeyPicture,
    );
    all.add(frameOf(reference));
    return all;
  }
  it('is shown from a frame on, away from the reference in either direction', () => {
    for (const way of [1, -1]) {
      const all = remembered(50);
      all.showNew(50 + 4 * way, frameOf(50 + 6 * way));
      all.show({ from: 50 + 9 * way, picture: 0 });
      expect([0, 3, 4, 8, 9, 20].map((n) => all.shownOn(50 + n * way))).toEqual([0, 0, 1, 1, 0, 0]);
    }
  });
  it('is looked up among the views of its own picture', () => {
    const all = remembered(0);
    all.showNew(4, frameOf(5));
    all.addView(frameOf(6, 1.05), at);
    all.addView(frameOf(7, 2), at);
    expect(all.keys.map((k) => [k.frame, k.picture])).toEqual([
      [0, 0],
      [5, 1],
      [7, 1],
    ]);
    const near = frameOf(9, 1.9).homography;
    expect(all.viewFor(near, at, 1).frame).toBe(7);
    expect(all.viewFor(near, at, 0).frame).toBe(0);
  });
  it('is known the better where it lies the more frames tell of it', () => {
    const all = remembered(0);
    all.showNew(4, frameOf(5));
    const seen = PIN.map(([x, y]): Point => [x + 3, y]) as unknown as Quad;
    for (let n = 0; n < 400; n++) all.refine(all.keys[1]!, PIN, seen, [0.5, 0.5, 0.5, 2]);
    const { homography, sigma } = all.keys[1]!;
    expect(farthest(mapQuad(homography, PIN), seen)).toBeLessThan(0.15);
    expect(sigma[0]!).toBeLessThan(0.1);
    expect(sigma[3]!).toBeGreaterThan(3 * sigma[0]!);
    expect(all.keys[0]!.sigma).toEqual([1, 1, 1, 1]);
  });
  it('is forgotten once it is the oldest of too many, but for the reference', () => {
    const all = remembered(0);
    for (let n = 1; n < 9; n++) all.showNew(n, frameOf(n));
    expect(all.keys.map((k) => k.frame)).toEqual([0, 4, 5, 6, 7, 8]);
    expect(all.shownOn(8)).toBe(8);
    // A picture that is forgotten is not looked for among others.
    expect(all.viewFor(frameOf(9).homography, at, 1).frame).toBe(0);
  });
});

const FIRST = waves(5, 4, 30);
const SECOND = waves(77, 4, 30);
const COVERED = 9;

/**
 * A bezel about glass that shows one picture or another, or none.
 * @param covered from that frame on everything but the glass's middle is covered
 */
function shot(pictureOn: (frame: number) => ((x: number, y: number) => number) | null, covered = Infinity) {
  const sceneOn = (n: number): SceneOptions => {
    const picture = pictureOn(n);
    const glass = (x: number, y: number): number => (picture ? 50 + 0.75 * picture(x, y) : 24);
    return {
      ...{ width: 420, height: 300, pin: grownPin(PIN, 12), background: waves(9), noise: 1.5 },
      homography: (k) => moved(PIN, { x: 2 * k, y: k, turn: 0.008 * k }),
      texture: (x, y) => (insidePolygon([x, y], PIN) ? glass(x, y) : 90),
      covers: (k) => (k < covered ? [] : coversOn(k)),
    };
  };
  const coversOn = (n: number): Point[][] => {
    const [x, y] = [2 * n, n];
    const box = (x0: number, y0: number, x1: number, y1: number): Point[] => [
      [x0 + x, y0 + y],
      [x1 + x, y0 + y],
      [x1 + x, y1 + y],
      [x0 + x, y1 + y],
    ];
    return [box(90, 60, 330, 110), box(90, 190, 330, 240), box(90, 60, 145, 240), box(275, 60, 330, 240)];
  };
  const read = (n: number): RawLuma => renderScene(sceneOn(n), n);
  const off = (r: FrameResult): number =>
    farthest(mapQuad(r.homography!, PIN), mapQuad(sceneOn(r.frame).homography(r.frame), PIN));
  return { read, off };
}

const setup: FollowSetup = {
  ...{ pin: PIN, patches: [], motion: 'perspective', density: 'usual', evidence: ['texture', 'edges'] },
};
function follow({ read }: ReturnType<typeof shot>, last: number) {
  const follower = new Follower(setup, 0, read(0));
  return { follower, results: Array.from({ length: last }, (_, i) => follower.step(i + 1, read(i + 1))) };
}
const byPicture = (r: FrameResult): boolean => (r.evidence['texture'] ?? 0) > 0.2;

describe('a Screen that lights up', () => {
  const lit = shot((n) => (n < 5 ? null : FIRST), COVERED);
  const { results, follower } = follow(lit, 13);
  it('is followed by what it shows then, and held by that where its sides are covered', () => {
    expect(results.slice(0, 4).some(byPicture)).toBe(false);
    expect(results.slice(5).every(byPicture)).toBe(true);
    for (const r of results) expect(lit.off(r)).toBeLessThan(1);
  });
  it('goes on as it would have from a stored state', async () => {
    const other = new Follower(setup, 0, lit.read(0));
    await other.resume(JSON.parse(JSON.stringify(follower.state)) as typeof follower.state, async (n) => lit.read(n));
    const { cells: _a, ...next } = follower.step(14, lit.read(14));
    const { cells: _b, ...same } = other.step(14, lit.read(14));
    expect(same).toEqual(next);
  });
});

describe('a Screen that cuts to another picture and back', () => {
  const cuts = shot((n) => (n > 3 && n < 7 ? SECOND : FIRST));
  const { results, follower } = follow(cuts, 12);
  it('is followed by both, and the first is known again', () => {
    expect(results.filter((r) => r.frame > 5 && r.frame < 7).every(byPicture)).toBe(true);
    expect(results.filter((r) => r.frame > 7).every(byPicture)).toBe(true);
    for (const r of results) expect(cuts.off(r)).toBeLessThan(1);
    expect(follower.state.spans).toEqual([
      { from: 4, picture: 1 },
      { from: 7, picture: 0 },
    ]);
  });
});
