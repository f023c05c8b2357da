/**
 * Where the sides of a Screen that was lost may lie: the outlines of known views, shifted over the whole picture, made
 * somewhat larger and smaller and turned, wherever long edges run along them. Dark, blank and green glass has nothing else to be
 * found by. Looked for on a small picture; what comes of a place is for a closer look to say.
 */
import { mapPoint } from '../../geometry/homography';
import type { Line } from '../../geometry/line';
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply, translation } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import { halve } from '../../image/pyramid';
import type { Slopes } from './outline-agreement';
import { meanOf, outlineOf, scoreOf, slopesOf } from './outline-agreement';
import { refinerOf } from './outline-refinement';

const OUTLINES = {
  /** px; width of the picture that is searched, at the most. By trial. */
  width: 160,
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
  /** Mean agreement, 0 to 1, from which a place is worth a look. By trial. */
  worth: 0.4,
  /** px of the small picture by which places must differ. By trial. */
  apart: 4,
  /** Places that are looked at on larger pictures. By trial. */
  larger: 8,
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

/** The picture as small as it is searched, and how many times smaller it is. */
function smallOf(pyramid: Pyramid): { readonly level: PyramidLevel; readonly k: number } {
  let index = pyramid.findIndex((l) => l.width <= OUTLINES.width);
  if (index < 0) index = pyramid.length - 1;
  let level = pyramid[index]!;
  let k = 1 << index;
  for (; level.width > OUTLINES.width; k *= 2) level = { ...halve(level), x0: level.x0 / 2, y0: level.y0 / 2 };
  return { level, k };
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
  const room = new Float64Array(outline.length);
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

/** The best places that are not one and the same. @param apart px by which their middles differ at least */
function distinct(places: readonly Place[], apart: number, most: number): Place[] {
  const told: Place[] = [];
  for (const p of [...places].sort((a, b) => b.score - a.score)) {
    if (told.length >= most) break;
    const isNew = told.every((q) => Math.hypot(p.middle[0] - q.middle[0], p.middle[1] - q.middle[1]) > apart);
    if (isNew) told.push(p);
  }
  return told;
}

/**
 * @param views maps of the reference frame to where it was seen
 * @param lines of the device, beside the pin's own sides
 * @param pyramid of the whole frame
 * @returns maps of the reference frame to this one, the likeliest first
 */
export function placesOfOutlines(
  pin: Quad,
  views: readonly Matrix3[],
  lines: readonly Line[],
  pyramid: Pyramid,
): Matrix3[] {
  const { level, k } = smallOf(pyramid);
  const slopes = slopesOf(level);
  const centre: Point = [(pin[0][0] + pin[2][0]) / 2, (pin[0][1] + pin[2][1]) / 2];
  const rough = variantsOf(views, centre).flatMap((h) => bestOf(h, pin, slopes, level, k));
  const refine = refinerOf(pin, lines, pyramid);
  const fine = distinct(rough, OUTLINES.apart, OUTLINES.larger).map(({ place }): Place => {
    const better = refine(place);
    return { ...better, middle: mapPoint(better.place, centre) };
  });
  return distinct(fine, k, OUTLINES.most).map((p) => p.place);
}
