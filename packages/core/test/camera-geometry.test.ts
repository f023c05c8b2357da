/** The parts of the scene's camera, each against its definition or against a general-purpose library. */
import { describe, expect, it } from 'vitest';
import type { Bundle, Observations } from '../src/camera/bundle';
import { adjust, costOf } from '../src/camera/bundle';
import { quaternionOf } from '../src/camera/camera-report';
import { matrixOf } from '../src/camera/file-views';
import { relativePoses, turningOf } from '../src/camera/relative-pose';
import { resect } from '../src/camera/resection';
import { rayOf, triangulate } from '../src/camera/triangulation';
import {
  Projection,
  SHARED_NUMBERS,
  VIEW_NUMBERS,
  atRow,
  movedView,
  placeOf,
  unbow,
  viewOfNothing,
} from '../src/camera/view-model';
import { cholesky, choleskyOfEnvelope, solveLinear } from '../src/geometry/linear-algebra';
import { rotationBy } from '../src/geometry/pose';
import { random as numbers } from './builders/scene';
import { openCv } from './builders/opencv';

const OPTICS = { focal: 2, k1: -0.11, k2: 0.03 };
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

/** Three views about a cloud of points, and exact places. */
function threeViews(): { bundle: Bundle; obs: Observations } {
  const random = numbers(5);
  const views = [
    viewOfNothing(),
    movedView(viewOfNothing(), [0.02, -0.1, 0.01, 0.6, 0.05, 0]),
    movedView(viewOfNothing(), [-0.05, 0.12, 0.03, -0.5, 0.2, 0.1]),
  ];
  const points = Float64Array.from({ length: 36 }, (_, i) => (i % 3 === 2 ? 4 + 3 * random() : 2 * random() - 1));
  const p = new Projection();
  const [view, point, xy]: [number[], number[], number[]] = [[], [], []];
  for (let k = 0; k < 12; k++)
    views.forEach((v, i) => {
      p.place(v, OPTICS, points, 3 * k, 0);
      view.push(i);
      point.push(k);
      xy.push(p.x, p.y);
    });
  const obs = { view: Int32Array.from(view), point: Int32Array.from(point), xy: Float64Array.from(xy) };
  return { bundle: { views, points, optics: OPTICS, focals: null }, obs };
}

const OPTIONS = {
  moves: [0, 1, 2, 3, 4, 5],
  shares: [0, 1],
  still: new Set<number>(),
  scale: 0.01,
  rounds: 60,
  leastGain: 1e-12,
};

describe('bundle adjustment', () => {
  it('comes back to the exact views from views and points that are off', () => {
    const { bundle, obs } = threeViews();
    const random = numbers(9);
    const off = {
      ...bundle,
      views: bundle.views.map((v) =>
        movedView(
          v,
          Array.from({ length: 6 }, () => 0.02 * (random() - 0.5)),
        ),
      ),
      points: bundle.points.map((v) => v + 0.1 * (random() - 0.5)),
      optics: { ...OPTICS, focal: 1.9 },
    };
    expect(costOf(off, obs, OPTIONS.scale)).toBeGreaterThan(1e-4);
    const { bundle: found, cost } = adjust(off, obs, OPTIONS);
    expect(cost).toBeLessThan(1e-12);
    expect(found.optics.focal).toBeCloseTo(OPTICS.focal, 4);
    // The scene may lie elsewhere: the angle between two views is what stays.
    const angle = (b: Bundle): number => {
      const [v, w] = [b.views[0]!, b.views[1]!];
      const trace = [0, 1, 2, 3, 4, 5, 6, 7, 8].reduce((s, k) => s + v[k]! * w[k]!, 0);
      return Math.acos((trace - 1) / 2);
    };
    expect(angle(found)).toBeCloseTo(angle(bundle), 6);
  });

  it('takes the step that the whole, dense system takes', () => {
    const { bundle, obs } = threeViews();
    const random = numbers(11);
    const start = { ...bundle, points: bundle.points.map((v) => v + 0.002 * (random() - 0.5)) };
    const still = new Set([0, 1]);
    const { bundle: found } = adjust(start, obs, { ...OPTIONS, shares: [], still, rounds: 30 });
    // The same by brute force: 6 numbers of the free view and 36 of the points, derivatives by differences.
    const at = (x: Float64Array): Bundle => ({
      ...start,
      views: [...start.views.slice(0, 2), movedView(start.views[2]!, x.subarray(0, 6))],
      points: start.points.map((v, i) => v + x[6 + i]!),
    });
    const residuals = (x: Float64Array): Float64Array => {
      const b = at(x);
      const p = new Projection();
      return Float64Array.from(obs.xy, (v, i) => {
        const o = i >> 1;
        p.place(b.views[obs.view[o]!]!, OPTICS, b.points, 3 * obs.point[o]!, 0);
        return (i % 2 === 0 ? p.x : p.y) - v;
      });
    };
    const x = new Float64Array(42);
    for (let round = 0; round < 8; round++) {
      const r = residuals(x);
      const columns = Array.from(x, (_, k) => {
        const moved = x.slice();
        moved[k]! += 1e-7;
        return residuals(moved).map((v, i) => (v - r[i]!) / 1e-7);
      });
      const a = Float64Array.from({ length: 42 * 42 }, (_, i) => {
        const [c, d] = [columns[Math.floor(i / 42)]!, columns[i % 42]!];
        return c.reduce((s, v, k) => s + v * d[k]!, 0);
      });
      const step = solveLinear(
        a,
        Float64Array.from(columns, (c) => -c.reduce((s, v, k) => s + v * r[k]!, 0)),
      )!;
      step.forEach((v, k) => (x[k]! += v));
    }
    const dense = at(x);
    found.points.forEach((v, i) => expect(v).toBeCloseTo(dense.points[i]!, 5));
    placeOf(found.views[2]!).forEach((v, i) => expect(v).toBeCloseTo(placeOf(dense.views[2]!)[i]!, 5));
  });

  it('is not led astray by a point that is found elsewhere in one view', () => {
    const { bundle, obs } = threeViews();
    const xy = obs.xy.slice();
    xy[2 * 7]! += 0.5;
    const { bundle: found } = adjust(bundle, { ...obs, xy }, { ...OPTIONS, scale: 1e-3 });
    expect(found.optics.focal).toBeCloseTo(OPTICS.focal, 2);
  });
});

