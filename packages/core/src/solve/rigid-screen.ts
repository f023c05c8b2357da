/**
 * What a flat, stiff rectangle in front of one lens allows: four corners have eight freedoms, a pose has six. The two
 * that are left over (the sides' angle and their ratio, seen through the focal length) are the same on every frame, so
 * once a few views have told them, three sides of a screen give the fourth, and corners outside the picture hold still.
 * Source: Z. Zhang, A Flexible New Technique for Camera Calibration, PAMI 2000 (the two constraints of a plane's view).
 */
import { clamp } from '../clamp';
import { invertSymmetric } from '../geometry/linear-algebra';
import type { Equations } from '../geometry/motion-equations';
import { addScalar, pointJacobian } from '../geometry/motion-equations';
import type { Matrix3 } from '../geometry/matrix3';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { median } from '../statistics';
import type { Picture } from './screen-shape';
import { shapeGradients, shapeOf } from './screen-shape';

/** A view that is well known: corners in px, and what is known of them (8x8, px^-2). */
export interface View {
  readonly corners: Quad;
  readonly information: Float64Array;
}

export interface RigidScreen {
  /** focal length in picture widths */
  readonly focal: number;
  /**
   * scalars that should be zero, each with its gradient by the eight corner coordinates (px) and one over its variance
   * @param speed of the fastest corner, px a frame: rows that are read one after the other skew what moves
   */
  readonly constraints: (corners: Quad, speed: number) => readonly Constraint[];
}

export interface Constraint {
  readonly value: number;
  readonly gradient: Float64Array;
  readonly weight: number;
}

const RIGID = {
  /** Picture widths; the shortest focal length that is tried. By trial. */
  shortest: 0.45,
  /** Picture widths; the longest one; real lenses lie well inside. By trial. */
  longest: 9,
  /** Focal lengths that are tried, evenly on a logarithmic scale. By trial. */
  tried: 28,
  /** The same around the best of them. By trial. */
  triedFiner: 7,
  /** Rounds of the search. By trial. */
  rounds: 4,
  /** Radians, and relative ratio, that a real screen and lens stray by at the least. By trial. */
  leastSlack: 0.0005,
  /** The same before there are enough views. By trial. */
  firstSlack: 0.02,
  /** Views that are enough. By trial. */
  enough: 8,
  /** Picture widths; movement of the corners that makes a view another one altogether. By trial. */
  otherView: 0.2,
  /** Picture widths; the lens before any view told it. Common practice, no source: a normal one. */
  usualFocal: 1.3,
  /** Standard deviation of its logarithm. By trial. */
  focalSpread: 0.6,
  /**
   * Share of a frame's time between the reading of the first row and the last that a camera may well have. By trial.
   */
  readout: 0.3,
  /** Radians; how far the pin's own angle may be from a right one: it is set by hand. By trial. */
  pinAngle: 0.02,
  /** Variance of the logarithm of the squared focal length when the views say nothing of it. By trial. */
  mostLogVariance: 1.5,
} as const;

function variance(covariance: Float64Array, g: Float64Array): number {
  let s = 0;
  for (let i = 0; i < 8; i++) for (let j = 0; j < 8; j++) s += g[i]! * covariance[i * 8 + j]! * g[j]!;
  return s;
}

type Means = readonly [angle: ReturnType<typeof about>, ratio: ReturnType<typeof about>];

interface Reading {
  readonly value: number;
  readonly variance: number;
}

/**
 * Weighted mean, drawn towards zero when `trustZero` (one over a variance) says so; and the cost about it.
 * @param slack per reading, how far it may stray beyond its own variance
 */
function about(
  readings: readonly Reading[],
  slack: (i: number) => number,
  trustZero: number,
): { mean: number; variance: number; cost: number } {
  let w = trustZero;
  let s = 0;
  let cost = 0;
  for (const [i, r] of readings.entries()) {
    const k = 1 / (r.variance + slack(i) ** 2);
    w += k;
    s += k * r.value;
  }
  const mean = s / w;
  for (const [i, r] of readings.entries()) cost += Math.min(9, (r.value - mean) ** 2 / (r.variance + slack(i) ** 2));
  return { mean, variance: 1 / w, cost: cost + trustZero * mean * mean };
}

