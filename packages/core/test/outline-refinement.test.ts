import { describe, expect, it } from 'vitest';
import { refinerOf } from '../src/follow/edges/outline-refinement';
import { quadToQuad } from '../src/geometry/homography';
import type { Line } from '../src/geometry/line';
import { multiply, translation } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import { DARK, GLASS, device } from './builders/device';
import { moved, renderScene } from './builders/scene';

const BEZEL = 9;
/** The outer lines of the bezel. */
const OUTER: readonly Line[] = GLASS.map((p, i): Line => {
  const q = GLASS[(i + 1) % 4]!;
  const out: Point = [Math.sign(q[1] - p[1]) * BEZEL, -Math.sign(q[0] - p[0]) * BEZEL];
  return { a: [p[0] + out[0], p[1] + out[1]], b: [q[0] + out[0], q[1] + out[1]] };
});
const way = moved(GLASS, { x: 40, y: 25, turn: 0.2 });
const seen = mapQuad(way, GLASS);
const refine = refinerOf(GLASS, OUTER, buildPyramid(renderScene({ ...device(DARK), homography: () => way }, 0), 4));
const off = (from: Quad): number => farthest(mapQuad(refine(quadToQuad(GLASS, from)).place, GLASS), seen);

describe('a rough place of an outline', () => {
  it('is brought to a few px of where the device stands', () => {
    expect(off(mapQuad(multiply(translation(7, -6), way), GLASS))).toBeLessThan(3);
  });
  it('is turned and made larger on the way', () => {
    expect(off(mapQuad(moved(GLASS, { x: 40, y: 25, turn: 0.24, scale: 1.03 }), GLASS))).toBeLessThan(3);
  });
  it('is told better where it lies than where nothing is', () => {
    const right = refine(way).score;
    const wrong = refine(multiply(translation(-120, 90), way)).score;
    expect(right).toBeGreaterThan(wrong + 0.2);
  });
});
