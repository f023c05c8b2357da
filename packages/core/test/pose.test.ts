/** Lenses, and rectangles that stand before a camera. */
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Lens } from '../src/geometry/lens';
import { bowAt, distort, idealBounds, undistort } from '../src/geometry/lens';
import { IDENTITY } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import type { Camera, Pose } from '../src/geometry/pose';
import { focalFromViews, poseOf, projectCorners, projectPoint, rotationBy, vectorOf } from '../src/geometry/pose';
import type { Quad } from '../src/geometry/quad';
import type { OpenCv } from './builders/opencv';
import { openCv } from './builders/opencv';
import { nearTo } from './builders/numbers';

describe('a lens', () => {
  const lens = (radial: number): Lens => ({ radial, width: 1920, height: 1080 });
  const terms = fc.double({ min: -0.3, max: 0.3, noNaN: true });
  it('moves a point outwards from the middle by its term times the cube of its distance, in half widths', () => {
    expect(distort(lens(0.1), [1920, 540])).toEqual([1920 + 96, 540]);
    expect(distort(lens(-0.2), [960, 540 + 480])).toEqual([960, 540 + 480 - 0.2 * 0.25 * 480]);
    expect(distort(lens(0.1), [960, 540])).toEqual([960, 540]);
  });
  it('is undone', () => {
    fc.assert(
      fc.property(
        terms,
        fc.double({ min: 0, max: 1920, noNaN: true }),
        fc.double({ min: 0, max: 1080, noNaN: true }),
        (k, x, y) => {
          const there = distort(lens(k), [x, y]);
          // Beyond a barrel's fold two places show as one.
          const r = Math.hypot(x - 960, y - 540) / 960;
          fc.pre(k >= 0 || 3 * -k * r * r < 0.9);
          expect(distance(undistort(lens(k), there), [x, y])).toBeLessThan(1e-6);
        },
      ),
    );
    expect(undistort(lens(0), [3, 4])).toEqual([3, 4]);
    expect(undistort(lens(-0.1), [960, 540])).toEqual([960, 540]);
  });
  it('stops at its fold', () => {
    const far = undistort(lens(-0.3), [6000, 540]);
    expect(far[0]).toBeCloseTo(960 + 960 * Math.sqrt(1 / 0.9), 6);
    expect(far[1]).toBe(540);
  });
  it('tells how a point moves with its term', () => {
    const p: Point = [1500, 200];
    const [a, b] = [distort(lens(0.01), p), distort(lens(-0.01), p)];
    const bow = bowAt(lens(0), p);
    expect(bow[0]).toBeCloseTo((a[0] - b[0]) / 0.02, 6);
    expect(bow[1]).toBeCloseTo((a[1] - b[1]) / 0.02, 6);
  });
  it('shows a part of the ideal plane that reaches to the middles of its sides', () => {
    const b = idealBounds(lens(-0.1));
    const edge = distort(lens(-0.1), [b.x0, 540]);
    expect(edge[0]).toBeCloseTo(0, 6);
    expect(distort(lens(-0.1), [960, b.y0])[1]).toBeCloseTo(0, 6);
    expect(b.x1).toBeCloseTo(1920 - b.x0, 9);
    expect(b.y1).toBeCloseTo(1080 - b.y0, 9);
    expect(idealBounds(lens(0))).toEqual({ x0: 0, y0: 0, x1: 1920, y1: 1080 });
  });
});

