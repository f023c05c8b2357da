/**
 * The pin laid onto the glass: from four rough corners, the edge along each side is found to a fraction of a pixel, a
 * line is fitted to it, and the corners are where neighbouring lines meet, so rounded and covered corners do no harm.
 * Sources: J. Canny 1986 (the derivative of a Gaussian as detector); J. Tukey's biweight for the line.
 */
import { clamp } from '../clamp';
import type { Peak, Scan, ScanReach, Side } from '../follow/edges/side-scan';
import { crossings, edgesOf, scanAcross, sideOf } from '../follow/edges/side-scan';
import { CoreError } from '../errors';
import type { Lens } from '../geometry/lens';
import { distort, undistortQuad } from '../geometry/lens';
import type { Line } from '../geometry/line';
import { meet, outwardsOf } from '../geometry/line';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { boundsOf } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { assertPin, signedArea } from '../geometry/quad';
import type { RawLuma } from '../image/image';
import type { PyramidLevel } from '../image/pyramid';
import { buildPyramid } from '../image/pyramid';
import { SIGMA_PER_DEVIATION, median } from '../statistics';

export interface GlassSide {
  readonly found: boolean;
  /** sites on the line */
  readonly sites: number;
  /** rms of the sites beside the line, px */
  readonly residual: number;
  /** how far the side's middle moved, px outwards */
  readonly moved: number;
  /** why the side stayed as it was, a sentence; null when it was found */
  readonly reason: string | null;
}

export interface Snapped {
  readonly corners: Quad;
  /** top, right, bottom, left in the content's own orientation */
  readonly sides: readonly GlassSide[];
}

export interface SnapOptions {
  /** per side, true to leave it as it is */
  readonly exclude?: readonly boolean[];
  readonly lens?: Lens;
}

const SIDES = ['top', 'right', 'bottom', 'left'] as const;
const SNAP = {
  /** Of the shorter diagonal; how far a side may lie beside its edge. By trial. */
  reachShare: 0.06,
  /** px of that at the least. By trial. */
  leastReach: 12,
  /** px of that at the most. By trial. */
  mostReach: 44,
  /** px; the same once the line is about known. By trial. */
  near: 4,
  /** px; how far corners dropped by eye lie off the glass. By trial. */
  meant: 4,
  /** Of the shorter diagonal, added to that. By trial. */
  meantShare: 0.006,
  /** Share of the strongest edge below which one is an artefact of it. By trial. */
  faint: 0.01,
  /** px over its length; steepest slope of an edge against its side that is looked for. By trial. */
  steepest: 9,
  /** Edges of a side that are weighed. By trial. */
  mostCandidates: 4,
  /** What a doubling of strength counts against nearness. By trial. */
  perStrength: 0.12,
  /** What strengths count that are unlike on the four sides. By trial. */
  unlike: 0.05,
  /** What a contrast the other way round counts. By trial. */
  turned: 0.2,
  /** Rounds of looking and fitting. By trial. */
  rounds: 3,
  /** Cut-off of Tukey's biweight in units of the residual scale. By trial. */
  tukey: 4,
  /** px; the scale's lower bound. By trial. */
  leastScale: 0.05,
  /** Share of a side's sites that must lie on one line. By trial. */
  enough: 0.3,
} as const;

interface Fitted extends Line {
  readonly sites: number;
  readonly residual: number;
}

/** A straight line d = p + q s through the crossings, robust. */
function fitLine(
  points: readonly { readonly s: number; readonly d: number }[],
): { p: number; q: number; used: number; rms: number } | null {
  let p = median(points.map((x) => x.d));
  let q = 0;
  let used = 0;
  let rms = Infinity;
  for (let it = 0; it < 12; it++) {
    const r = points.map((x) => x.d - p - q * x.s);
    const scale = Math.max(SNAP.leastScale, SIGMA_PER_DEVIATION * median(r.map(Math.abs)));
    let w0 = 0;
    let w1 = 0;
    let w2 = 0;
    let v0 = 0;
    let v1 = 0;
    let e = 0;
    used = 0;
    for (const [i, x] of points.entries()) {
      const z = r[i]! / (SNAP.tukey * scale);
      if (z * z >= 1) continue;
      const w = (1 - z * z) ** 2;
      used++;
      e += r[i]! ** 2;
      w0 += w;
      w1 += w * x.s;
      w2 += w * x.s * x.s;
      v0 += w * x.d;
      v1 += w * x.d * x.s;
    }
    const det = w0 * w2 - w1 * w1;
    if (used < 6 || !(det > 1e-9)) return null;
    rms = Math.sqrt(e / used);
    [p, q] = [(w2 * v0 - w1 * v1) / det, (w0 * v1 - w1 * v0) / det];
  }
  return { p, q, used, rms };
}

/** An edge that a side may be meant to lie on. */
interface Candidate {
  readonly line: Fitted;
  /** signed, light per px outwards */
  readonly strength: number;
  /** how likely it is meant, logarithm */
  readonly score: number;
}

/** Near to where the side lies, since the rim beyond the bezel is mostly stronger; of two as near, the stronger. */
function likelihood(p: Peak, near: number): number {
  return SNAP.perStrength * Math.log(Math.abs(p.strength)) - 0.5 * (p.offset / near) ** 2;
}

/** @param o how far a side is looked across, and how near to it an edge is likely meant */
function candidates(image: PyramidLevel, side: Side, o: Pick<ScanReach, 'reach' | 'own'>): Candidate[] {
  const scan = scanAcross(image, side, { ...o, ignore: [] }, SNAP.steepest);
  if (!scan) return [];
  const peaks = edgesOf(scan, o.reach);
  const least = SNAP.faint * Math.abs(peaks[0]?.strength ?? 0);
  return peaks
    .filter((p) => Math.abs(p.strength) >= least)
    .flatMap((p): Candidate[] => {
      const line = lineOf(scan, p, o.reach, side.outwards);
      return line ? [{ line, strength: p.strength, score: likelihood(p, o.own) }] : [];
    })
    .sort((p, q) => q.score - p.score)
    .slice(0, SNAP.mostCandidates);
}

