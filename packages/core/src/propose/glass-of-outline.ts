/**
 * Which of a device's lines are its glass: those beyond which a bezel lies, that is, a ring that is even and of one colour
 * all round, where pages have bars, rims shine and rooms have walls; of several such rings the outermost.
 */
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import type { Line } from '../geometry/line';
import { meet } from '../geometry/line';
import type { Matrix3 } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { isConvex } from '../geometry/quad';
import { median } from '../statistics';
import type { Colour, SideParallels } from './parallel-lines';
import { APART, colourDistance, extentOf, parallelsOf, placeOn } from './parallel-lines';
import type { SmallPicture } from './small-picture';

/** Four lines of a device that may be its glass. */
export interface Glass {
  readonly corners: Quad;
  /** 0 for a bezel as bezels are; what is no bezel costs up to 8 */
  readonly cost: number;
}

const RINGS = {
  /** px left out at each line, which is soft. By trial. */
  soft: 1.25,
  /** Share of the outline's extent of a bezel at the most: the ring of a line without one further out. By trial. */
  most: 0.036,
  /** Code values by which a ring's sides differ for a cost of 1. By trial. */
  unlike: 19,
  /** Share of a ring that is of another colour, for a cost of 1. By trial. */
  uneven: 0.18,
  /** The most that a side costs in either way: a hand may cover it. By trial. */
  mostOfSide: 1,
  /** Share of the extent by which opposite sides lie differently deep, for a cost of 1. By trial. */
  lopsided: 0.16,
  /** Share of the extent that all sides lie deeper, for a cost of 1. By trial. */
  deeper: 0.1,
  /** Of the side's clearest step: lines that are fainter and further out than such a one are of the room. By trial. */
  outermost: 0.16,
  /** Cost of a line without one further out: a device has a body around its glass. By trial. */
  unbound: 2.85,
  /** px; of a narrower ring nobody can say whether it is even. By trial. */
  narrow: 2.5,
  /** What such a one costs. By trial. */
  unsure: 0.1,
  /** Cost of a step that is half as large as the side's clearest. By trial. */
  perHalving: 0.13,
} as const;

/** A line of a side with what lies between it and the next one further out. */
interface Ring {
  readonly inset: number;
  readonly colour: Colour;
  /** what it costs that it is of several colours, has no end, or can't be told */
  readonly cost: number;
  /** of its step over the side's clearest, as a power of two: 0 for that one */
  readonly faint: number;
}

const capped = (cost: number): number => Math.min(RINGS.mostOfSide, cost);

function ringOf(s: SideParallels, from: number, line: SideParallels['lines'][number]): Ring {
  const soft = RINGS.soft / APART;
  const [a, b] = [Math.ceil(from + soft), Math.floor(line.at - soft)];
  const middle = Math.round((from + line.at) / 2);
  const between = (a <= b ? s.all.slice(Math.max(0, a), b + 1) : s.all.slice(middle, middle + 1)).filter(
    (p) => p !== null,
  );
  const colour = [0, 1, 2].map((c) => median(between.map((p) => p.colour[c]!))) as unknown as Colour;
  const even = between.map((p) => p.even * Math.max(0, 1 - colourDistance(p.colour, colour) / (2 * RINGS.unlike)));
  const uneven = even.length === 0 ? 1 : 1 - even.reduce((sum, v) => sum + v, 0) / even.length;
  return { inset: s.first + line.at * s.each, colour, cost: capped(uneven / RINGS.uneven), faint: 0 };
}

/** Every line of a side, from the outermost clear one inwards, with its ring. */
function ringsOf(s: SideParallels): Ring[] {
  const widest = RINGS.most / s.each;
  const clearest = Math.max(...s.lines.map((l) => l.step));
  const first = s.lines.findIndex((l) => l.step >= RINGS.outermost * clearest);
  return s.lines.slice(first).map((line, i): Ring => {
    const faint = Math.log2(clearest / line.step);
    const from = i === 0 ? line.at - widest : s.lines[first + i - 1]!.at;
    const ring = { ...ringOf(s, Math.max(from, line.at - 2 * widest), line), faint };
    if (i === 0) return { ...ring, cost: ring.cost + RINGS.unbound };
    const isNarrow = (line.at - from) * APART < RINGS.narrow;
    return isNarrow ? { ...ring, cost: Math.min(ring.cost, RINGS.unsure) } : ring;
  });
}