describe('two views', () => {
  const { bundle, obs } = threeViews();
  const rays = (view: number): Float64Array => {
    const out: number[] = [];
    for (let i = 0; i < obs.view.length; i++)
      if (obs.view[i] === view) {
        const [x, y] = unbow(OPTICS, obs.xy[2 * i]!, obs.xy[2 * i + 1]!);
        out.push(x / OPTICS.focal, y / OPTICS.focal);
      }
    return Float64Array.from(out);
  };

  it('tell how the camera has turned and which way it has moved', () => {
    const [best] = relativePoses({ first: rays(0), second: rays(1) }, 1e-4);
    const truth = bundle.views[1]!;
    const length = Math.hypot(truth[9]!, truth[10]!, truth[11]!);
    for (let k = 0; k < 9; k++) expect(best!.view[k]).toBeCloseTo(truth[k]!, 4);
    for (let k = 9; k < 12; k++) expect(best!.view[k]).toBeCloseTo(truth[k]! / length, 3);
  });

  it('tell a turning alone, though a third of the points move by themselves', () => {
    const turn = movedView(viewOfNothing(), [0.03, -0.08, 0.05, 0, 0, 0]);
    const first = rays(0);
    const second = first.slice();
    for (let i = 0; i < 12; i++) {
      const [x, y] = [first[2 * i]!, first[2 * i + 1]!];
      const [a, b, c] = [0, 3, 6].map((r) => turn[r]! * x + turn[r + 1]! * y + turn[r + 2]!) as [
        number,
        number,
        number,
      ];
      const walks = i % 3 === 0 ? 0.05 : 0;
      second[2 * i] = a / c + walks;
      second[2 * i + 1] = b / c;
    }
    const found = turningOf({ first, second }, 1e-3);
    for (let k = 0; k < 9; k++) expect(found[k]).toBeCloseTo(turn[k]!, 3);
  });

  it('and a third place a point, and points place a view', () => {
    const sights = [0, 1, 2].map((v) => ({
      view: bundle.views[v]!,
      optics: OPTICS,
      x: obs.xy[2 * (3 * 4 + v)]!,
      y: obs.xy[2 * (3 * 4 + v) + 1]!,
    }));
    const found = triangulate(sights)!;
    found.point.forEach((v, i) => expect(v).toBeCloseTo(bundle.points[12 + i]!, 6));
    expect(found.error).toBeLessThan(1e-9);
    const ray = rayOf(sights[0]!);
    const far = Math.hypot(...bundle.points.subarray(12, 15));
    ray.forEach((v, i) => expect(v).toBeCloseTo(bundle.points[12 + i]! / far, 6));
    const xy = Float64Array.from({ length: 24 }, (_, i) => obs.xy[2 * (3 * (i >> 1) + 2) + (i & 1)]!);
    const view = resect({ points: bundle.points, xy }, { view: bundle.views[0]!, focal: OPTICS.focal }, OPTICS, {
      moves: [0, 1, 2, 3, 4, 5],
      scale: 1e-3,
      anneal: [100, 10, 1],
    });
    expect(view.inliers).toBe(12);
    placeOf(view.view).forEach((v, i) => expect(v).toBeCloseTo(placeOf(bundle.views[2]!)[i]!, 5));
  });

  it('place nothing when their rays run side by side', () => {
    const same = { view: viewOfNothing(), optics: OPTICS, x: 0.1, y: 0.2 };
    expect(triangulate([same, same])).toBeNull();
    expect(triangulate([same])).toBeNull();
  });
});
