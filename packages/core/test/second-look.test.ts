import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { FollowerMemory } from '../src/follow/memory';
import { SecondLook } from '../src/follow/frame/second-look';
import { nearHypotheses } from '../src/follow/frame/hypotheses';
import { solveFrame } from '../src/follow/frame/solve-frame';
import type { Stretch } from '../src/follow/memory/stretch';
import type { ShutterMemory } from '../src/follow/timing/shutter';
import { NO_SHUTTER_MEMORY, shutterOf, shutterToRepeatWith, tellsShutter } from '../src/follow/timing/shutter';
import { quadToQuad } from '../src/geometry/homography';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { GLASS, SETUP, around, device } from './builders/device';
import { exposed, renderScene, waves } from './builders/scene';

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
      follower.closeStretch(false);
      return follower.takeStretch()?.frames ?? [];
    });
    const told = looks.flatMap((frames, i) => (frames.length > 0 ? [{ on: i + 1, frames }] : []));
    expect(told).toHaveLength(1);
    expect(told[0]!.frames).toEqual(expect.arrayContaining([3, 4]));
    expect(told[0]!.on).toBeGreaterThan(6);
  });
});

describe('a second look at frames that began to move and stopped again', () => {
  /** px to the right of where it stood, on each frame and between them. */
  const WAY = [0, 0, 0, 4, 14, 26, 36, 40, 40, 40, 40];
  const there = (t: number): number => {
    const n = Math.min(WAY.length - 2, Math.max(0, Math.floor(t)));
    return WAY[n]! + (t - n) * (WAY[n + 1]! - WAY[n]!);
  };
  const quad = (n: number, x = 0): Quad =>
    GLASS.map(([px, py]): Point => [px - 20 + there(n) + x, py]) as unknown as Quad;
  const still = { ...scene, homography: (n: number) => quadToQuad(GLASS, quad(n)) };
  /** A shutter that is open for a share of a frame's time, about it. */
  const smeared = (n: number, share = 0.5): ReturnType<typeof renderScene> =>
    exposed(Array.from({ length: 17 }, (_, k) => renderScene(still, n + (share * (k - 8)) / 16)));
  it('puts them where their smear tells, though what was found at first leads there too', () => {
    const pin = quad(0);
    const own = { ...SETUP, pin };
    const memory = new FollowerMemory(own, 0, smeared(0));
    const known = (n: number): { frame: number; corners: Quad } => ({ frame: n, corners: quad(n) });
    const doubtful = [3, 4, 5, 6, 7].map((frame) => ({
      frame,
      corners: quad(frame, frame % 2 ? 1.5 : -1.5),
      trust: 0.5,
    }));
    const all: Stretch = { before: [1, 2].map(known), beyond: [8, 9].map(known), doubtful };
    const second = new SecondLook(all, own, (n) => memory.contextOf(n, []));
    const off = second.frames.map((n) => {
      const result = second.at(n, smeared(n));
      return farthest(result ? mapQuad(result.homography!, pin) : quad(n, 1.5), quad(n));
    });
    expect(Math.max(...off)).toBeLessThan(0.5);
  });
});

