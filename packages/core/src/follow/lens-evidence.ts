/**
 * The lens's radial term from the bow of a screen's own edges and of the picture on it. A straight edge seen at another place or size bows
 * otherwise than on the reference frame; what no movement of the plane explains, the lens does.
 */
import { cholesky, choleskySolve } from '../geometry/linear-solve';
import type { Lens } from '../geometry/lens';
import { bowAt } from '../geometry/lens';
import { mapPoint } from '../geometry/homography';
import type { Matrix3 } from '../geometry/matrix3';
import { IDENTITY, inverse, multiply } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { EdgeFit } from './edge-solver';
import { pointJacobian } from './equations';
import type { Template } from './template';
import type { Alignment } from './texture-alignment';

/** Real lenses: a term beyond this is a mistake, and its standard deviation before anything was seen. */
const MOST = 0.35, USUAL = 0.04;
/** A frame's edges may all bow for a reason of their own, so frames count as at most so many. */
const FRAMES = 8;
/** Bow (px at 1920 wide) and certainty (in standard deviations) from which a better term is taken. */
const WORTHWHILE = 0.12, CERTAIN = 4;
/** A lesser certainty will do where so many frames' worth of views agree, in standard deviations of their own scatter. */
const LIKELY = 1.6, SEVERAL = 4, AGREED = 5;

export interface LensMemory {
  readonly information: number;
  /** information times what frames said, and times its square */
  readonly sum: number;
  readonly square: number;
  /** the most that one frame said, and the largest bow per unit of the term, px at 1920 wide */
  readonly most: number;
  readonly reach: number;
}

export const NO_LENS_MEMORY: LensMemory = { information: 0, sum: 0, square: 0, most: 0, reach: 0 };

