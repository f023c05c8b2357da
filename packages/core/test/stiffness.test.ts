/**
 * The stiff screen against the projection of OpenCV, which knows nothing of it: views that `projectPoints` makes of a
 * rectangle must satisfy what is learnt of it from others. Source: OpenCV 4.12, module calib3d.
 */
import { beforeAll, describe, expect, it } from 'vitest';
import { everywhere } from '../src/geometry/corner-information';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import type { RigidScreen } from '../src/solve/rigid-screen';
import { calibrate, rigidMisfit } from '../src/solve/rigid-screen';
import type { OpenCv } from './builders/opencv';
import { openCv } from './builders/opencv';
import { random } from './builders/scene';

const [WIDTH, HEIGHT] = [1920, 1080];
/** Picture widths; half widths and half height of the rectangle. */
const FOCAL = 1.15;
const HALF: Point = [0.8, 0.5];
/** px; how well corners of a view are known. */
const SIGMA = 0.1;

let cv: OpenCv;
beforeAll(async () => {
  cv = await openCv();
});

/** Corners as OpenCV sees a rectangle, turned by a rotation vector and shifted. */
function seen(turn: readonly number[], shift: readonly number[], [w, h]: Point = HALF): Quad {
  const corners = [-w, -h, 0, w, -h, 0, w, h, 0, -w, h, 0];
  const mats = [
    cv.matFromArray(4, 1, cv.CV_64FC3, corners),
    cv.matFromArray(3, 1, cv.CV_64FC1, [...turn]),
    cv.matFromArray(3, 1, cv.CV_64FC1, [...shift]),
    cv.matFromArray(3, 3, cv.CV_64FC1, [FOCAL * WIDTH, 0, WIDTH / 2, 0, FOCAL * WIDTH, HEIGHT / 2, 0, 0, 1]),
    cv.matFromArray(1, 4, cv.CV_64FC1, [0, 0, 0, 0]),
    new cv.Mat(),
  ] as const;
  cv.projectPoints(mats[0], mats[1], mats[2], mats[3], mats[4], mats[5]);
  const p = [...mats[5].data64F];
  for (const m of mats) m.delete();
  return [0, 1, 2, 3].map((i): Point => [p[2 * i]!, p[2 * i + 1]!]) as unknown as Quad;
}

/** Views of one rectangle from many sides. */
function views(count: number, seed: number): Quad[] {
  const r = random(seed);
  const some = (most: number): number => most * (2 * r() - 1);
  return Array.from({ length: count }, () =>
    seen([some(0.7), some(0.7), some(0.8)], [some(0.5), some(0.25), 3 + some(0.6)]),
  );
}

const known = (corners: Quad) => ({ corners, information: everywhere(SIGMA) });
const misfit = (rigid: RigidScreen, corners: Quad): number => rigidMisfit(everywhere(SIGMA), rigid, corners, 0);

describe('a stiff screen that is learnt from views of OpenCV', () => {
  let rigid: RigidScreen;
  beforeAll(() => {
    rigid = calibrate(views(14, 3).map(known), WIDTH, HEIGHT)!;
  });
  it('tells the focal length of the lens', () => {
    expect(rigid.focal).toBeGreaterThan(0.97 * FOCAL);
    expect(rigid.focal).toBeLessThan(1.03 * FOCAL);
  });
  it('is not contradicted by other views of the same rectangle', () => {
    for (const corners of views(40, 11)) expect(misfit(rigid, corners)).toBeLessThan(1);
  });
  it('is contradicted by a rectangle of another shape, and by one whose side lies on its neighbour', () => {
    const [turn, shift] = [
      [0.4, -0.5, 0.2],
      [0.1, 0.05, 3],
    ];
    expect(misfit(rigid, seen(turn!, shift!))).toBeLessThan(1);
    expect(misfit(rigid, seen(turn!, shift!, [0.8, 0.53]))).toBeGreaterThan(3);
    const [a, b, c, d] = seen(turn!, shift!);
    expect(misfit(rigid, [a, [b[0] + 12, b[1]], c, d])).toBeGreaterThan(3);
  });
});
