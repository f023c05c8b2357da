import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { FollowerMemory } from '../src/follow/memory';
import { SecondLook } from '../src/follow/second-look';
import { hypotheses } from '../src/follow/hypotheses';
import { solveFrame } from '../src/follow/solve-frame';
import type { Stretch } from '../src/follow/stretch';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { GLASS, SETUP, around, device } from './builders/device';
import { renderScene, waves } from './builders/scene';

/** px a frame to the right. */
const SPEED = 3;
const scene = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 });
const luma = (n: number): ReturnType<typeof renderScene> => renderScene(scene, n);
const at = (n: number, x = 0, y = 0): Quad =>
  GLASS.map(([px, py]): Point => [px + SPEED * n + x, py + y]) as unknown as Quad;
const placed = (n: number): { frame: number; corners: Quad } => ({ frame: n, corners: at(n) });

/** Frames 3 to 5 between ones that are known, as they were found before. */
function stretch(first: (n: number) => Quad | null, trust: number): Stretch {
  return {
    before: [1, 2].map(placed),
    beyond: [6, 7].map(placed),
    doubtful: [3, 4, 5].map((frame) => ({ frame, corners: first(frame), trust })),
  };
}

function look(first: (n: number) => Quad | null, picture = luma, trust = 0.4): Map<number, Quad | null> {
  const memory = new FollowerMemory(SETUP, 0, luma(0));
  const second = new SecondLook(stretch(first, trust), SETUP, (n) => memory.contextOf(n, []));
  return new Map(
    second.frames.map((n) => {
      const result = second.at(n, picture(n));
      return [n, result && mapQuad(result.homography!, GLASS)];
    }),
  );
}

describe('a second look at doubtful frames', () => {
  it('leaves what was right', () => {
    expect([...look((n) => at(n), luma, 0.99).values()]).toEqual([null, null, null]);
  });
  it('tells more surely what was right and doubted', () => {
    for (const [n, corners] of look((k) => at(k, 0.2))) expect(farthest(corners!, at(n))).toBeLessThan(0.15);
  });
  it.each([
    ['what was lost', () => null],
    ['what lay elsewhere', (n: number) => at(n, 9, -7)],
  ])('puts right %s', (_, first) => {
    const found = look(first);
    expect([...found.keys()].sort()).toEqual([3, 4, 5]);
    for (const [n, corners] of found) expect(farthest(corners!, at(n))).toBeLessThan(0.3);
  });
  it('finds nothing where nothing of the Screen is to be seen', () => {
    const bare = { ...scene, covers: () => [around(60)] };
    expect([
      ...look(
        () => null,
        (n) => renderScene(bare, n),
      ).values(),
    ]).toEqual([null, null, null]);
  });
  it('comes once, when three frames beyond the doubtful ones are sure', () => {
    const covered = { ...scene, covers: (n: number) => (n === 3 || n === 4 ? [around(60)] : []) };
    const follower = new Follower(SETUP, 0, luma(0));
    const looks = Array.from({ length: 9 }, (_, i) => {
      follower.step(i + 1, renderScene(covered, i + 1));
      return follower.takeStretch(false)?.frames ?? [];
    });
    const told = looks.flatMap((frames, i) => (frames.length > 0 ? [{ on: i + 1, frames }] : []));
    expect(told).toHaveLength(1);
    expect(told[0]!.frames).toEqual(expect.arrayContaining([3, 4]));
    expect(told[0]!.on).toBeGreaterThan(6);
  });
});

describe('solving a frame', () => {
  it('changes nothing that is remembered, and comes to the same each time', () => {
    const memory = new FollowerMemory(SETUP, 0, luma(0));
    const before = JSON.stringify(memory.state);
    const c = memory.contextOf(1, []);
    const solved = [1, 2].map(() => {
      const [first] = hypotheses({ ...c, luma: luma(1), smear: 0 });
      return solveFrame(c, first!)!.homography;
    });
    expect(solved[0]).toEqual(solved[1]);
    expect(farthest(mapQuad(solved[0]!, GLASS), at(1))).toBeLessThan(0.2);
    expect(JSON.stringify(memory.state)).toBe(before);
  });
  it('is not gone into again from a start that leads where an earlier one led', () => {
    const memory = new FollowerMemory(SETUP, 0, luma(0));
    const c = memory.contextOf(1, []);
    const [first] = hypotheses({ ...c, luma: luma(1), smear: 0 });
    const { first: edges } = solveFrame(c, first!)!;
    const fine = { ...first!, coarsest: 1 };
    const tried = [{ edges: edges!, coarsest: 1 }];
    expect(solveFrame(c, fine, tried)).toBeNull();
    // A picture that is to be looked for more widely, or without smear, may come to something else.
    expect(solveFrame(c, { ...fine, coarsest: 2 }, tried)).not.toBeNull();
    expect(solveFrame(c, { ...fine, stopped: true }, tried)).not.toBeNull();
    const elsewhere = [{ edges: at(1, 5), coarsest: Infinity }];
    expect(solveFrame(c, first!, elsewhere)).not.toBeNull();
  });
  it('does not hold what covers a side against the others', () => {
    const [, topRight, bottomRight] = GLASS;
    const passer: Point[] = [
      [topRight[0] - 12, topRight[1] - 40],
      [topRight[0] + 60, topRight[1] - 40],
      [bottomRight[0] + 60, bottomRight[1] + 40],
      [bottomRight[0] - 12, bottomRight[1] + 40],
    ];
    const bright = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 200, behind: 90 });
    const memory = new FollowerMemory(SETUP, 0, renderScene(bright, 0));
    const c = memory.contextOf(1, []);
    const [first] = hypotheses({ ...c, luma: renderScene({ ...bright, covers: () => [passer] }, 1), smear: 0 });
    const found = solveFrame(c, first!)!;
    expect(found.edges!.sides).toBe(3);
    expect(found.misfit).toBeLessThan(1.5);
  });
});
