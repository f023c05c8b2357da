import { describe, expect, it } from 'vitest';
import { updateSpread } from '../src/follow/edges/edge-solver';
import { nearHypotheses } from '../src/follow/frame/hypotheses';
import { FollowerMemory } from '../src/follow/memory';
import { isCarried, pictureAsJudge } from '../src/follow/evidence/picture-judge';
import { solveFrame } from '../src/follow/frame/solve-frame';
import type { Found } from '../src/follow/evidence/verdict';
import { multiply } from '../src/geometry/matrix3';
import { farthest, mapQuad } from '../src/geometry/quad';
import { GLASS, SETUP, device } from './builders/device';
import { renderScene, waves } from './builders/scene';

const scene = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 });
const memory = new FollowerMemory(SETUP, 0, renderScene(scene, 0));
const context = memory.contextOf(1, []);
const found = ((): Found => {
  for (const h of nearHypotheses({ ...context, luma: renderScene(scene, 1), smear: 0 })) {
    const f = solveFrame(context, h);
    if (f?.alignment && f.edges) return f;
  }
  throw new Error('Nothing was found.');
})();

describe('a picture that agrees as a whole', () => {
  it('knows the plane by itself', () => {
    const judge = pictureAsJudge(found, 1)!;
    expect(judge.sigma).toBeLessThan(0.3);
    expect(farthest(mapQuad(judge.homography, GLASS), mapQuad(scene.homography(1), GLASS))).toBeLessThan(0.3);
  });
  it('judges nothing where little of it agrees, or where it hardly knows the corners', () => {
    const { alignment } = found;
    expect(pictureAsJudge({ ...found, alignment: null }, 1)).toBeNull();
    expect(pictureAsJudge({ ...found, alignment: { ...alignment!, support: 0.5 } }, 1)).toBeNull();
    expect(pictureAsJudge({ ...found, alignment: { ...alignment!, agreeing: 12 } }, 1)).toBeNull();
    const alone = () => ({ ...alignment!.alone()!, sigma: [0.1, 0.1, 0.1, 2] });
    expect(pictureAsJudge({ ...found, alignment: { ...alignment!, alone } }, 1)).toBeNull();
  });
});

describe('edges that a picture judges', () => {
  const { rails } = context.sight;
  const isFound = (rail: number): boolean => found.edges!.hits.some((q) => q.rail === rail);
  /** Spread of the sides' own rails after five frames on which the picture has all so many px to the right. */
  function spreadWith(right: number, most: number): { upright: number[]; level: number[] } {
    const spread = context.sight.railSpread.slice();
    const homography = multiply([1, 0, right, 0, 1, 0, 0, 0, 1], scene.homography(1));
    const judges = { plane: found.homography, judgesGlass: true, pin: GLASS, motion: 'perspective' as const };
    for (let i = 0; i < 5; i++)
      updateSpread(spread, rails, found.edges!, { ...judges, picture: { homography, sigma: 0.05, most } });
    const own = (sides: readonly number[]): number[] =>
      [...spread].filter((_, k) => rails[k]!.inner && sides.includes(rails[k]!.side) && isFound(k));
    return { upright: own([1, 3]), level: own([0, 2]) };
  }
  it('are doubted by as much as they lie beside its plane', () => {
    const { upright, level } = spreadWith(1, 3);
    expect(Math.min(...upright)).toBeGreaterThan(0.5);
    expect(Math.max(...level)).toBeLessThan(0.2);
  });
  it('of the pin are not judged by a frame that was taken by too little', () => {
    const beside = multiply([1, 0, 1, 0, 1, 0, 0, 0, 1], found.homography);
    const after = (judgesGlass: boolean): number => {
      const spread = context.sight.railSpread.slice();
      for (let i = 0; i < 5; i++)
        updateSpread(spread, rails, found.edges!, {
          ...{ plane: beside, judgesGlass, picture: null, pin: GLASS, motion: 'perspective' },
        });
      return Math.max(...[...spread].filter((_, k) => rails[k]!.inner && rails[k]!.side % 2 === 1 && isFound(k)));
    };
    expect(after(true)).toBeGreaterThan(0.5);
    expect(after(false)).toBe(
      Math.max(
        ...[...context.sight.railSpread].filter((_, k) => rails[k]!.inner && rails[k]!.side % 2 === 1 && isFound(k)),
      ),
    );
    expect(isCarried(found)).toBe(true);
    expect(isCarried({ alignment: { ...found.alignment!, agreeing: 12 } })).toBe(false);
    expect(isCarried({ alignment: null })).toBe(false);
  });
  it('are believed where they fit it, and where it lies so far off that it may have moved on the screen', () => {
    expect(Math.max(...spreadWith(0, 3).upright)).toBeLessThan(0.2);
    expect(Math.max(...spreadWith(5, 3).upright)).toBeLessThan(0.3);
  });
});
