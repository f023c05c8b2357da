/**
 * What a frame tells of the camera beyond the plane's motion: the lens's radial term, from how edges and the picture
 * bow; the share of a frame that a rolling readout takes, from how they shear and bend with their rows' own times.
 * Either is one number whose change moves every place by a known vector; what no movement of the plane explains, it
 * does.
 */
import { clamp } from '../../clamp';
import { cholesky, choleskySolve } from '../../geometry/linear-algebra';
import type { Lens } from '../../geometry/lens';
import { bowAt } from '../../geometry/lens';
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, inverse, multiply } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { EdgeFit } from '../edges/edge-solver';
import { pointJacobian } from '../../geometry/motion-equations';
import type { Template } from '../picture/template';
import type { Alignment } from '../picture/texture-alignment';

/**
 * What a term can be at the most, anything beyond being a mistake; its standard deviation before anything was seen;
 * least change that is worth it.
 */
export interface Term {
  readonly most: number;
  readonly usual: number;
  readonly least: number;
  /**
   * certainty that will do where the frames agree, and how well they must, in standard deviations of their own scatter
   */
  readonly likely: number;
  readonly agreed: number;
  /** frames' worth of views whose agreement makes up for certainty */
  readonly several: number;
  /** px at 1920 wide that a unit of it must bow a frame for the frame to tell of it */
  readonly shows: number;
}
/** A readout is only a hint until the shot is followed again with it; see `readoutToRepeatWith`. */
export const RADIAL: Term = { most: 0.35, usual: 0.12, least: 0, likely: 1.6, agreed: 5, several: 4, shows: 0 };
export const READOUT: Term = { most: 1, usual: 0.3, least: 0.04, likely: 0.5, agreed: 1.8, several: 2.5, shows: 0.5 };
const CAMERA = {
  /**
   * Frames' worth of evidence that all frames together count as at the most, since the edges of one may bow for a
   * reason of their own. By trial.
   */
  frames: 8,
  /** px at 1920 wide; bow from which a better term is taken. By trial. */
  worthwhile: 0.12,
  /** Standard deviations of certainty that it takes. By trial. */
  certain: 4,
  /** Rows without which nothing is said of the readout. By trial. */
  leastRows: 40,
  /** Weight from which a cell has its say. By trial. */
  leastWeight: 0.01,
} as const;

export interface TermMemory {
  readonly information: number;
  /** information times what frames said, and times its square */
  readonly sum: number;
  readonly square: number;
  /** the most that one frame said, and the largest bow per unit of the term, px at 1920 wide */
  readonly most: number;
  readonly reach: number;
}

export const NO_TERM_MEMORY: TermMemory = { information: 0, sum: 0, square: 0, most: 0, reach: 0 };

/**
 * One scalar that a frame tells: what it is off by, its change with the plane's eight parameters and with the lens's
 * term, one over its variance.
 */
export interface Row {
  readonly j: Float64Array;
  readonly q: number;
  readonly e: number;
  readonly w: number;
  /** px that a unit of it is */
  readonly px: number;
}

interface Reading {
  readonly change: number;
  readonly information: number;
  readonly reach: number;
}

/** What rows say of a change of the term, the plane's motion left free; null when next to nothing. */
function reading(rows: readonly Row[]): Reading | null {
  if (rows.length < CAMERA.leastRows) return null;
  const a = new Float64Array(64);
  const b = new Float64Array(8);
  const c = new Float64Array(8);
  let qq = 0;
  let qe = 0;
  for (const { j, q, e, w } of rows) {
    for (let p = 0; p < 8; p++) {
      b[p]! += w * e * j[p]!;
      c[p]! += w * q * j[p]!;
      for (let r = 0; r < 8; r++) a[p * 8 + r]! += w * j[p]! * j[r]!;
    }
    qq += w * q * q;
    qe += w * q * e;
  }
  for (let p = 0; p < 8; p++) a[p * 9]! += 1e-9 * (1 + a[p * 9]!);
  if (!cholesky(a, 8)) return null;
  const x = c.slice();
  choleskySolve(a, 8, x);
  for (let p = 0; p < 8; p++) {
    qq -= x[p]! * c[p]!;
    qe -= x[p]! * b[p]!;
  }
  let reach = 0;
  for (const row of rows)
    reach = Math.max(reach, row.px * Math.abs(row.q - row.j.reduce((s, v, p) => s + v * x[p]!, 0)));
  return qq > 1e-6 ? { change: qe / qq, information: qq, reach } : null;
}

