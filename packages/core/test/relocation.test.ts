import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import { searchPicture } from '../src/follow/picture/coarse-search';
import { Sight } from '../src/follow/memory/sight';
import type { Matrix3 } from '../src/geometry/matrix3';
import { IDENTITY } from '../src/geometry/matrix3';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import type { FrameResult } from '../src/solve/frame-result';
import type { SceneOptions } from './builders/scene';
import { moved, renderScene, waves } from './builders/scene';
import { allowedMs } from './builders/on-time';

const PIN: Quad = [
  [80, 70],
  [240, 70],
  [240, 190],
  [80, 190],
];
const EVERYWHERE = [
  [-10, -10],
  [650, -10],
  [650, 370],
  [-10, 370],
] as const;
/** Lost behind something that fills the picture on frames 4 to 9. */
const scene = (way: (n: number) => Matrix3, more: Partial<SceneOptions> = {}): SceneOptions => ({
  width: 640,
  height: 360,
  pin: PIN,
  homography: way,
  texture: waves(5),
  background: waves(9),
  noise: 2,
  covers: (n) => (n >= 4 && n <= 9 ? [EVERYWHERE] : []),
  ...more,
});
const setup = (more: Partial<FollowSetup> = {}): FollowSetup => ({
  pin: PIN,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
  ...more,
});
function followed(o: SceneOptions, s: FollowSetup, last: number): FrameResult[] {
  const follower = new Follower(s, 0, renderScene(o, 0));
  return Array.from({ length: last }, (_, i) => follower.step(i + 1, renderScene(o, i + 1)));
}
function worst(o: SceneOptions, r: FrameResult): number {
  const q = mapQuad(r.homography!, PIN);
  return Math.max(...mapQuad(o.homography(r.frame), PIN).map((p, i) => distance(p, q[i]!)));
}

describe('a Screen that was lost', () => {
  it('and comes back at the other end of the picture is found within two frames', () => {
    // Lost on the left; on the right when the cover goes, far beyond what a search about the last place reaches.
    const o = scene((n) => moved(PIN, { x: n < 4 ? 3 * n : 300 + n, y: n < 4 ? 0 : 60 }));
    const frames = followed(o, setup(), 11);
    expect(frames.slice(3, 9).every((f) => f.homography === null)).toBe(true);
    expect(frames[10]!.homography).not.toBeNull();
    expect(worst(o, frames[10]!)).toBeLessThan(0.5);
  });
  it('while it was small, and comes back as it stood on the reference frame, is found there by its edges', () => {
    const ground = waves(9);
    const glass = { texture: () => 20, background: (x: number, y: number) => 140 + 0.3 * (ground(x, y) - 128) };
    const o = scene((n) => moved(PIN, n < 4 ? { x: 40 * n, scale: 1 - 0.2 * n } : {}), glass);
    const frames = followed(o, setup({ evidence: ['edges'] }), 11);
    expect(frames.slice(3, 9).every((f) => f.homography === null)).toBe(true);
    expect(frames[10]!.homography).not.toBeNull();
    expect(worst(o, frames[10]!)).toBeLessThan(0.5);
  });
  it('dark, and stands elsewhere and turned when it is seen again, is found by its outline', () => {
    const ground = waves(9);
    const glass = { texture: () => 20, background: (x: number, y: number) => 140 + 0.3 * (ground(x, y) - 128) };
    const o = scene((n) => moved(PIN, n < 4 ? { x: 4 * n } : { x: 230, y: 60, turn: 0.9 }), glass);
    const frames = followed(o, setup({ evidence: ['edges'] }), 11);
    expect(frames.slice(3, 9).every((f) => f.trust < 0.1)).toBe(true);
    expect(frames[10]!.homography).not.toBeNull();
    expect(worst(o, frames[10]!)).toBeLessThan(0.5);
  });
  it('dark, and stands with its upper side outside the picture when it is seen again, is found by three sides', () => {
    const ground = waves(9);
    const glass = { texture: () => 20, background: (x: number, y: number) => 140 + 0.3 * (ground(x, y) - 128) };
    const o = scene((n) => moved(PIN, n < 4 ? { x: 4 * n } : { x: 240, y: -100 }), glass);
    const frames = followed(o, setup({ evidence: ['edges'] }), 12);
    expect(frames.slice(3, 9).every((f) => f.trust < 0.1)).toBe(true);
    expect(frames[11]!.homography).not.toBeNull();
    const q = mapQuad(frames[11]!.homography!, PIN);
    const truth = mapQuad(o.homography(11), PIN);
    // The lower corners, which are seen.
    for (const i of [2, 3]) expect(distance(q[i]!, truth[i]!)).toBeLessThan(0.7);
  });
  it('is not found where it is not', () => {
    const o = scene(() => IDENTITY, { covers: (n) => (n >= 4 ? [EVERYWHERE] : []) });
    expect(
      followed(o, setup(), 7)
        .slice(3)
        .every((f) => f.homography === null),
    ).toBe(true);
  });
});

describe('a search over the whole picture', () => {
  it('finds the shift of a remembered picture to a px of its level', () => {
    const o = scene(() => moved(PIN, { x: 291, y: 77 }), { covers: () => [] });
    const sight = new Sight(
      setup(),
      0,
      renderScene(
        scene(() => IDENTITY),
        0,
      ),
    );
    const { template } = sight.keys[0]!;
    const level = template.levels.at(-1)!.level;
    const found = searchPicture(template, buildPyramid(renderScene(o, 0), 4), IDENTITY, PIN)!;
    expect(found.score).toBeGreaterThan(0.7);
    expect(Math.abs(found.homography[2]! - 291)).toBeLessThanOrEqual(2 ** level);
    expect(Math.abs(found.homography[5]! - 77)).toBeLessThanOrEqual(2 ** level);
  });
  it('is not looked for over a whole large picture by fine cells alone, which would take minutes', () => {
    const o = scene(() => IDENTITY);
    const { template } = new Sight(setup(), 0, renderScene(o, 0)).keys[0]!;
    const fine = { ...template, levels: template.levels.slice(0, 1) };
    const before = performance.now();
    expect(searchPicture(fine, buildPyramid(renderScene(o, 0), 1), IDENTITY, PIN)).toBeNull();
    expect(performance.now() - before).toBeLessThan(allowedMs(2000));
  });
});
