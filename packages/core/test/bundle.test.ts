/** Views and points adjusted together, and each placed by the other, on a cloud of points that three views see exactly. */
import { describe, expect, it } from 'vitest';
import { adjust } from '../src/camera/adjust';
import type { Bundle } from '../src/camera/bundle';
import { costOf } from '../src/camera/bundle';
import { relativePoses, turningOf } from '../src/camera/relative-pose';
import { resect } from '../src/camera/resection';
import { rayOf, triangulate } from '../src/camera/triangulation';
import { Projection, movedView, placeOf, unbow, viewOfNothing } from '../src/camera/view-model';
import { solveLinear } from '../src/geometry/linear-algebra';
import { random as numbers } from './builders/scene';
import { OPTICS, threeViews } from './builders/three-views';

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
    const { bundle: near } = adjust(off, obs, OPTIONS);
    // What is expected of a lens weighs as one place that errs by the scale: next to nothing in the end.
    const { bundle: found, cost } = adjust(near, obs, { ...OPTIONS, scale: 1e-6 });
    expect(cost).toBeLessThan(1e-11);
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
    const { bundle: found } = adjust(bundle, { ...obs, xy }, { ...OPTIONS, scale: 1e-5 });
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