/** Rows of edges, in px across them. */
export function edgeRows(e: EdgeFit, pinScale: number, centre: Point, carried: Carried): Row[] {
  const h = e.homography;
  const jacobian = new Float64Array(16);
  const m = multiply(h, [pinScale, 0, centre[0], 0, pinScale, centre[1], 0, 0, 1]);
  const out: Row[] = [];
  for (const [i, hit] of e.hits.entries()) {
    const w = e.terms.weight[i]!;
    if (w === 0) continue;
    const at = pointJacobian(m, (hit.site[0] - centre[0]) / pinScale, (hit.site[1] - centre[1]) / pinScale, jacobian);
    const [nx, ny] = hit.normal;
    const [dx, dy] = carried(h, hit.site, at);
    out.push({
      j: Float64Array.from({ length: 8 }, (_, p) => nx * jacobian[p]! + ny * jacobian[8 + p]!),
      q: nx * dx + ny * dy,
      e: (at[0] - hit.at[0]) * nx + (at[1] - hit.at[1]) * ny,
      w,
      px: 1,
    });
  }
  return out;
}

/**
 * By how much a unit of a term moves a place that the plane's motion `h` carries from `site` to `at` off its picture
 * there, px.
 */
export type Carried = (h: Matrix3, site: Point, at: Point) => Point;

/** The same for the lens's radial term, which bows both pictures. */
export function carriedBow(lens: Lens): Carried {
  return (h, site, at) => {
    const own = bowAt(lens, site);
    const there = bowAt(lens, at);
    const d = 0.01;
    const moved = mapPoint(h, [site[0] + d * own[0], site[1] + d * own[1]]);
    return [(moved[0] - at[0]) / d - there[0], (moved[1] - at[1]) / d - there[1]];
  };
}

/** Rows of a picture's cells, whitened: their displacement in units of its own standard deviation. */
export function cellRows(a: Alignment, template: Template, carried: Carried): Row[] {
  const { sensors: s, consensus, homography: h } = a;
  const t = s.level;
  const middle = ((t.side - 1) / 2) * t.step;
  const half = template.halfSize;
  const jacobian = new Float64Array(16);
  const back = inverse(h);
  const out: Row[] = [];
  if (t.level > 0) return [];
  for (let k = 0; k < t.cells; k++) {
    const w = consensus.weight[k]!;
    const l = Math.sqrt(s.information[3 * k]!);
    const m = s.information[3 * k + 1]! / l;
    const n = Math.sqrt(s.information[3 * k + 2]! - m * m);
    if (t.probation[k] || !(w > CAMERA.leastWeight) || !(l > 0) || !(n > 0)) continue;
    const u = t.u[k]! + middle;
    const v = t.v[k]! + middle;
    const site: Point = [template.centre[0] + half * u, template.centre[1] + half * v];
    const at = mapPoint(h, site);
    pointJacobian(IDENTITY, u, v, jacobian);
    // The same in the remembered picture, where displacements are told.
    const [dx, dy] = carried(h, site, at);
    const d = 0.01;
    const from = mapPoint(back, [at[0] + d * dx, at[1] + d * dy]);
    const qu = (from[0] - site[0]) / (d * half);
    const qv = (from[1] - site[1]) / (d * half);
    const first = s.score[2 * k]! / l;
    const second = (s.score[2 * k + 1]! - m * first) / n;
    out.push({
      j: Float64Array.from({ length: 8 }, (_, p) => l * jacobian[p]! + m * jacobian[8 + p]!),
      q: l * qu + m * qv,
      e: first,
      w,
      px: half / l,
    });
    out.push({
      j: Float64Array.from({ length: 8 }, (_, p) => n * jacobian[8 + p]!),
      q: n * qv,
      e: second,
      w,
      px: half / n,
    });
  }
  return out;
}

