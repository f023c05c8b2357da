/** Quads whose sides are seen as straight lines that end where they meet. */
import { meet, placeAlong } from '../geometry/line';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { isConvex, signedArea } from '../geometry/quad';
import { rectangleLook } from './rectangle-look';
import type { StraightLine } from './straight-lines';
import { seenBetween } from './straight-lines';

export interface OutlineQuad {
  /** in px of the picture, clockwise on it, the first the one nearest its top left */
  readonly corners: Quad;
  /** width over height of the rectangle in space */
  readonly aspect: number;
  /** 0 to 1: how much of its sides is seen, and how well they end at its corners */
  readonly quality: number;
}

const QUADS = {
  /** Cosine between two sides that meet, at the most. By trial. */
  meeting: Math.cos((28 * Math.PI) / 180),
  /** Cosine between two sides that lie opposite, at the least. By trial. */
  opposite: Math.cos((50 * Math.PI) / 180),
  /** px that a line may end before a corner. By trial. */
  gap: 14,
  /** Of its length, the same. By trial. */
  gapShare: 0.4,
  /** Of the picture's width: the shortest side. By trial. */
  leastSide: 0.045,
  /** Of a side that is seen, at the least. By trial. */
  leastSeen: 0.3,
  /** Of all four together. By trial. */
  leastMean: 0.55,
  /** Cosine of the angle in space between two sides, at the most. By trial. */
  mostSkew: 0.16,
  /** Proportions of what is a screen, the longer side over the shorter, at the most. By trial. */
  mostAspect: 3,
  /** Of the picture's size, how far beyond its border a corner may lie. By trial. */
  outside: 0.35,
  /** What is seen of a line beyond its corners counts so much of what is seen between them. By trial. */
  perBeyond: 0.35,
} as const;

/** Whether a line is seen near a place on it. */
function reaches(l: StraightLine, p: Point): boolean {
  const t = placeAlong(l, p);
  const [first, last] = [l.spans[0]![0], l.spans.at(-1)![1]];
  return Math.max(first - t, t - last) < QUADS.gap + QUADS.gapShare * l.seen;
}

const through = (l: StraightLine): { a: Point; b: Point } => ({
  a: l.at,
  b: [l.at[0] + l.along[0], l.at[1] + l.along[1]],
});

/** Where lines meet that can be neighbouring sides: `[i][j]`, null where they can't. */
function junctions(lines: readonly StraightLine[], width: number, height: number): (Point | null)[][] {
  const [dx, dy] = [QUADS.outside * width, QUADS.outside * height];
  return lines.map((p) =>
    lines.map((q) => {
      if (Math.abs(p.along[0] * q.along[0] + p.along[1] * q.along[1]) > QUADS.meeting) return null;
      const at = meet(through(p), through(q));
      if (!at || at[0] < -dx || at[1] < -dy || at[0] > width + dx || at[1] > height + dy) return null;
      return reaches(p, at) && reaches(q, at) ? at : null;
    }),
  );
}

/** Clockwise on the picture, beginning with the corner nearest its top left. */
function ordered(corners: readonly Point[]): Quad {
  const clockwise = signedArea(corners) > 0 ? corners : [...corners].reverse();
  const sums = clockwise.map(([x, y]) => x + y);
  const first = sums.indexOf(Math.min(...sums));
  return [0, 1, 2, 3].map((k) => clockwise[(first + k) % 4]!) as unknown as Quad;
}

/** How much of a side is seen, 0 to 1, less what is seen of its line beyond it. */
function seenOf(l: StraightLine, p: Point, q: Point): number {
  const [t, u] = [placeAlong(l, p), placeAlong(l, q)];
  const [inside, beyond] = seenBetween(l, Math.min(t, u), Math.max(t, u));
  const length = Math.abs(u - t);
  return inside / length - QUADS.perBeyond * Math.min(1, beyond / length);
}

/** @param sides lines, each of which meets the next */
function quadOf(sides: readonly StraightLine[], corners: readonly Point[], width: number, height: number) {
  const q = corners as unknown as Quad;
  const least = QUADS.leastSide * width;
  if (corners.some((p, i) => distance(p, corners[(i + 1) % 4]!) < least) || !isConvex(q)) return null;
  // Side i runs from corner i - 1 to corner i.
  const seen = sides.map((l, i) => seenOf(l, corners[(i + 3) % 4]!, corners[i]!));
  const mean = seen.reduce((s, v) => s + v, 0) / 4;
  if (Math.min(...seen) < QUADS.leastSeen || mean < QUADS.leastMean) return null;
  const own = ordered(corners);
  const { skew, aspect } = rectangleLook(own, width, height);
  if (skew > QUADS.mostSkew || Math.max(aspect, 1 / aspect) > QUADS.mostAspect) return null;
  const quality = mean * (1 - skew / (2 * QUADS.mostSkew));
  return { corners: own, aspect, quality } satisfies OutlineQuad;
}

/**
 * Every four lines of which each meets the next near its end, that a rectangle in space can look like.
 * @param width @param height of the picture, px
 * @returns in no order
 */
export function quadsOfLines(lines: readonly StraightLine[], width: number, height: number): OutlineQuad[] {
  const at = junctions(lines, width, height);
  const meets = at.map((row) => row.flatMap((p, j) => (p ? [j] : [])));
  const isOpposite = (i: number, j: number): boolean => {
    const [p, q] = [lines[i]!.along, lines[j]!.along];
    return Math.abs(p[0] * q[0] + p[1] * q[1]) > QUADS.opposite;
  };
  const found: OutlineQuad[] = [];
  // The first of four is `i`, its opposite `j`: each quad is met once.
  for (let i = 0; i < lines.length; i++)
    for (const k of meets[i]!)
      for (const j of meets[k]!) {
        if (k <= i || j <= i || !isOpposite(i, j)) continue;
        for (const l of meets[j]!) {
          if (l <= k || !at[l]![i] || !isOpposite(k, l)) continue;
          const corners = [at[i]![k]!, at[k]![j]!, at[j]![l]!, at[l]![i]!];
          const quad = quadOf([lines[i]!, lines[k]!, lines[j]!, lines[l]!], corners, width, height);
          if (quad) found.push(quad);
        }
      }
  return found;
}