describe('a rectangle before a camera', () => {
  const camera: Camera = { width: 1920, height: 1080, focal: 1.2 };
  const turn = fc.double({ min: -0.8, max: 0.8, noNaN: true });
  let cv: OpenCv;
  beforeAll(async () => {
    cv = await openCv();
  });

  it('turns about an axis by an angle, and tells both again', () => {
    nearTo(rotationBy([0, 0, Math.PI / 2]), [0, -1, 0, 1, 0, 0, 0, 0, 1], 1e-12);
    nearTo(rotationBy([Math.PI / 2, 0, 0]), [1, 0, 0, 0, 0, -1, 0, 1, 0], 1e-12);
    nearTo(rotationBy([0, Math.PI / 2, 0]), [0, 0, 1, 0, 1, 0, -1, 0, 0], 1e-12);
    expect(vectorOf(IDENTITY)).toEqual([0, 0, 0]);
    fc.assert(fc.property(turn, turn, turn, (x, y, z) => nearTo(vectorOf(rotationBy([x, y, z])), [x, y, z], 1e-6)));
  });
  it('is seen where the OpenCV build projects it (projectPoints)', () => {
    const points: [number, number, number][] = [
      [-0.8, -0.5, 0],
      [0.8, -0.5, 0],
      [0.8, 0.5, -0.1],
      [-0.8, 0.5, 0.2],
    ];
    fc.assert(
      fc.property(turn, turn, turn, turn, turn, (x, y, z, a, b) => {
        const pose: Pose = { rotation: rotationBy([x, y, z]), centre: [a, b, 4] };
        const f = camera.focal * camera.width;
        const out = new cv.Mat();
        cv.projectPoints(
          cv.matFromArray(4, 1, cv.CV_64FC3, points.flat()),
          cv.matFromArray(3, 1, cv.CV_64FC1, [x, y, z]),
          cv.matFromArray(3, 1, cv.CV_64FC1, [a, b, 4]),
          cv.matFromArray(3, 3, cv.CV_64FC1, [f, 0, camera.width / 2, 0, f, camera.height / 2, 0, 0, 1]),
          cv.matFromArray(1, 4, cv.CV_64FC1, [0, 0, 0, 0]),
          out,
        );
        for (const [i, p] of points.entries()) {
          const q = projectPoint(camera, pose, p);
          expect(distance(q, [out.data64F[2 * i]!, out.data64F[2 * i + 1]!])).toBeLessThan(1e-6);
        }
        out.delete();
      }),
      { numRuns: 30 },
    );
  });
  it('is found again from its corners', () => {
    fc.assert(
      fc.property(turn, turn, turn, turn, (x, y, z, a) => {
        const pose: Pose = { rotation: rotationBy([x, y, z]), centre: [a, -0.3 * a, 5] };
        const found = poseOf(camera, projectCorners(camera, pose, 1.6), 1.6);
        expect(found.misfit).toBeLessThan(1e-3);
        nearTo(found.pose.centre, pose.centre, 1e-3);
        nearTo(found.pose.rotation, pose.rotation, 2e-3);
      }),
      { numRuns: 40 },
    );
  });
  it('misses where no rectangle of that shape looks like the corners, by the farthest of them', () => {
    const pose: Pose = { rotation: rotationBy([0.4, -0.5, 0.2]), centre: [0.2, 0.1, 4] };
    const corners = projectCorners(camera, pose, 1.6);
    expect(poseOf(camera, corners, 1.2).misfit).toBeGreaterThan(5);
    const pulled = corners.map((p, i): Point => (i === 2 ? [p[0] + 12, p[1]] : p)) as unknown as Quad;
    const { misfit } = poseOf(camera, pulled, 1.6);
    expect(misfit).toBeGreaterThan(1);
    expect(misfit).toBeLessThan(12);
  });
  it('lifted before its plane looks larger from the front', () => {
    const pose: Pose = { rotation: [...IDENTITY], centre: [0, 0, 4] };
    const [flat, lifted] = [projectCorners(camera, pose, 1), projectCorners(camera, pose, 1, 0.5)];
    expect(flat[2]![0] - flat[0]![0]).toBeCloseTo((1.2 * 1920) / 4, 9);
    expect(lifted[2]![0] - lifted[0]![0]).toBeCloseTo((1.2 * 1920) / 3.5, 9);
  });
  it('tells the focal length by leaning views, and nothing by views from the front', () => {
    const views = [
      [0.6, 0.3, 0],
      [-0.5, 0.6, 0.1],
      [0.2, -0.7, -0.1],
    ].map((r) => projectCorners(camera, { rotation: rotationBy(r), centre: [0.1, 0, 4] }, 1.6));
    expect(focalFromViews(views, 1920, 1080, 1.6)).toBeCloseTo(1.2, 1);
    const front = [0, 0.01].map((r) =>
      projectCorners(camera, { rotation: rotationBy([0, 0, r]), centre: [0, 0, 4] }, 1.6),
    );
    expect(focalFromViews(front, 1920, 1080, 1.6)).toBeNull();
  });
});
