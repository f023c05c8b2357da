import { describe, expect, it } from 'vitest';
import { placesOfOutlines } from '../src/follow/edges/edge-relocation';
import type { Matrix3 } from '../src/geometry/matrix3';
import { IDENTITY, multiply, translation } from '../src/geometry/matrix3';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import type { SceneOptions } from './builders/scene';
import { moved, random, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [360, 90],
  [360, 230],
  [120, 230],
];
const ground = waves(9, 20, 200);
const dark = (way: Matrix3, more: Partial<SceneOptions> = {}): SceneOptions => ({
  width: 960,
  height: 540,
  pin: PIN,
  homography: () => way,
  texture: () => 24,
  background: (x, y) => 130 + 0.4 * (ground(x, y) - 128),
  noise: 2,
  ...more,
});
/** px by which the farthest corner of the best place lies off. */
function off(o: SceneOptions, views: readonly Matrix3[] = [IDENTITY]): number {
  const [place] = placesOfOutlines(PIN, views, [], buildPyramid(renderScene(o, 0), 4));
  if (!place) return Infinity;
  const truth = mapQuad(o.homography(0), PIN);
  return Math.max(...mapQuad(place, PIN).map((p, i) => distance(p, truth[i]!)));
}
/** px of the frame that one of the small picture is wide, and a turn between two that are tried: a closer look reaches farther. */
const NEAR = 26;

describe('an outline over the whole picture', () => {
  it.each([
    ['as it was seen, elsewhere', moved(PIN, { x: 400, y: 230 })],
    ['farther away', moved(PIN, { x: 300, y: 40, scale: 0.9 })],
    ['turned by a quarter', moved(PIN, { x: 330, y: 120, turn: -1.45 })],
    ['half turned and tilted a little', moved(PIN, { x: 260, y: 160, turn: 0.7, tilt: 0.15 })],
  ])('is found %s', (_, way) => {
    expect(off(dark(way))).toBeLessThan(NEAR);
  });
  it('is found where a quarter of it is covered, and where a side of it lies outside', () => {
    const way = moved(PIN, { x: 380, y: 200 });
    const hand = [
      [440, 280],
      [600, 280],
      [600, 360],
      [440, 360],
    ] as const;
    expect(off(dark(way, { covers: () => [hand] }))).toBeLessThan(NEAR);
    expect(off(dark(moved(PIN, { x: 640, y: 150 })))).toBeLessThan(NEAR);
  });
  it('is found by whichever view looks like it', () => {
    const tilted = moved(PIN, { x: 60, y: 30, tilt: 0.9 });
    const way = multiply(translation(370, 190), tilted);
    expect(off(dark(way), [IDENTITY, tilted])).toBeLessThan(NEAR);
  });
  it('is nowhere in noise', () => {
    const r = random(3);
    const noise = dark(IDENTITY, { texture: () => 255 * r(), background: () => 255 * r() });
    expect(placesOfOutlines(PIN, [IDENTITY], [], buildPyramid(renderScene(noise, 0), 4))).toEqual([]);
  });
});