describe('the shutter of frames between others', () => {
  /** px a frame to the right while it moves. */
  const FAST = 14;
  const to = (n: number): number => FAST * Math.min(6, Math.max(0, n - 2));
  const quad = (n: number, longer = 0): Quad =>
    GLASS.map(([px, py]): Point => [px - 40 + to(n) + (px > 200 ? longer : -longer), py]) as unknown as Quad;
  const moving = { ...scene, homography: (n: number) => quadToQuad(GLASS, quad(n)) };
  const pin = quad(0);
  const own = { ...SETUP, pin };
  const known = (n: number): { frame: number; corners: Quad } => ({ frame: n, corners: quad(n) });
  const open = (n: number, share: number): ReturnType<typeof renderScene> =>
    exposed(Array.from({ length: 17 }, (_, k) => renderScene(moving, n + (share * (k - 8)) / 16)));
  /** @param share of a frame's time that the shutter is open; half of it was taken for it, so that the Screen was found too long */
  function told(share: number): { memory: FollowerMemory; told: ShutterMemory } {
    const memory = new FollowerMemory(own, 0, open(0, share));
    const doubtful = [3, 4, 5, 6, 7].map((frame) => ({
      frame,
      corners: quad(frame, ((share - 0.5) / 2) * FAST),
      trust: 0.2,
    }));
    const second = new SecondLook({ before: [0, 1].map(known), beyond: [9, 10].map(known), doubtful }, own, (n) =>
      memory.contextOf(n, []),
    );
    return {
      memory,
      told: second.frames.reduce((m, n) => second.learnShutter(m, n, open(n, share)), NO_SHUTTER_MEMORY),
    };
  }
  const [short, long] = [0.3, 0.85].map(told);
  it.each([
    [0.3, short!],
    [0.85, long!],
  ])('is told by those that move fast, since its shape there is known: %f', (share, { memory, told: between }) => {
    expect(Math.abs(shutterOf(between)! - share)).toBeLessThan(0.1);
    memory.knowShutter(between);
    expect(memory.contextOf(4, []).shutter).toBe(shutterOf(between));
  });
  it('is worth following the shot again where it is another than the common one, and that run begins with it', () => {
    long!.memory.knowShutter(long!.told);
    const known = long!.memory.state.shutter;
    const common = { ...known, agreement: known.agreement.map((_, k) => (k === 2 ? 1 : 0.5)) };
    expect(shutterToRepeatWith([common])).toBeNull();
    expect(shutterToRepeatWith([{ ...known, isBetween: false }])).toBeNull();
    const again = shutterToRepeatWith([known, known])!;
    expect(again.frames).toBe(2 * known.frames);
    const next = new FollowerMemory({ ...own, shutter: again }, 0, open(0, 0.85));
    expect(next.contextOf(1, []).shutter).toBeCloseTo(shutterOf(known)!, 9);
  });
  it('is not told by frames that agree now with one smear and now with another, however many they are', () => {
    const told = (agreement: readonly number[], frames = 2) => tellsShutter({ agreement, frames, tries: frames });
    expect(told([0.98, 1.07, 0.95, 1.02, 1.02], 9)).toBe(false);
    expect(told([0.98, 1.07, 1.05, 1.02, 0.9])).toBe(true);
    expect(told([0.8, 0.85, 0.9, 0.95, 1])).toBe(true);
    expect(told([0.98, 1.07, 1.05, 1.02, 0.9], 1)).toBe(false);
    const memory = new FollowerMemory(own, 0, open(0, 0.5));
    memory.knowShutter({ agreement: [0.98, 1.07, 0.95, 1.02, 1.02], frames: 2, tries: 2 });
    expect(memory.knowsShutter).toBe(false);
  });
});

describe('solving a frame', () => {
  it('changes nothing that is remembered, and comes to the same each time', () => {
    const memory = new FollowerMemory(SETUP, 0, luma(0));
    const before = JSON.stringify(memory.state);
    const c = memory.contextOf(1, []);
    const solved = [1, 2].map(() => {
      const [first] = nearHypotheses({ ...c, luma: luma(1), smear: 0 });
      return solveFrame(c, first!)!.homography;
    });
    expect(solved[0]).toEqual(solved[1]);
    expect(farthest(mapQuad(solved[0]!, GLASS), at(1))).toBeLessThan(0.2);
    expect(JSON.stringify(memory.state)).toBe(before);
  });
  it('is not gone into again from a start that leads where an earlier one led', () => {
    const memory = new FollowerMemory(SETUP, 0, luma(0));
    const c = memory.contextOf(1, []);
    const [first] = nearHypotheses({ ...c, luma: luma(1), smear: 0 });
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
    const [first] = nearHypotheses({ ...c, luma: renderScene({ ...bright, covers: () => [passer] }, 1), smear: 0 });
    const found = solveFrame(c, first!)!;
    expect(found.edges!.sides).toBe(3);
    expect(found.misfit).toBeLessThan(1.5);
  });
});