/** Angle and ratio as every view tells them behind one lens. */
interface Readings {
  readonly angle: readonly Reading[];
  readonly ratio: readonly Reading[];
}

interface KnownView {
  readonly corners: Quad;
  readonly covariance: Float64Array;
}

function readAt(views: readonly KnownView[], picture: Picture, phi: number): Readings {
  const angle: Reading[] = [];
  const ratio: Reading[] = [];
  for (const { corners, covariance } of views) {
    const [a, r] = shapeOf(corners, picture, phi);
    const [ga, gr] = shapeGradients(corners, picture, phi);
    angle.push({ value: a, variance: variance(covariance, ga) });
    ratio.push({ value: r, variance: variance(covariance, gr) });
  }
  return { angle, ratio };
}

/** One over the variance of the pin's own angle about a right one. */
const RIGHT_ANGLE = 1 / RIGID.pinAngle ** 2;
/** Median of a squared normal variable of variance 1. */
const MEDIAN_OF_SQUARES = 0.455;

/** Variance by which readings stray beyond their own. */
function strayOf({ angle, ratio }: Readings, slack: () => number): number {
  const a = about(angle, slack, RIGHT_ANGLE).mean;
  const m = about(ratio, slack, 0).mean;
  const off = [...angle.map((q) => (q.value - a) ** 2), ...ratio.map((q) => (q.value - m) ** 2)];
  return median(off) / MEDIAN_OF_SQUARES - median([...angle, ...ratio].map((q) => q.variance));
}

/** The lens that views tell, as far as they do. */
interface Lens {
  /** squared focal length, half widths */
  readonly phi: number;
  /** variance of its logarithm */
  readonly logVariance: number;
  /** by which a real screen and lens stray */
  readonly slack: number;
}

/** Coarse over all lenses, then finer around the best; the slack is what the views leave over at the best. */
function searchLens(views: readonly KnownView[], picture: Picture): Lens {
  let slack: number = RIGID.firstSlack;
  let middle = 0.5 * Math.log(RIGID.shortest * RIGID.longest);
  let step = Math.log(RIGID.longest / RIGID.shortest) / (RIGID.tried - 1);
  let tried: number = RIGID.tried;
  let logVariance: number = RIGID.mostLogVariance;
  const even = (): number => slack;
  for (let round = 0; round < RIGID.rounds; round++) {
    const logs = Array.from({ length: tried }, (_, k) => middle + (k - (tried - 1) / 2) * step);
    const readings = logs.map((l) => readAt(views, picture, (2 * Math.exp(l)) ** 2));
    const costs = readings.map((r, k) => {
      const usual = (logs[k]! - Math.log(RIGID.usualFocal)) / RIGID.focalSpread;
      return about(r.angle, even, RIGHT_ANGLE).cost + about(r.ratio, even, 0).cost + usual ** 2;
    });
    const best = costs.indexOf(Math.min(...costs));
    const stray = strayOf(readings[best]!, even);
    if (views.length >= RIGID.enough) slack = Math.sqrt(Math.max(RIGID.leastSlack ** 2, stray));
    const l = costs[best - 1];
    const n = costs[best + 1];
    const bend = l !== undefined && n !== undefined ? l - 2 * costs[best]! + n : 0;
    middle = logs[best]! + (bend > 0 ? step * clamp((0.5 * (l! - n!)) / bend, -0.5, 0.5) : 0);
    // Half the second derivative of the cost by ln(phi), which is twice the logarithm here, is one over its variance.
    logVariance = bend > 0 ? Math.min(RIGID.mostLogVariance, (2 * (2 * step) ** 2) / bend) : RIGID.mostLogVariance;
    [step, tried] = [step / 3, RIGID.triedFiner];
  }
  return { phi: (2 * Math.exp(middle)) ** 2, logVariance, slack };
}

/** Another lens than the one that was found, for what an unknown one would do. */
const OTHER_LENS = 1.05;

