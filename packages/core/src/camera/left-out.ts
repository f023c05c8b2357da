/**
 * Points on what moves by itself, left out: an outline drawn on one frame is carried through the shot by the points
 * inside it, and every point that it ever holds goes.
 */
import { solveLinear } from '../geometry/linear-algebra';
import type { Point } from '../geometry/point';
import { insidePolygon } from '../geometry/polygon';
import type { PointTrack } from './point-tracks';

export interface Outline {
  readonly frame: number;
  /** px */
  readonly points: readonly Point[];
}

/** x, y to `a x - b y + c`, `b x + a y + d`. */
type Similarity = readonly [a: number, b: number, c: number, d: number];

/** Px at which a point's weight in carrying an outline is halved. By trial. */
const SCALE = 2;
/** Points inside an outline without which it stays where it is. */
const LEAST_POINTS = 3;
const ROUNDS = 6;

const moved = ([a, b, c, d]: Similarity, [x, y]: Point): Point => [a * x - b * y + c, b * x + a * y + d];

/** The similarity that carries most of the points over, robustly. */
function similarityOf(pairs: readonly (readonly [Point, Point])[]): Similarity | null {
  let now: Similarity | null = null;
  for (let round = 0; round < ROUNDS; round++) {
    const m = new Float64Array(16);
    const right = new Float64Array(4);
    for (const [p, q] of pairs) {
      const off: Point = now ? moved(now, p) : q;
      const weight = 1 / (1 + ((off[0] - q[0]) ** 2 + (off[1] - q[1]) ** 2) / SCALE ** 2);
      const rows = [
        [p[0], -p[1], 1, 0, q[0]],
        [p[1], p[0], 0, 1, q[1]],
      ];
      for (const row of rows)
        for (let r = 0; r < 4; r++) {
          right[r]! += weight * row[r]! * row[4]!;
          for (let c = 0; c < 4; c++) m[4 * r + c]! += weight * row[r]! * row[c]!;
        }
    }
    const next = solveLinear(m, right);
    if (!next) return now;
    now = [next[0]!, next[1]!, next[2]!, next[3]!];
  }
  return now;
}

function placeAt(t: PointTrack, frame: number): Point | null {
  const i = 2 * (frame - t.first);
  const [x, y] = [t.places[i], t.places[i + 1]];
  return i < 0 || x === undefined || y === undefined || Number.isNaN(x) ? null : [x, y];
}

/** The tracks that no outline ever holds. @param frames as counted from the first that was tracked */
export function withoutOutlined(
  tracks: readonly PointTrack[],
  outlines: readonly Outline[],
  frames: number,
): PointTrack[] {
  const held = new Set<PointTrack>();
  const here = (frame: number): { track: PointTrack; at: Point }[] =>
    tracks.flatMap((track) => {
      const at = placeAt(track, frame);
      return at ? [{ track, at }] : [];
    });
  for (const { frame, points } of outlines)
    for (const step of [1, -1]) {
      let outline = points;
      for (let f = frame; f >= 0 && f < frames; f += step) {
        const inside = here(f).filter(({ at }) => insidePolygon(at, outline));
        for (const { track } of inside) held.add(track);
        const pairs = inside.flatMap(({ track, at }) => {
          const next = placeAt(track, f + step);
          return next ? [[at, next] as const] : [];
        });
        const carry = pairs.length >= LEAST_POINTS ? similarityOf(pairs) : null;
        if (carry) outline = outline.map((p) => moved(carry, p));
      }
    }
  return tracks.filter((t) => !held.has(t));
}