function costOf(rings: readonly Ring[]): number {
  const all = [0, 1, 2].map((c) => median(rings.map((r) => r.colour[c]!))) as unknown as Colour;
  let cost = 0;
  for (const r of rings) {
    cost += capped(colourDistance(r.colour, all) / RINGS.unlike) + r.cost;
    cost += r.inset / (4 * RINGS.deeper) + RINGS.perHalving * r.faint;
  }
  const [top, right, bottom, left] = rings.map((r) => r.inset) as [number, number, number, number];
  return cost + (Math.abs(top - bottom) + Math.abs(left - right)) / RINGS.lopsided;
}

/** The corners where four lines meet that lie so deep; null when they make no screen. */
function cornersOf(h: Matrix3, insets: readonly number[]): Quad | null {
  const lines = insets.map((inset, side): Line => {
    const [a, b] = [0.2, 0.8].map((along) => mapPoint(h, placeOn(side, along, inset)));
    return { a: a!, b: b! };
  });
  const corners = lines.map((l, side) => meet(lines[(side + 3) % 4]!, l));
  if (corners.some((c) => c === null)) return null;
  const quad = corners as unknown as Quad;
  return isConvex(quad) ? quad : null;
}

/** Every choice of one line a side. */
function* choices<T>([top, right, bottom, left]: readonly (readonly T[])[]): Generator<[T, T, T, T]> {
  for (const a of top!) for (const b of right!) for (const c of bottom!) for (const d of left!) yield [a, b, c, d];
}

/** The choices that cost least and differ from each other by more than a line's softness, best first. */
function cheapest(sides: readonly (readonly Ring[])[], count: number): { cost: number; insets: number[] }[] {
  const all: { cost: number; insets: number[] }[] = [];
  for (const rings of choices(sides)) all.push({ cost: costOf(rings), insets: rings.map((r) => r.inset) });
  return all.sort((a, b) => a.cost - b.cost).slice(0, count);
}

/**
 * @param outline corners of any outline of a device, px of the picture: of its body, its glass, or some sides of each
 * @param noise standard deviation of a px's noise, code values
 * @param count of choices of its lines at the most
 * @returns the likeliest first; empty where a side shows no line at all
 */
export function glassOfOutline(p: SmallPicture, outline: Quad, noise: number, count = 1): Glass[] {
  const h = unitSquareToQuad(outline);
  const sides = [0, 1, 2, 3].map((side) => ringsOf(parallelsOf(p, h, side, noise)));
  return cheapest(sides, count).flatMap(({ cost, insets }) => {
    const corners = cornersOf(h, insets);
    return corners ? [{ corners, cost }] : [];
  });
}

/** px; how far a side may lie from its line when it is laid onto it. By trial. */
const NEAR = 3;
/** px that are looked at beyond that, so that a line at its end is one. */
const MARGIN = 4;
/** Times that it is: the first makes parallels parallel. By trial. */
const ROUNDS = 2;

/** Each side laid onto the clearest line near it. @param glass corners, px of the picture */
export function laidOntoLines(p: SmallPicture, glass: Quad, noise: number): Quad {
  let now = glass;
  for (let round = 0; round < ROUNDS; round++) {
    const h = unitSquareToQuad(now);
    const insets = [0, 1, 2, 3].map((side) => {
      const reach = (NEAR + MARGIN) / extentOf(h, side);
      const s = parallelsOf(p, h, side, noise, { beyond: reach, within: reach });
      const near = s.lines.filter((l) => Math.abs(l.at + s.first / s.each) * APART < NEAR);
      const clearest = near.sort((a, b) => b.step - a.step)[0];
      return clearest ? s.first + clearest.at * s.each : 0;
    });
    now = cornersOf(h, insets) ?? now;
  }
  return now;
}
