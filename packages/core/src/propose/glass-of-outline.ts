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
  /** less the likelier: the logarithm of a likelihood, turned round */
  readonly cost: number;
}

const RINGS = {
  /** px left out at each line, which is soft. By trial. */
  soft: 1.25,
  /** Share of the outline's extent of a bezel at the most: the ring of a line without one further out. By trial. */
  most: 0.06,
  /** px; of a narrower ring nobody can say whether it is even. By trial. */
  narrow: 5,
  /** Code values by which a ring's sides differ wholly; narrow rings are rims, which shine. By trial. */
  unlike: 20,
  unlikeNarrow: 60,
  /** Share of a ring that is of another colour, of one that is not even at all. By trial. */
  uneven: 0.3,
  /** Of the side's clearest step: lines that are fainter and further out than such a one are of the room. By trial. */
  outermost: 0.2,
  /** Of the side's clearest step, that of a clear line. By trial. */
  clear: 0.3,
  /** Clear lines further in or out that are counted, at the most. By trial. */
  mostCounted: 2,
  /** Share of the extent within which lines further in are counted. By trial. */
  inside: 0.08,
  /** Share of the extent that is deeper than bezels are. By trial. */
  deep: 0.06,
  /** px within a line where it is looked whether it is brighter there. By trial. */
  within: 2,
} as const;

/**
 * What each trait of four lines costs, by maximum likelihood: the four true ones of 46 first frames (nine of the demo, four
 * by another generator, 44 thrown, less those on which no choice was right) against all other choices, softmax. With a
 * fifth of the frames left out in turn it is right first on 34 of 57 and among the first three on 38.
 */
const COSTS = {
  /** each side whose ring has another colour than the others */
  unlike: 3.2,
  unlikeNarrow: 1.31,
  /** each side whose ring is uneven, narrow, or has no line further out */
  uneven: 0.38,
  narrow: 1.82,
  unbound: 0.63,
  /** each halving of a side's step over its clearest */
  faint: 0.43,
  /** each extent that a side lies deep, what of it is deeper than bezels are, and what opposite sides differ by */
  inset: 17.8,
  deep: 16,
  lopsided: 10.4,
  /** each clear line further out and further in */
  outside: -0.73,
  inside: 0.81,
  /** a ring in full colour, one as bright as white */
  chroma: 13.84,
  light: 1.65,
  /** each side that is brighter within where others are darker */
  turned: 0.64,
} as const;

/** A line of a side with what lies between it and the next one further out. */
interface Ring {
  readonly inset: number;
  readonly colour: Colour;
  readonly isNarrow: boolean;
  /** whether it is brighter within the line (1) or darker (-1) */
  readonly brighter: number;
  /** what the line costs by itself, whatever the other sides are */
  readonly cost: number;
}

/** The colour between two lines of a side, and how much of it is of another, 0 to 1. */
function between(s: SideParallels, from: number, to: number): { colour: Colour; uneven: number } {
  const soft = RINGS.soft / APART;
  const [a, b] = [Math.ceil(from + soft), Math.floor(to - soft)];
  const middle = Math.max(0, Math.round((from + to) / 2));
  const all = (a <= b ? s.all.slice(Math.max(0, a), b + 1) : s.all.slice(middle, middle + 1)).filter((p) => p !== null);
  if (all.length === 0) return { colour: [0, 0, 0], uneven: 1 };
  const colour = [0, 1, 2].map((c) => median(all.map((p) => p.colour[c]!))) as unknown as Colour;
  const even = all.map((p) => p.even * Math.max(0, 1 - colourDistance(p.colour, colour) / (2 * RINGS.unlike)));
  return { colour, uneven: Math.min(1, (1 - even.reduce((sum, v) => sum + v, 0) / even.length) / RINGS.uneven) };
}

/** What a place within a side costs. */
const depthCost = (inset: number): number => COSTS.inset * inset + COSTS.deep * Math.max(0, inset - RINGS.deep);

/** Every line of a side, from the outermost clear one inwards, with its ring. */
function ringsOf(s: SideParallels): Ring[] {
  const widest = RINGS.most / s.each;
  const clearest = Math.max(...s.lines.map((l) => l.step));
  const lines = s.lines.slice(s.lines.findIndex((l) => l.step >= RINGS.outermost * clearest));
  const clear = lines.filter((l) => l.step >= RINGS.clear * clearest).map((l) => l.at);
  const counted = (isSo: (at: number) => boolean): number => Math.min(RINGS.mostCounted, clear.filter(isSo).length);
  return lines.map(({ at, step }, i): Ring => {
    const from = i === 0 ? at - widest : Math.max(lines[i - 1]!.at, at - 2 * widest);
    const { colour, uneven } = between(s, from, at);
    const isNarrow = i > 0 && (at - from) * APART < RINGS.narrow;
    const within = s.all[Math.min(s.all.length - 1, Math.round(at + RINGS.within / APART))]?.colour ?? colour;
    const inset = s.first + at * s.each;
    const ofRing = isNarrow ? COSTS.narrow : COSTS.uneven * uneven;
    const ofLines =
      COSTS.outside * counted((l) => l < at - 1) +
      COSTS.inside * counted((l) => l > at + 1 && (l - at) * s.each < RINGS.inside);
    const [least, most] = [Math.min(...colour), Math.max(...colour)];
    const ofColour = (COSTS.chroma * (most - least) + COSTS.light * most) / 255;
    const ofStep = COSTS.faint * Math.log2(clearest / step) + (i === 0 ? COSTS.unbound : 0);
    const brighter = Math.sign(within.reduce((sum, v, c) => sum + v - colour[c]!, 0));
    return { inset, colour, isNarrow, brighter, cost: ofRing + ofLines + ofColour + ofStep + depthCost(inset) };
  });
}

/** What it costs that rings are of different colours. @param whole code values by which they differ wholly */
function unlikeCost(rings: readonly Ring[], whole: number, each: number): number {
  if (rings.length === 0) return 0;
  const all = [0, 1, 2].map((c) => median(rings.map((r) => r.colour[c]!))) as unknown as Colour;
  return each * rings.reduce((s, r) => s + Math.min(1, colourDistance(r.colour, all) / whole), 0);
}

function costOf(rings: readonly Ring[]): number {
  const [top, right, bottom, left] = rings.map((r) => r.inset) as [number, number, number, number];
  const turned = 4 - Math.abs(rings.reduce((s, r) => s + r.brighter, 0));
  return (
    rings.reduce((s, r) => s + r.cost, 0) +
    unlikeCost(
      rings.filter((r) => !r.isNarrow),
      RINGS.unlike,
      COSTS.unlike,
    ) +
    unlikeCost(
      rings.filter((r) => r.isNarrow),
      RINGS.unlikeNarrow,
      COSTS.unlikeNarrow,
    ) +
    COSTS.lopsided * (Math.abs(top - bottom) + Math.abs(left - right)) +
    COSTS.turned * turned
  );
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
