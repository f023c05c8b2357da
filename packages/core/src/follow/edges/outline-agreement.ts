/**
 * How well an outline lies on the edges of a picture: stretches of its sides, each judged by the slopes that lie across
 * it, so that something may cover the others.
 */
import { outwardsOf } from '../../geometry/line';
import type { Point } from '../../geometry/point';
import type { Bounds } from '../../geometry/polygon';
import { boundsOf } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import { median } from '../../statistics';

/** Stretches of a side that are judged each for itself: something may cover the others. By trial. */
export const STRETCHES = 4;

const OUTLINE = {
  /** Places of a stretch that are looked at. By trial. */
  samples: 7,
  /** Share of a side at each end that is left out: corners are round. By trial. */
  ends: 0.06,
  /** Share of the stretches that must lie inside the picture. By trial. */
  inside: 0.6,
  /** Share of what can be seen that is let pass: so much may be covered. By trial. */
  covered: 0.25,
  /** Times the usual slope of the picture that counts as half an edge. By trial. */
  clear: 2,
} as const;

/** Slopes of a picture: direction and, between 0 and 1, how clear. */
export interface Slopes {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly width: number;
  readonly height: number;
}

/** Slopes of grey, a px, at each pixel of a level. */
export function slopesOf({ data, width, height }: PyramidLevel): Slopes {
  const x = new Float32Array(width * height);
  const y = new Float32Array(width * height);
  const size = new Float32Array(width * height);
  for (let v = 1; v < height - 1; v++)
    for (let u = 1; u < width - 1; u++) {
      const i = v * width + u;
      x[i] = data[i + 1]! - data[i - 1]!;
      y[i] = data[i + width]! - data[i - width]!;
      size[i] = Math.hypot(x[i]!, y[i]!);
    }
  const usual = median(size);
  const half = Math.max(1, OUTLINE.clear * usual);
  for (let i = 0; i < size.length; i++) {
    const share = 1 / (size[i]! + half);
    x[i]! *= share;
    y[i]! *= share;
  }
  return { x, y, width, height };
}

/** A stretch of a side on the small picture: whole places along it, their bounds, and its outward normal. */
export interface Stretch {
  readonly at: Int32Array;
  readonly bounds: Bounds;
  readonly normal: Point;
}
export type Outline = readonly Stretch[];

/** The stretches of one line. @param turn 1 when the outline runs clockwise on the picture, else -1 */
function stretchesOf(a: Point, b: Point, turn: number): Stretch[] {
  const stretches = STRETCHES;
  const { samples, ends } = OUTLINE;
  return Array.from({ length: stretches }, (_, k): Stretch => {
    const places = Array.from({ length: samples }, (__, i): Point => {
      const s = ends + ((1 - 2 * ends) * (k * samples + i + 0.5)) / (stretches * samples);
      return [Math.floor(a[0] + s * (b[0] - a[0])), Math.floor(a[1] + s * (b[1] - a[1]))];
    });
    return { at: Int32Array.from(places.flat()), bounds: boundsOf(places), normal: outwardsOf(a, b, turn) };
  });
}

/** The sides of a quad (px) with their normals, for asking how well a picture agrees with them. */
export function outlineOf(quad: Quad): Outline {
  const turn = signedArea(quad) > 0 ? 1 : -1;
  return [0, 1, 2, 3].flatMap((side) => stretchesOf(quad[side]!, quad[(side + 1) % 4]!, turn));
}

/** How much of a stretch that is shifted by whole px has an edge along it, 0 to 1; not a number outside the picture. */
function agreementOf({ at, bounds, normal }: Stretch, { x, y, width, height }: Slopes, [dx, dy]: Point): number {
  const { x0, y0, x1, y1 } = bounds;
  if (x0 + dx < 1 || y0 + dy < 1 || x1 + dx >= width - 1 || y1 + dy >= height - 1) return NaN;
  const from = dy * width + dx;
  let across = 0;
  let down = 0;
  for (let i = 0; i < at.length; i += 2) {
    const k = from + at[i + 1]! * width + at[i]!;
    across += x[k]!;
    down += y[k]!;
  }
  return Math.abs(across * normal[0] + down * normal[1]) / OUTLINE.samples;
}

/**
 * Agreements of the stretches of one line, into `room` from `at` on; those outside the picture are left out. The same as
 * by `stretchesOf`, for lines that are looked at once.
 * @param turn 1 when the outline runs clockwise on the picture, else -1
 * @returns how many were told
 */
export function agreementsAlong(
  { x, y, width, height }: Slopes,
  [a, b]: readonly [Point, Point],
  turn: number,
  room: Float64Array,
  at: number,
): number {
  const stretches = STRETCHES;
  const { samples, ends } = OUTLINE;
  const [nx, ny] = outwardsOf(a, b, turn);
  const step = (1 - 2 * ends) / (stretches * samples);
  const dx = step * (b[0] - a[0]);
  const dy = step * (b[1] - a[1]);
  let u = a[0] + (ends / step + 0.5) * dx;
  let v = a[1] + (ends / step + 0.5) * dy;
  let told = 0;
  for (let k = 0; k < stretches; k++) {
    let sum = 0;
    let isInside = true;
    for (let i = 0; i < samples; i++, u += dx, v += dy) {
      const column = Math.floor(u);
      const row = Math.floor(v);
      if (column < 1 || row < 1 || column >= width - 1 || row >= height - 1) isInside = false;
      else sum += x[row * width + column]! * nx + y[row * width + column]! * ny;
    }
    if (isInside) room[at + told++] = Math.abs(sum) / samples;
  }
  return told;
}

/** Mean of the agreements that were told, without the worst, which may be covered. @param all that could be told */
export function scoreOfTold(room: Float64Array, told: number, all: number): number {
  if (told < OUTLINE.inside * all) return 0;
  const sorted = room.subarray(0, told).sort();
  let sum = 0;
  for (let k = Math.floor(OUTLINE.covered * told); k < told; k++) sum += sorted[k]!;
  return sum / told;
}

/** Agreement of the stretches that can be seen, into `room`; how many can. */
function agreements(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  let seen = 0;
  for (let k = 0; k < room.length; k++) {
    const a = agreementOf(outline[k]!, slopes, shift);
    if (!Number.isNaN(a)) room[seen++] = a;
  }
  return seen;
}

/** Mean agreement of the stretches that can be seen: never less than {@link scoreOf}; 0 where too little can be. */
export function meanOf(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  const seen = agreements(outline, slopes, shift, room);
  if (seen < OUTLINE.inside * room.length) return 0;
  let sum = 0;
  for (let k = 0; k < seen; k++) sum += room[k]!;
  return sum / seen;
}

/** The same without the worst of them, which may be covered. */
export function scoreOf(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  return scoreOfTold(room, agreements(outline, slopes, shift, room), room.length);
}
