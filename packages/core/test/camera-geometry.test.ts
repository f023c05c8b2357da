/** The parts of the scene's camera, each against its definition or against a general-purpose library. */
import { describe, expect, it } from 'vitest';
import { matrixOf, quaternionOf } from '../src/geometry/quaternion';
import {
  Projection,
  SHARED_NUMBERS,
  VIEW_NUMBERS,
  atRow,
  movedView,
  unbow,
  viewOfNothing,
} from '../src/camera/view-model';
import { cholesky, choleskyOfEnvelope } from '../src/geometry/linear-algebra';
import { rotationBy } from '../src/geometry/pose';
import { random as numbers } from './builders/scene';
import { openCv } from './builders/opencv';
import { OPTICS } from './builders/three-views';

const POINT = Float64Array.of(0.4, -0.3, 5);
const VIEW = movedView(viewOfNothing(), [0.1, -0.2, 0.3, 0.5, -0.4, 0.2, 0, 0.01, -0.02, 0.015]);
const ROW = 0.3;

const placed = (v: Float64Array, o: typeof OPTICS, point: Float64Array): [number, number] => {
  const p = new Projection();
  p.place(v, o, point, 0, ROW);
  return [p.x, p.y];
};

describe('projection of a point', () => {
  it('moves with each of its numbers as its derivatives say', () => {
    const p = new Projection();
    p.of(VIEW, OPTICS, POINT, 0, ROW);
    const h = 1e-6;
    const before = placed(VIEW, OPTICS, POINT);
    const slope = (after: [number, number]): [number, number] => [
      (after[0] - before[0]) / h,
      (after[1] - before[1]) / h,
    ];
    for (let k = 0; k < VIEW_NUMBERS; k++) {
      const step = new Float64Array(VIEW_NUMBERS);
      step[k] = h;
      const optics = k === 6 ? { ...OPTICS, focal: OPTICS.focal * Math.exp(h) } : OPTICS;
      const [x, y] = slope(placed(movedView(VIEW, step), optics, POINT));
      // The rows turn what has been turned already, which the derivative leaves out: a hundredth of it.
      expect(Math.abs(p.byView[k]! - x)).toBeLessThan(0.02);
      expect(Math.abs(p.byView[VIEW_NUMBERS + k]! - y)).toBeLessThan(0.02);
    }
    const shared = [
      { ...OPTICS, focal: OPTICS.focal * Math.exp(h) },
      { ...OPTICS, k1: OPTICS.k1 + h },
      { ...OPTICS, k2: OPTICS.k2 + h },
    ];
    shared.forEach((o, k) => {
      const [x, y] = slope(placed(VIEW, o, POINT));
      expect(p.byShared[k]).toBeCloseTo(x, 4);
      expect(p.byShared[SHARED_NUMBERS + k]).toBeCloseTo(y, 4);
    });
    for (let k = 0; k < 3; k++) {
      const moved = POINT.slice();
      moved[k]! += h;
      const [x, y] = slope(placed(VIEW, OPTICS, moved));
      expect(Math.abs(p.byPoint[k]! - x)).toBeLessThan(0.01);
      expect(Math.abs(p.byPoint[3 + k]! - y)).toBeLessThan(0.01);
    }
  });

  it('is that of the OpenCV build, lens and all', async () => {
    const cv = await openCv();
    const v = movedView(viewOfNothing(), [0.1, -0.2, 0.3, 0.5, -0.4, 0.2]);
    // There the radial terms are of the radius at depth 1; here of that in the picture.
    const lens = [OPTICS.k1 * OPTICS.focal ** 2, OPTICS.k2 * OPTICS.focal ** 4, 0, 0];
    const [points, turn, shift, camera, terms] = [
      cv.matFromArray(1, 1, cv.CV_64FC3, [...POINT]),
      cv.matFromArray(3, 1, cv.CV_64FC1, [0.1, -0.2, 0.3]),
      cv.matFromArray(3, 1, cv.CV_64FC1, [0.5, -0.4, 0.2]),
      cv.matFromArray(3, 3, cv.CV_64FC1, [OPTICS.focal, 0, 0, 0, OPTICS.focal, 0, 0, 0, 1]),
      cv.matFromArray(4, 1, cv.CV_64FC1, lens),
    ];
    const out = new cv.Mat();
    cv.projectPoints(points, turn, shift, camera, terms, out);
    const p = new Projection();
    p.place(v, OPTICS, POINT, 0, 0);
    expect(p.x).toBeCloseTo(out.data64F[0]!, 9);
    expect(p.y).toBeCloseTo(out.data64F[1]!, 9);
    for (const m of [points, turn, shift, camera, terms, out]) m.delete();
  });

  it('is undone by taking the bow off, and turns with its row as a view turned by itself', () => {
    const [x, y] = placed(VIEW, OPTICS, POINT);
    const [u, w] = unbow(OPTICS, x, y);
    const bow = 1 + (u * u + w * w) * (OPTICS.k1 + OPTICS.k2 * (u * u + w * w));
    expect([u * bow, w * bow]).toEqual([expect.closeTo(x, 10), expect.closeTo(y, 10)]);
    const straight = new Projection();
    straight.place(atRow(VIEW, ROW), OPTICS, POINT, 0, 0);
    expect(straight.x).toBeCloseTo(x, 5);
    expect(straight.y).toBeCloseTo(y, 5);
  });
});

describe('turning and quaternions', () => {
  it.each([
    // Textbook values: a quarter about z, a half about x.
    [
      [0, 0, Math.PI / 2],
      [0, 0, Math.SQRT1_2, Math.SQRT1_2],
    ],
    [
      [Math.PI, 0, 0],
      [1, 0, 0, 0],
    ],
  ])('%j is the quaternion %j', (vector, q) => {
    const found = quaternionOf(rotationBy(vector));
    const sign = found[3] < 0 ? -1 : 1;
    found.forEach((v, i) => expect(sign * v).toBeCloseTo(q[i]!, 9));
  });

  it('goes to a matrix and back, whichever of its numbers is the largest', () => {
    for (const vector of [
      [0.1, 0.2, -0.3],
      [3, 0.1, 0.2],
      [0.1, 3, -0.2],
      [0.2, 0.1, 3],
    ]) {
      const m = rotationBy(vector);
      matrixOf(quaternionOf(m)).forEach((v, i) => expect(v).toBeCloseTo(m[i]!, 9));
    }
  });
});

describe('the factor of an envelope', () => {
  it('is the plain factor, also where a row begins late', () => {
    const n = 7;
    const random = numbers(3);
    const a = new Float64Array(n * n);
    for (let i = 0; i < n; i++) {
      for (let j = Math.max(0, i - 2); j < i; j++) a[i * n + j] = random() - 0.5;
      a[i * n + i] = 4;
    }
    for (let j = 0; j < n - 1; j++) a[(n - 1) * n + j] = 0.1;
    const plain = a.slice();
    expect(choleskyOfEnvelope(a, n)).toBe(true);
    expect(cholesky(plain, n)).toBe(true);
    for (let i = 0; i < n; i++) for (let j = 0; j <= i; j++) expect(a[i * n + j]).toBeCloseTo(plain[i * n + j]!, 12);
  });

  it('tells of a matrix that has none', () => {
    expect(choleskyOfEnvelope(Float64Array.of(1, 0, 2, 1), 2)).toBe(false);
  });
});
