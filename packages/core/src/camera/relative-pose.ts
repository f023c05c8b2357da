/**
 * How a camera has turned and moved between two pictures: every direction of the movement is a start, the first-order
 * distance to the epipolar lines is what is made small, robustly. A flat scene has two answers; all that are nearly as
 * good as the best are told.
 * Source: R. Hartley and A. Zisserman, Multiple View Geometry, 2nd ed., 9.6 and 11.4.3 (Sampson's distance).
 */
import { solveLinear } from '../geometry/linear-algebra';
import type { View } from './view-model';
import { movedView, viewOfNothing } from './view-model';

type Vector = readonly [number, number, number];

export interface RelativePose {
  /** from the first camera to the second; its shift of length 1 */
  readonly view: View;
  /** mean robust cost, units of `scale` squared */
  readonly cost: number;
}

/** Rays of points that both pictures show: x and y at depth 1, two numbers each. */
export interface RayPairs {
  readonly first: Float64Array;
  readonly second: Float64Array;
}

const FIT = {
  /** Steps at the most. By trial. */
  rounds: 25,
  /** Scales of the robust weight, from coarse to fine, times the one asked for. By trial. */
  scales: [12, 4, 1],
  /** Damping, share of the diagonal. By trial. */
  damping: 1e-4,
  /** Share of the robust scale below which a step of a turning ends it. By trial. */
  settled: 1e-3,
  /** Times the best answer's cost up to which another is told. By trial. */
  nearly: 1.6,
  /** Radians between two answers that are one. By trial. */
  same: 0.01,
} as const;

const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (v: Vector): Vector => {
  const l = Math.hypot(...v);
  return [v[0] / l, v[1] / l, v[2] / l];
};
const turned = (v: View, p: Vector): Vector => [
  v[0]! * p[0] + v[1]! * p[1] + v[2]! * p[2],
  v[3]! * p[0] + v[4]! * p[1] + v[5]! * p[2],
  v[6]! * p[0] + v[7]! * p[1] + v[8]! * p[2],
];

/** Solves damped normal equations of `n` numbers. */
function stepOf(a: Float64Array, b: Float64Array, n: number): Float64Array | null {
  for (let i = 0; i < n; i++) a[i * n + i] = a[i * n + i]! * (1 + FIT.damping) + 1e-15;
  return solveLinear(a, b);
}

function gather(a: Float64Array, b: Float64Array, row: readonly number[], e: number, weight: number): void {
  const n = row.length;
  for (let r = 0; r < n; r++) {
    b[r]! -= weight * row[r]! * e;
    for (let c = 0; c < n; c++) a[r * n + c]! += weight * row[r]! * row[c]!;
  }
}

const pointAt = (rays: Float64Array, i: number): Vector => [rays[2 * i]!, rays[2 * i + 1]!, 1];

/** Adds what the pairs tell of a small turning to its normal equations. @param wide where the robust weight bends */
function gatherTurning({ first, second }: RayPairs, view: View, wide: number, a: Float64Array, b: Float64Array): void {
  for (let i = 0; i < first.length; i += 2) {
    const [x, y] = [first[i]!, first[i + 1]!];
    const z = view[6]! * x + view[7]! * y + view[8]!;
    if (!(z > 1e-6)) continue;
    const u = (view[0]! * x + view[1]! * y + view[2]!) / z;
    const v = (view[3]! * x + view[4]! * y + view[5]!) / z;
    const [ex, ey] = [u - second[i]!, v - second[i + 1]!];
    const weight = 1 / (1 + (ex * ex + ey * ey) / (wide * wide));
    gather(a, b, [-u * v, 1 + u * u, -v], ex, weight);
    gather(a, b, [-(1 + v * v), u * v, u], ey, weight);
  }
}

/** The turning alone that brings the first rays onto the second, robustly. @param scale at depth 1 */
export function turningOf(pairs: RayPairs, scale: number): View {
  let view = viewOfNothing();
  for (const times of [100, ...FIT.scales])
    for (let round = 0; round < FIT.rounds; round++) {
      const a = new Float64Array(9);
      const b = new Float64Array(3);
      gatherTurning(pairs, view, times * scale, a, b);
      const step = stepOf(a, b, 3);
      if (!step) break;
      view = movedView(view, [...step, 0, 0, 0]);
      // A thousandth of the noise tells nothing more.
      if (Math.hypot(...step) < FIT.settled * times * scale) break;
    }
  return view;
}

/** Two directions across a unit vector. */
function across(t: Vector): readonly [Vector, Vector] {
  const helper: Vector = Math.abs(t[0]) < 0.7 ? [1, 0, 0] : [0, 1, 0];
  const u = unit(cross(t, helper));
  return [u, cross(t, u)];
}