/** What the views allow elsewhere. */
function constraintsOf(views: readonly KnownView[], picture: Picture, lens: Lens): RigidScreen['constraints'] {
  const { phi } = lens;
  const width = 2 * picture.half;
  const stored = [readAt(views, picture, phi), readAt(views, picture, phi * OTHER_LENS)] as const;
  // A lens that is not known yet shows itself only as the view changes: what it does to views near this one it does
  // to this one.
  const slackOf = (view: Quad, corners: Quad): number => {
    const off = Math.max(...view.map((p, i) => distance(p, corners[i]!))) / (RIGID.otherView * width);
    const share = views.length >= RIGID.enough ? 1 : Math.min(1, off);
    return Math.max(RIGID.leastSlack, lens.slack * share);
  };
  return (corners, speed) => {
    const slacks = views.map((v) => slackOf(v.corners, corners));
    const near = (i: number): number => slacks[i]!;
    const [[angle, ratio], [angle2, ratio2]] = stored.map(
      (r) => [about(r.angle, near, RIGHT_ANGLE), about(r.ratio, near, 0)] as const,
    ) as unknown as readonly [Means, Means];
    const skew = (RIGID.readout * speed) / width;
    const own = Math.min(...slacks);
    const loose = own * own + skew * skew;
    const [a, q] = shapeOf(corners, picture, phi);
    const [ga, gq] = shapeGradients(corners, picture, phi);
    const [a2, q2] = shapeOf(corners, picture, phi * OTHER_LENS);
    // What an unknown lens does to a view it also does to those that the means are of: only the difference is unknown.
    const da = (a2 - angle2.mean - a + angle.mean) / Math.log(OTHER_LENS);
    const dq = (q2 - ratio2.mean - q + ratio.mean) / Math.log(OTHER_LENS);
    return [
      { value: a - angle.mean, gradient: ga, weight: 1 / (loose + angle.variance + da * da * lens.logVariance) },
      { value: q - ratio.mean, gradient: gq, weight: 1 / (loose + ratio.variance + dq * dq * lens.logVariance) },
    ];
  };
}

/** Views near each other say nothing of the lens, but much of views near them. @returns null without a view */
export function calibrate(views: readonly View[], width: number, height: number): RigidScreen | null {
  const known = views.flatMap((v): KnownView[] => {
    const covariance = invertSymmetric(v.information, 8);
    return covariance ? [{ corners: v.corners, covariance }] : [];
  });
  if (known.length === 0) return null;
  const picture = { half: width / 2, cx: width / 2, cy: height / 2 };
  const lens = searchLens(known, picture);
  return { focal: Math.sqrt(lens.phi) / 2, constraints: constraintsOf(known, picture, lens) };
}

/** Adds the constraints to normal equations; `h` maps (u, v) of the corners to px. */
export function addRigid(
  eq: Equations,
  rigid: RigidScreen,
  h: Matrix3,
  u: readonly number[],
  v: readonly number[],
  speed: number,
): void {
  const rows = [0, 1, 2, 3].map(() => new Float64Array(16));
  const corners = rows.map((r, i) => pointJacobian(h, u[i]!, v[i]!, r)) as unknown as Quad;
  for (const c of rigid.constraints(corners, speed)) {
    if (!Number.isFinite(c.value)) continue;
    const j = new Float64Array(8);
    for (let i = 0; i < 4; i++)
      for (let p = 0; p < 8; p++)
        j[p]! += c.gradient[2 * i]! * rows[i]![p]! + c.gradient[2 * i + 1]! * rows[i]![8 + p]!;
    addScalar(eq, j, c.value, c.weight);
  }
}

/** What the constraints add to the information on the corners, 8x8 in px^-2, in place. */
export function addRigidInformation(information: Float64Array, rigid: RigidScreen, corners: Quad, speed: number): void {
  for (const c of rigid.constraints(corners, speed))
    for (let i = 0; i < 8; i++)
      for (let j = 0; j < 8; j++) information[i * 8 + j]! += c.weight * c.gradient[i]! * c.gradient[j]!;
}

/** By how many standard deviations corners that are known that well contradict a stiff screen. */
export function rigidMisfit(information: Float64Array, rigid: RigidScreen, corners: Quad, speed: number): number {
  const covariance = invertSymmetric(information, 8);
  if (!covariance) return 0;
  return Math.max(
    ...rigid
      .constraints(corners, speed)
      .map((c) => Math.abs(c.value) / Math.sqrt(1 / c.weight + variance(covariance, c.gradient))),
  );
}