/** One edge a side: each likely by itself, and all of one kind, since glass meets its bezel alike on every side. */
function chooseTogether(sides: readonly (readonly Candidate[])[]): (Candidate | null)[] {
  let best: (Candidate | null)[] = sides.map(() => null);
  let most = -Infinity;
  const walk = (i: number, chosen: readonly (Candidate | null)[]): void => {
    if (i < sides.length) {
      for (const c of sides[i]!.length > 0 ? sides[i]! : [null]) walk(i + 1, [...chosen, c]);
      return;
    }
    const own = chosen.filter((c) => c !== null);
    const logs = own.map((c) => Math.log(Math.abs(c.strength)));
    const mean = logs.reduce((s, v) => s + v / logs.length, 0);
    const up = own.filter((c) => c.strength > 0).length;
    const score =
      own.reduce((s, c) => s + c.score, 0) -
      SNAP.unlike * logs.reduce((s, v) => s + (v - mean) ** 2, 0) -
      SNAP.turned * Math.min(up, own.length - up);
    if (score > most) [best, most] = [[...chosen], score];
  };
  walk(0, []);
  return best;
}

function lineOf(scan: Scan, peak: Peak, reach: number, n: Point): Fitted | null {
  const points = crossings(scan, peak, reach);
  if (points.length < SNAP.enough * scan.sites.length) return null;
  const f = fitLine(points);
  const [first, last] = [scan.sites[0]!, scan.sites.at(-1)!];
  if (!f || f.used < SNAP.enough * scan.sites.length) return null;
  // Sites of a scan lie on one line: its own side, tilted.
  const at = (s: number): Point => {
    const t = (s - first.s) / (last.s - first.s);
    const d = f.p + f.q * s;
    return [
      first.at[0] + t * (last.at[0] - first.at[0]) + d * n[0],
      first.at[1] + t * (last.at[1] - first.at[1]) + d * n[1],
    ];
  };
  return { a: at(0), b: at(1), sites: f.used, residual: f.rms };
}

/** The same edge again, from where it was found. */
function refined(image: PyramidLevel, first: Fitted, turn: number): Fitted {
  let line = first;
  for (let round = 1; round < SNAP.rounds; round++) {
    const side = sideOf(line.a, line.b, turn);
    const scan = scanAcross(image, side, { reach: SNAP.near, own: 1, ignore: [] }, 0);
    if (!scan) break;
    const peak = edgesOf(scan, SNAP.near).sort((p, q) => likelihood(q, 1) - likelihood(p, 1))[0];
    const next = peak && lineOf(scan, peak, SNAP.near, side.outwards);
    if (!next) break;
    line = next;
  }
  return line;
}

/**
 * @param rough corners TL, TR, BR, BL, px, each within some 6 % of the screen's size of its glass edges
 * @throws CoreError `no-evidence` when no side has an edge, `degenerate` when the corners make no screen
 */
export function snapToGlass(frame: RawLuma, rough: Quad, o: SnapOptions = {}): Snapped {
  assertPin(rough);
  const { lens } = o;
  const start = undistortQuad(lens ?? null, rough);
  const turn = signedArea(start) > 0 ? 1 : -1;
  const size = Math.min(distance(start[0], start[2]), distance(start[1], start[3]));
  const b = boundsOf(start);
  const [image] = buildPyramid(frame, 1, { x0: b.x0 - 60, y0: b.y0 - 60, x1: b.x1 + 60, y1: b.y1 + 60 }, lens);
  const near = Math.max(SNAP.meant, SNAP.meantShare * size);
  const reach = 0.5 * Math.round(2 * clamp(SNAP.reachShare * size, SNAP.leastReach, SNAP.mostReach));
  const candidatesOf = (p: Point, i: number): Candidate[] =>
    o.exclude?.[i] ? [] : candidates(image!, sideOf(p, start[(i + 1) % 4]!, turn), { reach, own: near });
  const lines = chooseTogether(start.map(candidatesOf)).map((c) => c && refined(image!, c.line, turn));
  if (lines.every((l) => l === null))
    throw new CoreError(
      'no-evidence',
      'No edge stands out along any side of the pin; bring the corners nearer to the glass, or set them by hand.',
    );
  const kept = lines.map((l, i): Line => l ?? { a: start[i]!, b: start[(i + 1) % 4]! });
  const corners = start.map((p, i) => meet(kept[(i + 3) % 4]!, kept[i]!) ?? p);
  const real = corners.map((p) => (lens ? distort(lens, p) : p)) as unknown as Quad;
  assertPin(real);
  return {
    corners: real,
    sides: lines.map((l, i): GlassSide => {
      if (!l)
        return {
          found: false,
          sites: 0,
          residual: NaN,
          moved: 0,
          reason: o.exclude?.[i]
            ? 'Left out.'
            : `No edge stands out along the ${SIDES[i]} side; leave it out, or set its corners by hand.`,
        };
      const [p, q] = [start[i]!, start[(i + 1) % 4]!];
      const [nx, ny] = outwardsOf(p, q, turn);
      return {
        found: true,
        sites: l.sites,
        residual: l.residual,
        moved: ((l.a[0] + l.b[0] - p[0] - q[0]) / 2) * nx + ((l.a[1] + l.b[1] - p[1] - q[1]) / 2) * ny,
        reason: null,
      };
    }),
  };
}