/** One scalar that a frame tells: what it is off by, its change with the plane's eight parameters and with the lens's term, one over its variance. */
interface Row {
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

/** Rows without which nothing is said; weight from which a cell has its say. */
const LEAST_ROWS = 40, LEAST_WEIGHT = 0.01;

/** What rows say of a change of the term, the plane's motion left free; null when next to nothing. */
function reading(rows: readonly Row[]): Reading | null {
  if (rows.length < LEAST_ROWS) return null;
  const a = new Float64Array(64), b = new Float64Array(8), c = new Float64Array(8);
  let qq = 0, qe = 0;
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
  for (const row of rows) reach = Math.max(reach, row.px * Math.abs(row.q - row.j.reduce((s, v, p) => s + v * x[p]!, 0)));
  return qq > 1e-6 ? { change: qe / qq, information: qq, reach } : null;
}

/** Rows of edges, in px across them. */
function edgeRows(e: EdgeFit, pinScale: number, centre: Point, lens: Lens): Row[] {
  const h = e.homography, jacobian = new Float64Array(16), m = multiply(h, [pinScale, 0, centre[0], 0, pinScale, centre[1], 0, 0, 1]), out: Row[] = [];
  for (const [i, hit] of e.hits.entries()) {
    const w = e.terms.weight[i]!;
    if (w === 0) continue;
    const at = pointJacobian(m, (hit.site[0] - centre[0]) / pinScale, (hit.site[1] - centre[1]) / pinScale, jacobian), [nx, ny] = hit.normal, [dx, dy] = carriedBow(h, hit.site, at, lens);
    out.push({ j: Float64Array.from({ length: 8 }, (_, p) => nx * jacobian[p]! + ny * jacobian[8 + p]!), q: nx * dx + ny * dy, e: (at[0] - hit.at[0]) * nx + (at[1] - hit.at[1]) * ny, w, px: 1 });
  }
  return out;
}

/** How a unit of the term moves a place's picture away from where the plane's motion `h` carries it, px. */
function carriedBow(h: Matrix3, site: Point, at: Point, lens: Lens): Point {
  const own = bowAt(lens, site), there = bowAt(lens, at), d = 0.01, moved = mapPoint(h, [site[0] + d * own[0], site[1] + d * own[1]]);
  return [(moved[0] - at[0]) / d - there[0], (moved[1] - at[1]) / d - there[1]];
}

/** Rows of a picture's cells, whitened: their displacement in units of its own standard deviation. */
function cellRows(a: Alignment, template: Template, lens: Lens): Row[] {
  const { sensors: s, consensus, homography: h } = a, t = s.level, middle = ((t.side - 1) / 2) * t.step, half = template.halfSize, jacobian = new Float64Array(16), back = inverse(h), out: Row[] = [];
  if (t.level > 0) return [];
  for (let k = 0; k < t.cells; k++) {
    const w = consensus.weight[k]!, l = Math.sqrt(s.information[3 * k]!), m = s.information[3 * k + 1]! / l, n = Math.sqrt(s.information[3 * k + 2]! - m * m);
    if (t.probation[k] || !(w > LEAST_WEIGHT) || !(l > 0) || !(n > 0)) continue;
    const u = t.u[k]! + middle, v = t.v[k]! + middle, site: Point = [template.centre[0] + half * u, template.centre[1] + half * v], at = mapPoint(h, site);
    pointJacobian(IDENTITY, u, v, jacobian);
    // The same in the remembered picture, where displacements are told.
    const [dx, dy] = carriedBow(h, site, at, lens), d = 0.01, from = mapPoint(back, [at[0] + d * dx, at[1] + d * dy]), qu = (from[0] - site[0]) / (d * half), qv = (from[1] - site[1]) / (d * half);
    const first = s.score[2 * k]! / l, second = (s.score[2 * k + 1]! - m * first) / n;
    out.push({ j: Float64Array.from({ length: 8 }, (_, p) => l * jacobian[p]! + m * jacobian[8 + p]!), q: l * qu + m * qv, e: first, w, px: half / l });
    out.push({ j: Float64Array.from({ length: 8 }, (_, p) => n * jacobian[8 + p]!), q: n * qv, e: second, w, px: half / n });
  }
  return out;
}

/** What a frame was fitted to behind `lens`: its edges, its picture, or both. */
export interface LensSight {
  readonly edges: EdgeFit | null;
  readonly picture: { readonly alignment: Alignment; readonly template: Template } | null;
}

/** @param pinScale half the pin's diagonal, px, and `centre` its middle on the reference frame */
export function learnLens(memory: LensMemory, { edges, picture }: LensSight, pinScale: number, centre: Point, lens: Lens): LensMemory {
  const told = [edges && reading(edgeRows(edges, pinScale, centre, lens)), picture && reading(cellRows(picture.alignment, picture.template, lens))];
  return told.reduce((m: LensMemory, r) => (r && Number.isFinite(r.change) ? taken(m, r, lens) : m), memory);
}

function taken(m: LensMemory, r: Reading, lens: Lens): LensMemory {
  const at = Math.max(-MOST, Math.min(MOST, lens.radial + r.change)), most = Math.max(m.most, r.information), information = m.information + r.information, keep = Math.min(1, (FRAMES * most) / information);
  return { information: keep * information, sum: keep * (m.sum + r.information * at), square: keep * (m.square + r.information * at * at), most, reach: Math.max(m.reach, r.reach * (1920 / lens.width)) };
}

/** The likeliest term, of what several memories hold. */
export function likeliestTerm(memories: readonly LensMemory[]): number {
  const total = memories.reduce((s, m) => ({ information: s.information + m.information, sum: s.sum + m.sum }), { information: 1 / USUAL ** 2, sum: 0 });
  return total.sum / total.information;
}

/** A term that is clearly better than the one in use, or null. */
export function betterLens(m: LensMemory, lens: Lens): number | null {
  const radial = likeliestTerm([m]), change = Math.abs(radial - lens.radial), frames = m.information / Math.max(m.most, 1e-9), mean = m.sum / Math.max(m.information, 1e-9);
  if (change * m.reach <= WORTHWHILE) return null;
  const z = change * Math.sqrt(m.information / FRAMES), scatter = Math.sqrt(Math.max(0, m.square / Math.max(m.information, 1e-9) - mean * mean));
  return z > CERTAIN || (z > LIKELY && frames >= SEVERAL && change * Math.sqrt(frames) > AGREED * scatter) ? radial : null;
}
