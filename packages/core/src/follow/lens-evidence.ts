/**
 * The lens's radial term from the bow of a screen's own edges. A straight edge seen at another place or size bows
 * otherwise than on the reference frame; what no movement of the plane explains, the lens does.
 */
import { cholesky, choleskySolve } from '../geometry/linear-solve';
import type { Lens } from '../geometry/lens';
import { bowAt } from '../geometry/lens';
import { mapPoint } from '../geometry/homography';
import { multiply } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { EdgeFit } from './edge-solver';
import { pointJacobian } from './equations';

/** Real lenses: a term beyond this is a mistake, and its standard deviation before anything was seen. */
const MOST = 0.35, USUAL = 0.04;
/** A frame's edges may all bow for a reason of their own, so frames count as at most so many. */
const FRAMES = 8;
/** Bow (px at 1920 wide) and certainty (in standard deviations) from which a better term is taken. */
const WORTHWHILE = 0.12, CERTAIN = 4;

export interface LensMemory {
  readonly information: number;
  readonly sum: number;
  /** the most that one frame said, and the largest bow per unit of the term, px at 1920 wide */
  readonly most: number;
  readonly reach: number;
}

export const NO_LENS_MEMORY: LensMemory = { information: 0, sum: 0, most: 0, reach: 0 };

/** What one frame's edges say of a change of the term, the plane's motion left free. @returns null when next to nothing */
function reading(e: EdgeFit, pinScale: number, centre: Point, lens: Lens): { change: number; information: number; reach: number } | null {
  const h = e.homography, a = new Float64Array(64), b = new Float64Array(8), c = new Float64Array(8), rows = new Float64Array(16), j = new Float64Array(8);
  const m = multiply(h, [pinScale, 0, centre[0], 0, pinScale, centre[1], 0, 0, 1]);
  let qq = 0, qe = 0;
  const seen: { readonly q: number; readonly row: Float64Array }[] = [];
  for (const [i, hit] of e.hits.entries()) {
    const w = e.terms.weight[i]!;
    if (w === 0) continue;
    const at = pointJacobian(m, (hit.site[0] - centre[0]) / pinScale, (hit.site[1] - centre[1]) / pinScale, rows), [nx, ny] = hit.normal;
    const own = bowAt(lens, hit.site), there = bowAt(lens, at), d = 0.01, moved = mapPoint(h, [hit.site[0] + d * own[0], hit.site[1] + d * own[1]]);
    const q = nx * ((moved[0] - at[0]) / d - there[0]) + ny * ((moved[1] - at[1]) / d - there[1]);
    const residual = (at[0] - hit.at[0]) * nx + (at[1] - hit.at[1]) * ny;
    for (let p = 0; p < 8; p++) j[p] = nx * rows[p]! + ny * rows[8 + p]!;
    for (let p = 0; p < 8; p++) {
      b[p]! += w * residual * j[p]!;
      c[p]! += w * q * j[p]!;
      for (let r = 0; r < 8; r++) a[p * 8 + r]! += w * j[p]! * j[r]!;
    }
    qq += w * q * q;
    qe += w * q * residual;
    seen.push({ q, row: j.slice() });
  }
  if (seen.length < 40) return null;
  for (let p = 0; p < 8; p++) a[p * 9]! += 1e-9 * (1 + a[p * 9]!);
  if (!cholesky(a, 8)) return null;
  const x = c.slice();
  choleskySolve(a, 8, x);
  for (let p = 0; p < 8; p++) {
    qq -= x[p]! * c[p]!;
    qe -= x[p]! * b[p]!;
  }
  let reach = 0;
  for (const { q, row } of seen) reach = Math.max(reach, Math.abs(q - row.reduce((s, v, p) => s + v * x[p]!, 0)));
  return qq > 1e-6 ? { change: qe / qq, information: qq, reach } : null;
}

/** Takes in a frame whose edges were fitted behind `lens`. */
export function learnLens(memory: LensMemory, e: EdgeFit, pinScale: number, centre: Point, lens: Lens): LensMemory {
  const r = reading(e, pinScale, centre, lens);
  if (!r || !Number.isFinite(r.change)) return memory;
  const at = Math.max(-MOST, Math.min(MOST, lens.radial + r.change)), most = Math.max(memory.most, r.information);
  let information = memory.information + r.information, sum = memory.sum + r.information * at;
  const keep = Math.min(1, (FRAMES * most) / information);
  information *= keep;
  sum *= keep;
  return { information, sum, most, reach: Math.max(memory.reach, r.reach * (1920 / lens.width)) };
}

/** A term that is clearly better than the one in use, or null. */
export function betterLens(memory: LensMemory, lens: Lens): number | null {
  const prior = 1 / USUAL ** 2, radial = memory.sum / (memory.information + prior), change = Math.abs(radial - lens.radial);
  return change * memory.reach > WORTHWHILE && change * Math.sqrt(memory.information / FRAMES) > CERTAIN ? radial : null;
}