/**
 * Takes in what rows of one frame say.
 * @param now the term behind which they were measured
 * @param width of the picture, px
 */
export function learnTerm(
  m: TermMemory,
  rows: readonly (readonly Row[])[],
  now: number,
  term: Term,
  width: number,
): TermMemory {
  return rows.reduce((memory, list) => {
    const r = reading(list);
    return r && Number.isFinite(r.change) && r.reach * (1920 / width) >= term.shows
      ? taken(memory, r, clamp(now + r.change, -term.most, term.most), width)
      : memory;
  }, m);
}

function taken(m: TermMemory, r: Reading, at: number, width: number): TermMemory {
  const most = Math.max(m.most, r.information);
  const information = m.information + r.information;
  const keep = Math.min(1, (CAMERA.frames * most) / information);
  return {
    information: keep * information,
    sum: keep * (m.sum + r.information * at),
    square: keep * (m.square + r.information * at * at),
    most,
    reach: Math.max(m.reach, r.reach * (1920 / width)),
  };
}

/** Memories of several runs as one. */
export function together(memories: readonly TermMemory[]): TermMemory {
  return memories.reduce(
    (s, m) => ({
      information: s.information + m.information,
      sum: s.sum + m.sum,
      square: s.square + m.square,
      most: Math.max(s.most, m.most),
      reach: Math.max(s.reach, m.reach),
    }),
    NO_TERM_MEMORY,
  );
}

/** The likeliest value of a term after all that was seen, in its own unit; 0 before anything was. */
export function likeliest(m: TermMemory, term: Term): number {
  return m.sum / (m.information + 1 / term.usual ** 2);
}

/** A term that is clearly better than the one in use, or null. */
export function betterTerm(m: TermMemory, now: number, term: Term): number | null {
  const value = likeliest(m, term);
  const change = Math.abs(value - now);
  const frames = m.information / Math.max(m.most, 1e-9);
  const mean = m.sum / Math.max(m.information, 1e-9);
  if (change * m.reach <= CAMERA.worthwhile || change < term.least) return null;
  const z = change * Math.sqrt(m.information / CAMERA.frames);
  const scatter = Math.sqrt(Math.max(0, m.square / Math.max(m.information, 1e-9) - mean * mean));
  return z > CAMERA.certain ||
    (z > term.likely && frames >= term.several && change * Math.sqrt(frames) > term.agreed * scatter)
    ? value
    : null;
}

/**
 * What is learnt of a change of the readout falls short, since how fast things move is known from frames that were followed
 * without it: by this factor at the middle (0.35 to 0.85 was found on generated shots).
 */
const FALLS_SHORT = 0.72;
/** Share of a frame; a readout that was used and one that was then learnt are the same within this. By trial. */
const SAME_READOUT = 0.05;

/** The readout that a shot should be followed again with, or null. @param used null on the first run */
export function readoutToRepeatWith(m: TermMemory, used: number | null): number | null {
  if (used !== null) {
    const change = likeliest(m, READOUT) - used;
    return Math.abs(change) > SAME_READOUT && Math.abs(change) * m.reach > CAMERA.worthwhile
      ? withinMost(used + change / FALLS_SHORT)
      : null;
  }
  const hint = betterTerm(m, 0, READOUT);
  return hint === null ? null : withinMost(hint / FALLS_SHORT);
}

function withinMost(readout: number): number {
  return clamp(readout, -READOUT.most, READOUT.most);
}
