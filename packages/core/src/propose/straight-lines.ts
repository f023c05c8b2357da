/** Stretches that lie on one line put together, whichever side of them is the brighter: a side of a device before a room. */
import { placeAlong, principalDirection } from '../geometry/line';
import type { Point } from '../geometry/point';
import type { Segment } from './segments';

/** A line with the stretches that it is seen on. */
export interface StraightLine {
  /** a place on it, and its direction, of unit length */
  readonly at: Point;
  readonly along: Point;
  /** stretches seen, px from `at` along it, in order, apart from each other */
  readonly spans: readonly (readonly [from: number, to: number])[];
  /** px of all stretches */
  readonly seen: number;
  /** mean slope across it, code values a px */
  readonly strength: number;
}

const LINES = {
  /** px; how far the end of a stretch may lie beside the line. By trial. */
  beside: 1.3,
  /** The same, for each px that it lies beyond what the line was told by. By trial. */
  besidePerPx: 0.006,
  /** Gap to the next stretch, over what is known of the line already. By trial. */
  gap: 0.7,
  /** px of a gap that is let pass anyway. By trial. */
  leastGap: 25,
  /** Cosine between directions, at the least. By trial. */
  parallel: Math.cos((7 * Math.PI) / 180),
  /** Times that more stretches are taken up and the line is fitted anew. By trial. */
  rounds: 4,
} as const;

interface Fit {
  at: Point;
  along: Point;
  from: number;
  to: number;
}

/** The line through the ends of stretches by least squares, weighed by their lengths. */
function fitted(parts: readonly Segment[]): Fit {
  let [w, mx, my] = [0, 0, 0];
  for (const { a, b, length } of parts) {
    w += 2 * length;
    mx += length * (a[0] + b[0]);
    my += length * (a[1] + b[1]);
  }
  mx /= w;
  my /= w;
  let [xx, xy, yy] = [0, 0, 0];
  for (const { a, b, length } of parts)
    for (const [x, y] of [a, b]) {
      xx += length * (x - mx) ** 2;
      xy += length * (x - mx) * (y - my);
      yy += length * (y - my) ** 2;
    }
  const axis = { at: [mx, my] as const, along: principalDirection(xx, xy, yy) };
  const places = parts.flatMap(({ a, b }) => [placeAlong(axis, a), placeAlong(axis, b)]);
  return { ...axis, from: Math.min(...places), to: Math.max(...places) };
}

/** Whether a stretch lies on a line that is known from `from` to `to`. */
function lies(s: Segment, line: Fit): boolean {
  const { at, along, from, to } = line;
  const [dx, dy] = [(s.b[0] - s.a[0]) / s.length, (s.b[1] - s.a[1]) / s.length];
  if (Math.abs(dx * along[0] + dy * along[1]) < LINES.parallel) return false;
  const reach = Math.max(LINES.leastGap, LINES.gap * (to - from));
  const places = [placeAlong(line, s.a), placeAlong(line, s.b)];
  if (Math.max(...places) < from - reach || Math.min(...places) > to + reach) return false;
  return [s.a, s.b].every(([x, y], i) => {
    const beyond = Math.max(0, from - places[i]!, places[i]! - to);
    return Math.abs((y - at[1]) * along[0] - (x - at[0]) * along[1]) < LINES.beside + LINES.besidePerPx * beyond;
  });
}

/** Overlapping spans made one. */
function joined(spans: readonly (readonly [number, number])[]): [number, number][] {
  const out: [number, number][] = [];
  for (const [from, to] of [...spans].sort((p, q) => p[0] - q[0])) {
    const last = out.at(-1);
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else out.push([from, to]);
  }
  return out;
}

function lineOf(parts: readonly Segment[], fit: Fit): StraightLine {
  const { at, along } = fit;
  const spans = joined(
    parts.map(({ a, b }) => {
      const [p, q] = [placeAlong(fit, a), placeAlong(fit, b)];
      return [Math.min(p, q), Math.max(p, q)] as const;
    }),
  );
  const weight = parts.reduce((s, p) => s + p.length, 0);
  return {
    at,
    along,
    spans,
    seen: spans.reduce((s, [from, to]) => s + to - from, 0),
    strength: parts.reduce((s, p) => s + p.length * p.strength, 0) / weight,
  };
}

/**
 * @param segments longest first
 * @param most lines at the most
 * @returns in px of the picture, those that are seen longest first
 */
export function straightLines(segments: readonly Segment[], most: number): StraightLine[] {
  const used = new Set<Segment>();
  const lines: StraightLine[] = [];
  for (const seed of segments) {
    if (used.has(seed)) continue;
    let parts: readonly Segment[] = [seed];
    let fit = fitted(parts);
    for (let round = 0; round < LINES.rounds; round++) {
      const now = segments.filter((s) => !used.has(s) && lies(s, fit));
      if (now.length <= parts.length) break;
      parts = now;
      fit = fitted(parts);
    }
    for (const p of parts) used.add(p);
    used.add(seed);
    lines.push(lineOf(parts, fit));
  }
  return lines.sort((p, q) => q.seen - p.seen).slice(0, most);
}

/** How much of a line is seen between two places on it, px, and how much beyond them. */
export function seenBetween({ spans, seen }: StraightLine, from: number, to: number): [inside: number, beyond: number] {
  const inside = spans.reduce((s, [a, b]) => s + Math.max(0, Math.min(b, to) - Math.max(a, from)), 0);
  return [inside, seen - inside];
}
