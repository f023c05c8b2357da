/**
 * Where the sides of a Screen that was lost may lie: the outlines of known views, shifted over the whole picture, made
 * somewhat larger and smaller and turned, wherever long edges run along them. Dark, blank and green glass has nothing else to be
 * found by. Looked for on a small picture; what comes of a place is for a closer look to say.
 */
import { mapPoint } from '../geometry/homography';
import { outwardsOf } from '../geometry/line';
import type { Matrix3 } from '../geometry/matrix3';
import { multiply, translation } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { Bounds } from '../geometry/polygon';
import { boundsOf } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { mapQuad, signedArea } from '../geometry/quad';
import type { Pyramid, PyramidLevel } from '../image/pyramid';
import { halve } from '../image/pyramid';

const OUTLINES = {
  /** px; width of the picture that is searched, at the most. By trial. */
  width: 160,
  /** Stretches of a side that are judged each for itself: something may cover the others. By trial. */
  stretches: 4,
  /** Places of a stretch that are looked at. By trial. */
  samples: 7,
  /** Share of a side at each end that is left out: corners are round. By trial. */
  ends: 0.06,
  /** Sizes that are tried, times that of the view. By trial. */
  sizes: [1, 0.87, 1.15],
  /** Radians between the turns in the picture that are tried, and the farthest: beyond a quarter, sides are mistaken. By trial. */
  turns: { step: 0.14, most: 1.65 },
  /** Views that are tried turned as well. By trial. */
  turnedViews: 2,
  /** px of the small picture between places of the first search. By trial. */
  stride: 2,
  /** Share of what is worth a look that is asked for there. By trial. */
  roughly: 0.75,
  /** Places of the first search that are looked at closely, for each outline. By trial. */
  refined: 6,
  /** Share of the stretches that must lie inside the picture. By trial. */
  inside: 0.6,
  /** Share of what can be seen that is let pass: so much may be covered. By trial. */
  covered: 0.25,
  /** Times the usual slope of the picture that counts as half an edge. By trial. */
  clear: 2,
  /** Mean agreement, 0 to 1, from which a place is worth a look. By trial. */
  worth: 0.4,
  /** px of the small picture by which places must differ. By trial. */
  apart: 4,
  /** Places that are told. By trial. */
  most: 4,
} as const;

/** px about a place of the first search. */
const AROUND = [
  [-1, -1],
  [0, -1],
  [1, -1],
  [-1, 0],
  [1, 0],
  [-1, 1],
  [0, 1],
  [1, 1],
] as const;

/** Slopes of a picture: direction and, between 0 and 1, how clear. */
interface Slopes {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly width: number;
  readonly height: number;
}

function slopesOf({ data, width, height }: PyramidLevel): Slopes {
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
  const usual = Float32Array.from(size).sort()[size.length >> 1]!;
  const half = Math.max(1, OUTLINES.clear * usual);
  for (let i = 0; i < size.length; i++) {
    const share = 1 / (size[i]! + half);
    x[i]! *= share;
    y[i]! *= share;
  }
  return { x, y, width, height };
}

/** The picture as small as it is searched, and how many times smaller it is. */
function smallOf(pyramid: Pyramid): { readonly level: PyramidLevel; readonly k: number } {
  let index = pyramid.findIndex((l) => l.width <= OUTLINES.width);
  if (index < 0) index = pyramid.length - 1;
  let level = pyramid[index]!;
  let k = 1 << index;
  for (; level.width > OUTLINES.width; k *= 2) level = { ...halve(level), x0: level.x0 / 2, y0: level.y0 / 2 };
  return { level, k };
}

/** A stretch of a side on the small picture: whole places along it, their bounds, and its outward normal. */
interface Stretch {
  readonly at: Int32Array;
  readonly bounds: Bounds;
  readonly normal: Point;
}
type Outline = readonly Stretch[];

