/**
 * Straight stretches of edges: neighbouring px whose slopes point the same way grow together, and the line through them is
 * their principal axis. Source: R. Grompone von Gioi et al., LSD: a line segment detector, 2010 (region growing and its
 * angle; from memory); stretches are told by their length and density here, not by a number of false alarms.
 */
import { principalDirection } from '../geometry/line';
import type { Point } from '../geometry/point';
import type { Slopes } from './small-picture';

export interface Segment {
  readonly a: Point;
  readonly b: Point;
  readonly length: number;
  /** mean slope across it, code values a px */
  readonly strength: number;
}

const SEGMENTS = {
  /** Code values a px; flatter px belong to no edge, whatever the noise. By trial. */
  leastSlope: 1.2,
  /** Of the noise's standard deviation, which the softened difference passes on at 0.3. By trial. */
  perNoise: 1,
  /** Radians between a px's slope and its region's. Source: the paper. */
  angle: (22.5 * Math.PI) / 180,
  /** px of a region at the least. By trial. */
  leastPixels: 10,
  /** px of length at the least. By trial. */
  leastLength: 9,
  /** Length over width of what still is a stretch of an edge. By trial. */
  leastSlender: 2.5,
  /** Steps by which slopes are put in order, strongest first. */
  steps: 1024,
} as const;

/** Indices of all px steeper than `least`, steepest first, in steps. */
function steepestFirst({ size }: Slopes, least: number): Uint32Array {
  let most = least;
  for (const v of size) if (v > most) most = v;
  const stepOf = (v: number): number =>
    SEGMENTS.steps -
    1 -
    Math.min(SEGMENTS.steps - 1, Math.floor(((v - least) / (most - least + 1e-9)) * SEGMENTS.steps));
  const starts = new Uint32Array(SEGMENTS.steps + 1);
  for (const v of size) if (v >= least) starts[stepOf(v) + 1]!++;
  for (let k = 0; k < SEGMENTS.steps; k++) starts[k + 1]! += starts[k]!;
  const order = new Uint32Array(starts[SEGMENTS.steps]!);
  for (let i = 0; i < size.length; i++) if (size[i]! >= least) order[starts[stepOf(size[i]!)]!++] = i;
  return order;
}

/** Px that hang together with `seed` and whose slopes point like the mean of all of them; they count as used. */
function grown(s: Slopes, seed: number, least: number, used: Uint8Array): number[] {
  const { width } = s;
  const region = [seed];
  used[seed] = 1;
  let [sumX, sumY] = [s.x[seed]! / s.size[seed]!, s.y[seed]! / s.size[seed]!];
  const likeness = Math.cos(SEGMENTS.angle);
  for (let k = 0; k < region.length; k++)
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const i = region[k]! + dy * width + dx;
        if (used[i] || !(s.size[i]! >= least)) continue;
        const [ux, uy] = [s.x[i]! / s.size[i]!, s.y[i]! / s.size[i]!];
        if (ux * sumX + uy * sumY < likeness * Math.hypot(sumX, sumY)) continue;
        used[i] = 1;
        region.push(i);
        sumX += ux;
        sumY += uy;
      }
  return region;
}

/** The principal axis of a region, px weighed by their slope; null when it is not long and slender. */
function axisOf({ width, size }: Slopes, region: readonly number[]): Segment | null {
  let [sum, mx, my] = [0, 0, 0];
  for (const i of region) {
    sum += size[i]!;
    mx += size[i]! * (i % width);
    my += size[i]! * Math.floor(i / width);
  }
  mx /= sum;
  my /= sum;
  let [xx, xy, yy] = [0, 0, 0];
  for (const i of region) {
    const [dx, dy] = [(i % width) - mx, Math.floor(i / width) - my];
    xx += size[i]! * dx * dx;
    xy += size[i]! * dx * dy;
    yy += size[i]! * dy * dy;
  }
  const [ux, uy] = principalDirection(xx, xy, yy);
  let [from, to, left, right] = [0, 0, 0, 0];
  for (const i of region) {
    const [dx, dy] = [(i % width) - mx, Math.floor(i / width) - my];
    const along = dx * ux + dy * uy;
    const across = dy * ux - dx * uy;
    from = Math.min(from, along);
    to = Math.max(to, along);
    left = Math.min(left, across);
    right = Math.max(right, across);
  }
  const length = to - from;
  if (length < SEGMENTS.leastLength || length < SEGMENTS.leastSlender * (right - left + 1)) return null;
  // A px's middle lies half a px beyond its index.
  const at = (t: number): Point => [mx + 0.5 + t * ux, my + 0.5 + t * uy];
  return { a: at(from), b: at(to), length, strength: sum / region.length };
}

/**
 * @param noise standard deviation of a px's noise, code values
 * @returns in px of the small picture, longest first
 */
export function segmentsOf(slopes: Slopes, noise: number): Segment[] {
  const least = Math.max(SEGMENTS.leastSlope, SEGMENTS.perNoise * noise);
  const used = new Uint8Array(slopes.size.length);
  const found: Segment[] = [];
  for (const seed of steepestFirst(slopes, least)) {
    if (used[seed]) continue;
    const region = grown(slopes, seed, least, used);
    const axis = region.length < SEGMENTS.leastPixels ? null : axisOf(slopes, region);
    if (axis) found.push(axis);
  }
  return found.sort((p, q) => q.length - p.length);
}
