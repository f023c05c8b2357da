/**
 * Where the sides of a Screen that was lost may lie: the outlines of known views, shifted over the whole picture and made
 * somewhat larger and smaller, wherever long edges run along them. Dark, blank and green glass has nothing else to be
 * found by. Looked for on a small picture; what comes of a place is for a closer look to say.
 */
import { mapPoint } from '../geometry/homography';
import { outwardsOf } from '../geometry/line';
import type { Matrix3 } from '../geometry/matrix3';
import { multiply, translation } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
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

/** An outline on the small picture: places along its stretches, one stretch after the other, and outward normals. */
interface Outline {
  readonly at: Float32Array;
  readonly normal: Float32Array;
}

function outlineOf(quad: Quad): Outline {
  const turn = signedArea(quad) > 0 ? 1 : -1;
  const { stretches, samples, ends } = OUTLINES;
  const at: number[] = [];
  const normal: number[] = [];
  for (let side = 0; side < 4; side++) {
    const [a, b] = [quad[side]!, quad[(side + 1) % 4]!];
    const n = outwardsOf(a, b, turn);
    for (let i = 0; i < stretches * samples; i++) {
      const s = ends + ((1 - 2 * ends) * (i + 0.5)) / (stretches * samples);
      at.push(a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1]));
      normal.push(n[0], n[1]);
    }
  }
  return { at: Float32Array.from(at), normal: Float32Array.from(normal) };
}

/** How much of a stretch that begins at sample `first` has an edge along it, 0 to 1; not a number outside the picture. */
function agreementOf({ at, normal }: Outline, first: number, { x, y, width, height }: Slopes, [dx, dy]: Point): number {
  let sum = 0;
  for (let i = first; i < first + OUTLINES.samples; i++) {
    const u = Math.floor(at[2 * i]! + dx);
    const v = Math.floor(at[2 * i + 1]! + dy);
    if (u < 1 || v < 1 || u >= width - 1 || v >= height - 1) return NaN;
    const k = v * width + u;
    sum += x[k]! * normal[2 * i]! + y[k]! * normal[2 * i + 1]!;
  }
  return Math.abs(sum) / OUTLINES.samples;
}

/** Mean agreement of the stretches that can be seen, the worst of them let pass; 0 where too little can be. */
function scoreOf(outline: Outline, slopes: Slopes, shift: Point, room: Float64Array): number {
  let seen = 0;
  for (let k = 0; k < room.length; k++) {
    const a = agreementOf(outline, k * OUTLINES.samples, slopes, shift);
    if (!Number.isNaN(a)) room[seen++] = a;
  }
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

/** The view made larger about its middle, reference frame to frame. */
function sized(h: Matrix3, middle: Point, size: number): Matrix3 {
  const [x, y] = middle;
  return multiply([size, 0, x - size * x, 0, size, y - size * y, 0, 0, 1], h);
}

function bestOf(h: Matrix3, pin: Quad, slopes: Slopes, level: PyramidLevel, k: number): Place[] {
  const quad = mapQuad(h, pin).map(([x, y]): Point => [x / k - level.x0, y / k - level.y0]) as unknown as Quad;
  const outline = outlineOf(quad);
  const middle: Point = [
    (quad[0][0] + quad[1][0] + quad[2][0] + quad[3][0]) / 4,
    (quad[0][1] + quad[1][1] + quad[2][1] + quad[3][1]) / 4,
  ];
  const room = new Float64Array(4 * OUTLINES.stretches);
  const found: Place[] = [];
  for (let v = 0; v < slopes.height; v++)
    for (let u = 0; u < slopes.width; u++) {
      const shift: Point = [u - Math.floor(middle[0]), v - Math.floor(middle[1])];
      const score = scoreOf(outline, slopes, shift, room);
      if (score < OUTLINES.worth) continue;
      const place = multiply(translation(k * shift[0], k * shift[1]), h);
      found.push({ place, middle: [middle[0] + shift[0], middle[1] + shift[1]], score });
    }
  return found;
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
  const all = views
    .flatMap((h) => OUTLINES.sizes.map((size) => sized(h, mapPoint(h, centre), size)))
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