function outlineOf(quad: Quad): Outline {
  const turn = signedArea(quad) > 0 ? 1 : -1;
  const { stretches, samples, ends } = OUTLINES;
  const out: Stretch[] = [];
  for (let side = 0; side < 4; side++) {
    const [a, b] = [quad[side]!, quad[(side + 1) % 4]!];
    for (let k = 0; k < stretches; k++) {
      const places = Array.from({ length: samples }, (_, i): Point => {
        const s = ends + ((1 - 2 * ends) * (k * samples + i + 0.5)) / (stretches * samples);
        return [Math.floor(a[0] + s * (b[0] - a[0])), Math.floor(a[1] + s * (b[1] - a[1]))];
      });
      out.push({ at: Int32Array.from(places.flat()), bounds: boundsOf(places), normal: outwardsOf(a, b, turn) });
    }
  }
  return out;
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
  return Math.abs(across * normal[0] + down * normal[1]) / OUTLINES.samples;
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
function meanOf(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  const seen = agreements(outline, slopes, shift, room);
  if (seen < OUTLINES.inside * room.length) return 0;
  let sum = 0;
  for (let k = 0; k < seen; k++) sum += room[k]!;
  return sum / seen;
}

/** The same without the worst of them, which may be covered. */
function scoreOf(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  const seen = agreements(outline, slopes, shift, room);
  if (seen < OUTLINES.inside * room.length) return 0;
  const sorted = room.subarray(0, seen).sort();
  let sum = 0;
  for (let k = Math.floor(OUTLINES.covered * seen); k < seen; k++) sum += sorted[k]!;
  return sum / seen;
}

interface Place {
  readonly place: Matrix3;
  readonly middle: Point;
  readonly score: number;
}

/** The view made larger and turned about its middle, reference frame to frame. */
function changed(h: Matrix3, [x, y]: Point, size: number, turn: number): Matrix3 {
  const c = size * Math.cos(turn);
  const s = size * Math.sin(turn);
  return multiply([c, -s, x - c * x + s * y, s, c, y - s * x - c * y, 0, 0, 1], h);
}

/** Views in other sizes, and the first few of them turned. */
function variantsOf(views: readonly Matrix3[], centre: Point): Matrix3[] {
  const { step, most } = OUTLINES.turns;
  const turns: number[] = [];
  for (let turn = step; turn <= most; turn += step) turns.push(turn, -turn);
  return views.flatMap((h, i) => {
    const middle = mapPoint(h, centre);
    const large = OUTLINES.sizes.map((size) => changed(h, middle, size, 0));
    return i < OUTLINES.turnedViews ? [...large, ...turns.map((turn) => changed(h, middle, 1, turn))] : large;
  });
}

function bestOf(h: Matrix3, pin: Quad, slopes: Slopes, level: PyramidLevel, k: number): Place[] {
  const quad = mapQuad(h, pin).map(([x, y]): Point => [x / k - level.x0, y / k - level.y0]) as unknown as Quad;
  const outline = outlineOf(quad);
  const middle: Point = [
    (quad[0][0] + quad[1][0] + quad[2][0] + quad[3][0]) / 4,
    (quad[0][1] + quad[1][1] + quad[2][1] + quad[3][1]) / 4,
  ];
  const room = new Float64Array(4 * OUTLINES.stretches);
  const shiftTo = (u: number, v: number): Point => [u - Math.floor(middle[0]), v - Math.floor(middle[1])];
  const at = (u: number, v: number): { readonly shift: Point; readonly score: number } => {
    const shift = shiftTo(u, v);
    return { shift, score: scoreOf(outline, slopes, shift, room) };
  };
  const rough: { readonly u: number; readonly v: number; readonly score: number }[] = [];
  for (let v = 0; v < slopes.height; v += OUTLINES.stride)
    for (let u = 0; u < slopes.width; u += OUTLINES.stride) {
      const score = meanOf(outline, slopes, shiftTo(u, v), room);
      if (score > OUTLINES.roughly * OUTLINES.worth) rough.push({ u, v, score });
    }
  rough.sort((a, b) => b.score - a.score);
  return rough.slice(0, OUTLINES.refined).flatMap(({ u, v }) => {
    let best = at(u, v);
    for (const [du, dv] of AROUND) {
      const near = at(u + du, v + dv);
      if (near.score > best.score) best = near;
    }
    if (best.score < OUTLINES.worth) return [];
    const [dx, dy] = best.shift;
    const place = multiply(translation(k * dx, k * dy), h);
    return [{ place, middle: [middle[0] + dx, middle[1] + dy] as const, score: best.score }];
  });
}

/**
 * @param views maps of the reference frame to where it was seen
 * @param pyramid of the whole frame
 * @returns maps of the reference frame to this one, the likeliest first
 */
export function placesOfOutlines(pin: Quad, views: readonly Matrix3[], pyramid: Pyramid): Matrix3[] {
  const { level, k } = smallOf(pyramid);
  const slopes = slopesOf(level);
  const centre: Point = [(pin[0][0] + pin[2][0]) / 2, (pin[0][1] + pin[2][1]) / 2];
  const all = variantsOf(views, centre)
    .flatMap((h) => bestOf(h, pin, slopes, level, k))
    .sort((a, b) => b.score - a.score);
  const told: Place[] = [];
  for (const p of all) {
    if (told.length >= OUTLINES.most) break;
    const isNew = told.every((q) => Math.hypot(p.middle[0] - q.middle[0], p.middle[1] - q.middle[1]) > OUTLINES.apart);
    if (isNew) told.push(p);
  }
  return told.map((p) => p.place);
}
