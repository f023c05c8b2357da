/** What a second run makes of where the first one had the Screen: another place to look at, and no more. */
import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { DARK, GLASS, SETUP, device } from './builders/device';
import { renderScene } from './builders/scene';

/** px a frame to the right. */
const SPEED = 1;
const scene = device(DARK, { homography: (n) => [1, 0, SPEED * n, 0, 1, 0, 0, 0, 1] });
const moved = (q: Quad, x: number, y: number): Quad => q.map(([px, py]): Point => [px + x, py + y]) as unknown as Quad;
const at = (n: number): Quad => moved(GLASS, SPEED * n, 0);
/** px by which a run has gone astray: farther than edges are looked for. */
const ASTRAY: Point = [90, 10];

/** The next frame of a run that has gone astray, and px that its farthest corner lies off; null where it was lost. */
function next(way?: FollowSetup['way']): { readonly off: number | null; readonly trust: number } {
  const follower = new Follower({ ...SETUP, ...(way ? { way } : {}) }, 0, renderScene(scene, 0));
  follower.startFrom([3, 2, 1].map((frame) => ({ frame, corners: moved(at(frame), ...ASTRAY) })));
  const result = follower.step(4, renderScene(scene, 4));
  const off = result.homography && farthest(mapQuad(result.homography, GLASS), at(4));
  return { off, trust: result.trust };
}
const nextOff = (way?: FollowSetup['way']): number | null => next(way).off;
const way = (trust: number, corners = at): NonNullable<FollowSetup['way']> =>
  [1, 2, 3, 4, 5].map((frame) => ({ frame, corners: corners(frame), trust }));
const isOff = (px: number | null): boolean => px === null || px > 5;

describe('dark glass that a run has gone astray from', () => {
  it('is not come back to by itself', () => {
    expect(isOff(nextOff())).toBe(true);
  });
  it('is found where a first run had it', () => {
    expect(nextOff(way(0.8))).toBeLessThan(0.5);
  });
  it('is not looked for where that one took it for want of anything better', () => {
    expect(isOff(nextOff(way(0.05)))).toBe(true);
  });
  it('is found, or not trusted, where that one was wrong itself', () => {
    const places: readonly Point[] = [[-26, 30], [12, -9], [40, 0]]; // prettier-ignore
    for (const [x, y] of places) {
      const { off, trust } = next(way(0.8, (n) => moved(at(n), x, y)));
      expect(trust < 0.5 || off! < 0.5, `${x}, ${y}: ${off} px, trust ${trust}`).toBe(true);
    }
  });
});
