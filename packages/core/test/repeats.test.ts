import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { Path } from '../src/follow/memory/path';
import { isRepeat } from '../src/follow/timing/repeats';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { GLASS, SETUP, device } from './builders/device';
import { renderScene, waves } from './builders/scene';

const scene = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 });
const EVERYWHERE = { x0: 0, y0: 0, x1: 420, y1: 300 };
const shifted = (x: number): Quad => GLASS.map(([px, py]) => [px + x, py]) as unknown as Quad;

describe('a frame that shows the picture before once more', () => {
  const [first, second] = [renderScene(scene, 0), renderScene(scene, 1)];
  it('is told by a picture that stays where it should have moved on', () => {
    expect(isRepeat(first, first, EVERYWHERE, 5)).toBe(true);
    expect(isRepeat(first, second, EVERYWHERE, 5)).toBe(false);
  });
  it('is rest where nothing should have moved', () => {
    expect(isRepeat(first, first, EVERYWHERE, 0.2)).toBe(false);
  });
  it('is none of another size, and the first frame is none', () => {
    expect(isRepeat({ ...first, width: 300, height: 420 }, first, EVERYWHERE, 5)).toBe(false);
    expect(isRepeat(null, first, EVERYWHERE, 5)).toBe(false);
  });
});

describe('the way past a repeated frame', () => {
  function repeated(): Path {
    const path = new Path(0, GLASS);
    for (let n = 1; n <= 3; n++) path.takeUp(n, shifted(6 * n));
    path.takeUpRepeated(4);
    return path;
  }
  it('goes on by one usual step', () => {
    expect(repeated().expectation(5).corners).toEqual(shifted(24));
  });
  it('is known less well there: the missing frame may be gone for good', () => {
    const path = repeated();
    const { sigma } = path.expectation(5);
    path.repeated = false;
    expect(sigma).toBeGreaterThan(path.expectation(5).sigma + 3);
  });
  it('goes at the usual speed where the next step is one of two frames', () => {
    const path = repeated();
    const [velocity] = path.velocityOf(5, shifted(30));
    expect(velocity![0]).toBeCloseTo(6, 6);
    path.takeUp(5, shifted(30));
    expect(path.expectation(6).corners).toEqual(shifted(36));
  });
});

describe('a shot with repeated frames', () => {
  it.each([
    ['in the place of others', (n: number) => (n % 4 === 3 ? n - 1 : n)],
    ['between the others', (n: number) => n - Math.floor((n + 1) / 4)],
  ])('is followed: %s', (_, shown) => {
    const follower = new Follower(SETUP, 0, renderScene(scene, 0));
    for (let n = 1; n <= 16; n++) {
      const result = follower.step(n, renderScene(scene, shown(n)));
      const truth = mapQuad(scene.homography(shown(n)), GLASS);
      const found = mapQuad(result.homography!, GLASS);
      expect(Math.max(...found.map((p, i) => distance(p, truth[i]!)))).toBeLessThan(0.3);
    }
  });
});
