/** What is told of a frame that is taken knows what the evidence itself does not show. */
import { describe, expect, it } from 'vitest';
import { nearHypotheses } from '../src/follow/frame/hypotheses';
import { solveFrame } from '../src/follow/frame/solve-frame';
import { knownOf } from '../src/follow/frame/taken-result';
import { FollowerMemory } from '../src/follow/memory';
import type { Point } from '../src/geometry/point';
import { DARK, SETUP, device } from './builders/device';
import type { DeviceOptions } from './builders/device';
import { renderScene, waves } from './builders/scene';

/** Something before the whole right side. */
const HAND: readonly Point[] = [
  [200, 0],
  [420, 0],
  [420, 300],
  [260, 300],
];

/** Sigma per corner on frame 1, px. @param knows px by which the picture knows each corner by itself; its own word when left out */
function told(look: DeviceOptions, isCovered: boolean, knows?: number): { sides: number; sigma: readonly number[] } {
  const scene = device(look, { covers: () => (isCovered ? [HAND] : []) });
  const memory = new FollowerMemory(SETUP, 0, renderScene(scene, 0));
  const c = memory.contextOf(1, []);
  for (const h of nearHypotheses({ ...c, luma: renderScene(scene, 1), smear: 0 })) {
    const f = solveFrame(c, h);
    if (!f || f.reason) continue;
    const { alignment } = f;
    const alone =
      knows === undefined ? alignment?.alone : () => ({ ...alignment!.alone()!, sigma: Array(4).fill(knows) });
    return {
      sides: c.sight.sides,
      sigma: knownOf(c, { ...f, alignment: alignment && { ...alignment, alone: alone!, agreeing: 60, support: 0.9 } })
        .sigma,
    };
  }
  throw new Error('Nothing was found.');
}

describe('corners of a side that was covered on the reference frame', () => {
  /** px at 1920 wide, on a picture 420 wide. */
  const doubt = (0.6 * 420) / 1920;
  it('are doubted, and the others are not', () => {
    const { sides, sigma } = told(DARK, true);
    expect(sides).toBe(3);
    for (const k of [1, 2]) expect(sigma[k]!).toBeGreaterThan(doubt);
    for (const k of [0, 3]) expect(sigma[k]!).toBeLessThan(doubt);
  });
  it('are not doubted so where every side has a line', () => {
    const { sides, sigma } = told(DARK, false);
    expect(sides).toBe(4);
    expect(Math.max(...sigma)).toBeLessThan(doubt);
  });
  it('are not doubted so where a picture knows them by itself', () => {
    const pictured = { bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 };
    const [well, hardly] = [0.02, 0.1].map((knows) => told(pictured, true, knows).sigma);
    for (const k of [1, 2]) expect(Math.sqrt(hardly![k]! ** 2 - well![k]! ** 2)).toBeCloseTo(doubt, 3);
  });
});
