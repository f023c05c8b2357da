import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { SecondLook } from '../src/follow/frame/second-look';
import { FollowerMemory } from '../src/follow/memory';
import type { FrameResult } from '../src/solve/frame-result';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { DARK, GLASS, SETUP, around, device } from './builders/device';
import type { SceneOptions } from './builders/scene';
import { renderScene } from './builders/scene';

/** px a frame to the right. */
const SPEED = 1;
const at = (n: number): Quad => GLASS.map(([x, y]): Point => [x + SPEED * n, y]) as unknown as Quad;
/** Somebody before all of the Screen but a strip at its left and half of its lower side. */
const passer = (from: number): readonly Point[] => [
  [from, 0],
  [420, 0],
  [420, 300],
  [from, 300],
];
const PASSES = [6, 7, 8, 9, 10];
const isPassing = (n: number): boolean => PASSES.includes(n);
const slow: Partial<SceneOptions> = {
  homography: (n) => [1, 0, SPEED * n, 0, 1, 0, 0, 0, 1],
  covers: (n) => (isPassing(n) ? [passer(170)] : []),
};

function followed(scene: SceneOptions, last: number, setup = SETUP): FrameResult[] {
  const follower = new Follower(setup, 0, renderScene(scene, 0));
  return Array.from({ length: last }, (_, i) => follower.step(i + 1, renderScene(scene, i + 1)));
}

const off = (r: FrameResult): number => farthest(mapQuad(r.homography!, GLASS), at(r.frame));

describe('dark glass before which somebody passes', () => {
  const results = followed(device(DARK, slow), 14);
  const covered = results.filter((r) => isPassing(r.frame));
  it('is held where the sides that show, and its movement, have it', () => {
    for (const r of covered) {
      expect(r.homography, `frame ${r.frame}`).not.toBeNull();
      expect(off(r), `frame ${r.frame}`).toBeLessThan(2.5);
    }
  });
  it('is doubted there, the more the longer', () => {
    const sigma = covered.map((r) => Math.max(...r.sigma));
    for (const r of covered) expect(r.trust).toBeLessThan(0.7);
    expect(sigma.at(-1)).toBeGreaterThan(1.3 * sigma[0]!);
    for (const r of covered) expect(off(r)).toBeLessThan(3 * Math.max(...r.sigma));
  });
  it('is taken up again as soon as it is seen', () => {
    for (const r of results.filter((q) => q.frame > PASSES.at(-1)! + 1)) {
      expect(off(r)).toBeLessThan(0.3);
      expect(r.trust).toBeGreaterThan(0.9);
    }
  });
});

describe('a stretch in which somebody passes, between frames that are known', () => {
  const scene = device(DARK, slow);
  const [first, last] = [PASSES[0]!, PASSES.at(-1)!];
  /** What a second look makes of the stretch. @param found as it was found at first, and how surely */
  function looked(found: (n: number) => Quad | null, trust: number, setup = SETUP): FrameResult[] {
    const memory = new FollowerMemory(setup, 0, renderScene(scene, 0));
    const placed = (n: number): { frame: number; corners: Quad } => ({ frame: n, corners: at(n) });
    const second = new SecondLook(
      {
        before: [first - 2, first - 1].map(placed),
        beyond: [last + 1, last + 2].map(placed),
        doubtful: PASSES.map((frame) => ({ frame, corners: found(frame), trust })),
      },
      setup,
      (n) => memory.contextOf(n, []),
    );
    return second.frames.flatMap((n) => second.at(n, renderScene(scene, n)) ?? []);
  }
  /** A side on its neighbour's line. */
  const aside = (n: number): Quad => [
    at(n)[0],
    [at(n)[1][0] + 14, at(n)[1][1]],
    [at(n)[2][0] + 14, at(n)[2][1]],
    at(n)[3],
  ];
  it.each([
    ['was lost', () => null],
    ['was taken for want of anything better', aside],
  ])('is held by what shows where both ends have it, where it %s', (_, found) => {
    const results = looked(found, 0.02);
    expect(results.map((r) => r.frame).sort((a, b) => a - b)).toEqual(PASSES);
    for (const r of results) {
      expect(off(r), `frame ${r.frame}`).toBeLessThan(1);
      expect(off(r), `frame ${r.frame}`).toBeLessThan(3 * Math.max(...r.sigma));
      expect(r.trust).toBeLessThan(0.9);
    }
    // What was held beside a frame is in doubt itself: the middle of the stretch more than its ends.
    const sigma = new Map(results.map((r) => [r.frame, Math.max(...r.sigma)]));
    expect(sigma.get(8)!).toBeGreaterThan(sigma.get(first)!);
  });
  it('stays as it was where that was not so bad, and where a run is to halt', () => {
    expect(looked(aside, 0.4)).toEqual([]);
    expect(looked(() => null, 0, { ...SETUP, halts: true })).toEqual([]);
  });
});

describe('a run that halts where it cannot vouch for a frame', () => {
  it('has a frame of which too little shows as lost', () => {
    const results = followed(device(DARK, slow), PASSES[0]!, { ...SETUP, halts: true });
    expect(results.at(-1)!.homography).toBeNull();
  });
});

describe('a Screen of which nothing shows', () => {
  it('is lost, and not held', () => {
    const scene = device(DARK, { ...slow, covers: (n) => (isPassing(n) ? [around(60)] : []) });
    for (const r of followed(scene, 9).filter((q) => isPassing(q.frame))) expect(r.homography).toBeNull();
  });
});
