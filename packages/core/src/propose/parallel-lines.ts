/**
 * All lines of a device beside one side of its outline: glass, bezel, rim and body lie parallel in space, so that what is
 * seen along every parallel of the side is put together, and a line of a step of one code value stands out.
 */
import { mapPoint } from '../geometry/homography';
import type { Matrix3 } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { median } from '../statistics';
import type { SmallPicture } from './small-picture';

export type Colour = readonly [r: number, g: number, b: number];

/** What is seen along one parallel of a side. */
export interface Parallel {
  /** the median along it */
  readonly colour: Colour;
  /** share of its places that are about of that colour */
  readonly even: number;
}

/** All parallels of a side, from beyond it inwards, and the lines among them. */
export interface SideParallels {
  /** null where the picture ends */
  readonly all: readonly (Parallel | null)[];
  /** share of the outline's extent from one to the next, and of the first; negative ones lie beyond the side */
  readonly each: number;
  readonly first: number;
  /** lines of the device: index among all, with a fraction; from the outside inwards */
  readonly lines: readonly { readonly at: number; readonly step: number }[];
}

/** px from one parallel to the next. By trial. */
export const APART = 0.5;

const PARALLELS = {
  /** Share of a side's length left out at each end: corners are rounded. By trial. */
  ends: 0.1,
  /** Places along a parallel. By trial. */
  places: 64,
  /** px to either side of a line where its step is told. By trial. */
  aside: 1.25,
  /** Code values by which a place may differ from the others of its parallel. By trial. */
  alike: 14,
  /** The same, in standard deviations of the noise. By trial. */
  alikeNoise: 3,
  /** Code values of a step at the least. By trial. */
  leastStep: 1.5,
  /** The same, in standard errors of a median of so many places. By trial. */
  leastErrors: 5,
  /** Lines of a side that are kept, clearest first. By trial. */
  most: 8,
} as const;

/** How far it is looked from a side: share of the outline's extent beyond it, and within. */
export interface Reach {
  readonly beyond: number;
  readonly within: number;
}

/** From the glass to the body's outline, or back. By trial. */
export const WHOLE_DEVICE: Reach = { beyond: 0.14, within: 0.24 };

/** Standard error of a median over the noise, for the places of a parallel. Source: common practice, no source. */
const MEDIAN_ERROR = 1.2533 / Math.sqrt(PARALLELS.places);

/** Where a place along a side, and so deep within it, lies in the unit square. @param side 0 top, 1 right, 2 bottom, 3 left */
export function placeOn(side: number, along: number, inset: number): Point {
  if (side === 0) return [along, inset];
  if (side === 1) return [1 - inset, along];
  if (side === 2) return [1 - along, 1 - inset];
  return [inset, 1 - along];
}

/** px from the middle of a side to the middle of the opposite one. */
export function extentOf(h: Matrix3, side: number): number {
  return distance(mapPoint(h, placeOn(side, 0.5, 0)), mapPoint(h, placeOn(side, 0.5, 1)));
}

/** @param alike code values within which a place is of its parallel's colour */
function parallelAt(p: SmallPicture, at: (along: number) => Point, alike: number): Parallel | null {
  const seen: [number[], number[], number[]] = [[], [], []];
  for (let k = 0; k < PARALLELS.places; k++) {
    const along = PARALLELS.ends + ((k + 0.5) / PARALLELS.places) * (1 - 2 * PARALLELS.ends);
    const [x, y] = at(along);
    const [u, v] = [x - 0.5, y - 0.5];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    if (i < 0 || j < 0 || i >= p.width - 1 || j >= p.height - 1) continue;
    const [fx, fy, first] = [u - i, v - j, j * p.width + i];
    for (const [c, data] of p.channels.entries())
      seen[c]!.push(
        (1 - fy) * ((1 - fx) * data[first]! + fx * data[first + 1]!) +
          fy * ((1 - fx) * data[first + p.width]! + fx * data[first + p.width + 1]!),
      );
  }
  if (seen[0].length < PARALLELS.places / 2) return null;
  const colour = seen.map((values) => median(values)) as unknown as Colour;
  const like = seen[0].filter((r, k) => colourDistance([r, seen[1][k]!, seen[2][k]!], colour) <= alike);
  return { colour, even: like.length / PARALLELS.places };
}

/** Largest difference of a channel, code values. */
export function colourDistance(a: Colour, b: Colour): number {
  return Math.max(Math.abs(a[0] - b[0]), Math.abs(a[1] - b[1]), Math.abs(a[2] - b[2]));
}

/** Where the steps of a row of parallels are largest, and no other line lies nearer than two px. */
function peaks(steps: readonly number[], least: number): number[] {
  const near = Math.round(2 / APART);
  const found: number[] = [];
  for (let k = 0; k < steps.length; k++) {
    if (steps[k]! < least) continue;
    let isPeak = true;
    for (let d = 1; d <= near && isPeak; d++)
      isPeak = steps[k]! >= (steps[k + d] ?? 0) && steps[k]! > (steps[k - d] ?? 0);
    if (isPeak) found.push(k);
  }
  return found;
}

/** A peak's place between its neighbours: the top of the parabola through the three. */
function topOf(steps: readonly number[], k: number): number {
  const [a, b, c] = [steps[k - 1] ?? 0, steps[k]!, steps[k + 1] ?? 0];
  const bend = a - 2 * b + c;
  return bend < 0 ? (0.5 * (a - c)) / bend : 0;
}

/**
 * @param h from the unit square to the outline, px of the picture
 * @param side 0 top, 1 right, 2 bottom, 3 left
 * @param noise standard deviation of a px's noise, code values
 */
export function parallelsOf(
  p: SmallPicture,
  h: Matrix3,
  side: number,
  noise: number,
  { beyond, within } = WHOLE_DEVICE,
): SideParallels {
  const each = APART / extentOf(h, side);
  const count = Math.floor((beyond + within) / each);
  const alike = Math.max(PARALLELS.alike, PARALLELS.alikeNoise * noise);
  const all = Array.from({ length: count }, (_, k) =>
    parallelAt(p, (along) => mapPoint(h, placeOn(side, along, k * each - beyond)), alike),
  );
  const aside = Math.round(PARALLELS.aside / APART);
  const steps = all.map((_, k) => {
    const [a, b] = [all[k - aside], all[k + aside]];
    return a && b ? colourDistance(a.colour, b.colour) : 0;
  });
  const least = Math.max(PARALLELS.leastStep, PARALLELS.leastErrors * Math.SQRT2 * MEDIAN_ERROR * noise);
  const lines = peaks(steps, least).map((k) => ({ at: k + topOf(steps, k), step: steps[k]! }));
  const kept = new Set([...lines].sort((a, b) => b.step - a.step).slice(0, PARALLELS.most));
  return { all, each, first: -beyond, lines: lines.filter((l) => kept.has(l)) };
}