/** Sampson's distance of a pair, and its row of derivatives by turning (3) and by the shift's direction (2). */
function epipolar(view: View, t: Vector, p: Vector, q: Vector): { e: number; scale: number; y: Vector; qt: Vector } {
  const y = turned(view, p);
  const qt = cross(q, t);
  const r = y[0] * qt[0] + y[1] * qt[1] + y[2] * qt[2];
  const line = cross(t, y);
  const back: Vector = [
    view[0]! * qt[0] + view[3]! * qt[1] + view[6]! * qt[2],
    view[1]! * qt[0] + view[4]! * qt[1] + view[7]! * qt[2],
    0,
  ];
  const scale = 1 / Math.sqrt(line[0] ** 2 + line[1] ** 2 + back[0] ** 2 + back[1] ** 2 + 1e-30);
  return { e: r * scale, scale, y, qt };
}

function costOf(pairs: RayPairs, view: View, t: Vector, scale: number): number {
  const count = pairs.first.length / 2;
  let sum = 0;
  for (let i = 0; i < count; i++) {
    const { e } = epipolar(view, t, pointAt(pairs.first, i), pointAt(pairs.second, i));
    sum += Math.log1p((e * e) / (scale * scale));
  }
  return sum / count;
}

function refined(pairs: RayPairs, start: View, direction: Vector, scale: number): { view: View; t: Vector } {
  let view = start;
  let t = direction;
  const count = pairs.first.length / 2;
  for (const times of FIT.scales)
    for (let round = 0; round < FIT.rounds; round++) {
      const a = new Float64Array(25);
      const b = new Float64Array(5);
      const wide = times * scale;
      const [u, v] = across(t);
      for (let i = 0; i < count; i++) {
        const q = pointAt(pairs.second, i);
        const one = epipolar(view, t, pointAt(pairs.first, i), q);
        const weight = 1 / (1 + (one.e * one.e) / (wide * wide));
        const byTurn = cross(one.y, one.qt);
        const byShift = cross(one.y, q);
        const row = [
          ...byTurn,
          byShift[0] * u[0] + byShift[1] * u[1] + byShift[2] * u[2],
          byShift[0] * v[0] + byShift[1] * v[1] + byShift[2] * v[2],
        ].map((d) => d * one.scale);
        gather(a, b, row, one.e, weight);
      }
      const step = stepOf(a, b, 5);
      if (!step) break;
      view = movedView(view, [step[0]!, step[1]!, step[2]!, 0, 0, 0]);
      const [du, dv] = [step[3]!, step[4]!];
      t = unit([t[0] + du * u[0] + dv * v[0], t[1] + du * u[1] + dv * v[1], t[2] + du * u[2] + dv * v[2]]);
      if (Math.hypot(...step) < 1e-8) break;
    }
  return { view, t };
}

/** Half the sphere of directions: the corners, edges and faces of a cube. */
const DIRECTIONS: readonly Vector[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [1, 1, 0],
  [1, -1, 0],
  [1, 0, 1],
  [1, 0, -1],
  [0, 1, 1],
  [0, 1, -1],
  [1, 1, 1],
  [1, 1, -1],
  [1, -1, 1],
  [-1, 1, 1],
].map((v) => unit(v as unknown as Vector));

/** How many of the pairs lie before both cameras. */
function ahead(pairs: RayPairs, view: View, t: Vector): number {
  let count = 0;
  for (let i = 0; i < pairs.first.length / 2; i++) {
    // Depths z of the first and s of the second ray that meet best: z y + t = s q.
    const y = turned(view, pointAt(pairs.first, i));
    const q = pointAt(pairs.second, i);
    const yy = y[0] ** 2 + y[1] ** 2 + y[2] ** 2;
    const qq = q[0] ** 2 + q[1] ** 2 + q[2] ** 2;
    const yq = y[0] * q[0] + y[1] * q[1] + y[2] * q[2];
    const yt = y[0] * t[0] + y[1] * t[1] + y[2] * t[2];
    const qt = q[0] * t[0] + q[1] * t[1] + q[2] * t[2];
    const det = yy * qq - yq * yq;
    if (yq * qt - qq * yt > 0 && yy * qt - yq * yt > 0 && det > 0) count++;
  }
  return count;
}

/** @param scale of the found places' noise at depth 1 @returns answers, best first */
export function relativePoses(pairs: RayPairs, scale: number): RelativePose[] {
  const start = turningOf(pairs, scale);
  const all = DIRECTIONS.map((direction) => {
    const { view, t } = refined(pairs, start, direction, scale);
    return { view, t, cost: costOf(pairs, view, t, scale) };
  })
    .filter((a) => Number.isFinite(a.cost))
    .sort((a, b) => a.cost - b.cost);
  const told: { view: View; t: Vector; cost: number }[] = [];
  for (const one of all) {
    if (one.cost > FIT.nearly * all[0]!.cost + 1e-9) break;
    const isNew = told.every((o) => Math.hypot(...cross(o.t, one.t)) > FIT.same);
    if (isNew) told.push(one);
  }
  return told.map(({ view, t, cost }) => {
    const back: Vector = [-t[0], -t[1], -t[2]];
    const out = view.slice();
    out.set(ahead(pairs, view, t) >= ahead(pairs, view, back) ? t : back, 9);
    return { view: out, cost };
  });
}
