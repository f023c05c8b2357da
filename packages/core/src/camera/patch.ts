/**
 * A small square of a picture that is found again in others. Coarse to fine by its shift alone; then, against the
 * picture it was first seen in, by its shift and an affine change of shape, so that nothing adds up from frame to frame.
 * Source: J.-Y. Bouguet, Pyramidal Implementation of the Lucas Kanade Feature Tracker, 2000; S. Baker and I. Matthews,
 * Lucas-Kanade 20 Years On, IJCV 2004 (the inverse compositional step).
 */
import { cholesky, choleskySolve } from '../geometry/linear-algebra';
import type { Pyramid, PyramidLevel } from '../image/pyramid';

/** Px on each side of the middle. Common practice, no source. */
export const HALF = 7;
const SIDE = 2 * HALF + 1;
const AREA = SIDE * SIDE;
/** A square one px wider on each side, for gradients. */
const WIDE = SIDE + 2;

const FIT = {
  /** Steps of one level at the most. By trial. */
  rounds: 10,
  /** Px; a step shorter than this ends the fit. By trial. */
  settled: 0.01,
  /** Px; the same for the search by shift alone, which the fit makes better. By trial. */
  roughlySettled: 0.05,
  /** Smallest share of the trace squared that a solvable tensor's determinant has. By trial. */
  leastDeterminant: 1e-6,
  /** Change of area of one step beyond which the square folds over. By trial. */
  mostStep: 4,
} as const;

/** A square's levels less their mean, their gradients, and what a step needs. */
export interface Patch {
  readonly values: Float32Array;
  readonly gx: Float32Array;
  readonly gy: Float32Array;
  /** Cholesky factor of the 6x6 normal matrix of shift and shape; null where shape cannot be told */
  readonly factor: Float64Array | null;
  /** root of the sum of squares of `values` */
  readonly norm: number;
}

/** Where a patch lies in a picture: its middle, px, and its shape (columns of the template's axes). */
export interface PatchPlace {
  x: number;
  y: number;
  a: number;
  b: number;
  c: number;
  d: number;
}

/** Samples a square of `side` px linearly. @returns false where it reaches beyond the picture */
function sampleSquare(level: PyramidLevel, p: PatchPlace, side: number, out: Float32Array): boolean {
  const { width, height, data } = level;
  const half = (side - 1) / 2;
  const reachX = half * (Math.abs(p.a) + Math.abs(p.b)) + 2;
  const reachY = half * (Math.abs(p.c) + Math.abs(p.d)) + 2;
  const isInside = p.x > reachX && p.y > reachY && p.x < width - reachX && p.y < height - reachY;
  if (!isInside) return false;
  const { a, c } = p;
  for (let j = -half, o = 0; j <= half; j++) {
    let sx = p.x - 0.5 + p.b * j - a * half;
    let sy = p.y - 0.5 + p.d * j - c * half;
    for (let i = 0; i < side; i++, o++, sx += a, sy += c) {
      const ix = sx | 0;
      const iy = sy | 0;
      const fx = sx - ix;
      const k = iy * width + ix;
      const top = data[k]! + fx * (data[k + 1]! - data[k]!);
      const under = data[k + width]! + fx * (data[k + width + 1]! - data[k + width]!);
      out[o] = top + (sy - iy) * (under - top);
    }
  }
  return true;
}

/** Takes the mean off. @returns root of the sum of squares of what is left */
function lessMean(v: Float32Array): number {
  let mean = 0;
  for (let i = 0; i < AREA; i++) mean += v[i]!;
  mean /= AREA;
  let squares = 0;
  for (let i = 0; i < AREA; i++) {
    const left = v[i]! - mean;
    v[i] = left;
    squares += left * left;
  }
  return Math.sqrt(squares);
}

/** Normal matrix of shift (x, y) and shape (by column and row for x, then for y), factored. */
function shapeFactor(gx: Float32Array, gy: Float32Array): Float64Array | null {
  const m = new Float64Array(36);
  const g = new Float64Array(6);
  for (let j = -HALF, o = 0; j <= HALF; j++)
    for (let i = -HALF; i <= HALF; i++, o++) {
      g[0] = gx[o]!;
      g[1] = gy[o]!;
      g[2] = gx[o]! * i;
      g[3] = gx[o]! * j;
      g[4] = gy[o]! * i;
      g[5] = gy[o]! * j;
      for (let r = 0; r < 6; r++) for (let s = 0; s <= r; s++) m[6 * r + s]! += g[r]! * g[s]!;
    }
  for (let r = 0; r < 6; r++) m[7 * r]! *= 1 + FIT.leastDeterminant;
  return cholesky(m, 6) ? m : null;
}

/** What a fit works in; one for a thread. */
export class PatchFitter {
  private readonly seen = new Float32Array(AREA);
  private readonly wide = new Float32Array(WIDE * WIDE);
  private readonly step = new Float64Array(6);
  private readonly rough: { values: Float32Array; gx: Float32Array; gy: Float32Array } = {
    values: new Float32Array(AREA),
    gx: new Float32Array(AREA),
    gy: new Float32Array(AREA),
  };

  /** @returns the template around a place, px of the level, or null at the border */
  patchAt(level: PyramidLevel, x: number, y: number): Patch | null {
    const own = { values: new Float32Array(AREA), gx: new Float32Array(AREA), gy: new Float32Array(AREA) };
    const norm = this.cut(level, x, y, own);
    return norm === null ? null : { ...own, norm, factor: shapeFactor(own.gx, own.gy) };
  }

  /** Levels less their mean and gradients of a square that lies upright. */
  private cut(
    level: PyramidLevel,
    x: number,
    y: number,
    out: { values: Float32Array; gx: Float32Array; gy: Float32Array },
  ): number | null {
    const w = this.wide;
    if (!sampleSquare(level, { x, y, a: 1, b: 0, c: 0, d: 1 }, WIDE, w)) return null;
    for (let j = 0, o = 0; j < SIDE; j++)
      for (let i = 0, k = (j + 1) * WIDE + 1; i < SIDE; i++, o++, k++) {
        out.values[o] = w[k]!;
        out.gx[o] = 0.5 * (w[k + 1]! - w[k - 1]!);
        out.gy[o] = 0.5 * (w[k + WIDE]! - w[k - WIDE]!);
      }
    return lessMean(out.values);
  }

  /**
   * Moves and reshapes `place` until the picture there is the template, its level and gain left free.
   * @returns normalised correlation there, or null when it ran out of the picture or folded over
   */
  fit(level: PyramidLevel, patch: Patch, place: PatchPlace): number | null {
    const { factor } = patch;
    if (!factor) return null;
    for (let round = 0; ; round++) {
      if (!sampleSquare(level, place, SIDE, this.seen)) return null;
      const norm = lessMean(this.seen);
      const gain = norm > 0 ? patch.norm / norm : 1;
      const likeness = this.steepest(patch, gain);
      if (round === FIT.rounds) return likeness;
      choleskySolve(factor, 6, this.step);
      if (Math.hypot(this.step[0]!, this.step[1]!) < FIT.settled) return likeness;
      if (!compose(place, this.step)) return null;
    }
  }

  /** Fills `step` with the right side of the normal equations. @returns normalised correlation */
  private steepest({ values, gx, gy, norm }: Patch, gain: number): number {
    const { seen, step } = this;
    step.fill(0);
    let alike = 0;
    for (let j = -HALF, o = 0; j <= HALF; j++) {
      let [sx, sy, sxi, syi] = [0, 0, 0, 0];
      for (let i = -HALF; i <= HALF; i++, o++) {
        const s = gain * seen[o]!;
        const e = s - values[o]!;
        alike += s * values[o]!;
        const ex = e * gx[o]!;
        const ey = e * gy[o]!;
        sx += ex;
        sy += ey;
        sxi += ex * i;
        syi += ey * i;
      }
      step[0]! += sx;
      step[1]! += sy;
      step[2]! += sxi;
      step[3]! += sx * j;
      step[4]! += syi;
      step[5]! += sy * j;
    }
    return norm > 0 ? alike / (norm * norm) : 0;
  }

  /** One level's search for the shift from a place in one picture to `at` in another. */
  private shiftOnLevel(
    from: PyramidLevel,
    to: PyramidLevel,
    place: { readonly x: number; readonly y: number },
    at: PatchPlace,
  ): boolean {
    const { values, gx, gy } = this.rough;
    if (this.cut(from, place.x, place.y, this.rough) === null) return false;
    let [xx, xy, yy] = [0, 0, 0];
    for (let i = 0; i < AREA; i++) {
      xx += gx[i]! * gx[i]!;
      xy += gx[i]! * gy[i]!;
      yy += gy[i]! * gy[i]!;
    }
    const det = xx * yy - xy * xy;
    if (!(det > FIT.leastDeterminant * (xx + yy) ** 2) || det === 0) return false;
    const { seen } = this;
    for (let round = 0; round < FIT.rounds; round++) {
      if (!sampleSquare(to, at, SIDE, seen)) return false;
      lessMean(seen);
      let [bx, by] = [0, 0];
      for (let i = 0; i < AREA; i++) {
        const e = seen[i]! - values[i]!;
        bx += e * gx[i]!;
        by += e * gy[i]!;
      }
      const dx = (yy * bx - xy * by) / det;
      const dy = (xx * by - xy * bx) / det;
      at.x -= dx;
      at.y -= dy;
      if (Math.hypot(dx, dy) < FIT.roughlySettled) break;
    }
    return true;
  }

  /**
   * Where a place of one picture lies in the next, by its shift, coarse to fine.
   * @param guess where it is looked for first, px
   * @returns px; a level that is flat there, or too near the border, is passed over
   */
  shiftOf(
    from: Pyramid,
    to: Pyramid,
    place: { readonly x: number; readonly y: number },
    guess: { readonly x: number; readonly y: number },
  ): { x: number; y: number } {
    let found = { x: guess.x, y: guess.y };
    for (let l = from.length - 1; l >= 0; l--) {
      const k = 2 ** l;
      const at = { x: found.x / k, y: found.y / k, a: 1, b: 0, c: 0, d: 1 };
      const isFound = this.shiftOnLevel(from[l]!, to[l]!, { x: place.x / k, y: place.y / k }, at);
      if (isFound) found = { x: at.x * k, y: at.y * k };
    }
    return found;
  }
}

/** Takes the inverse of a step into the place. @returns false when the step folds the square over */
function compose(p: PatchPlace, s: Float64Array): boolean {
  const a = 1 + s[2]!;
  const b = s[3]!;
  const c = s[4]!;
  const d = 1 + s[5]!;
  const det = a * d - b * c;
  if (!(det > 1 / FIT.mostStep && det < FIT.mostStep)) return false;
  const x = -(d * s[0]! - b * s[1]!) / det;
  const y = -(a * s[1]! - c * s[0]!) / det;
  p.x += p.a * x + p.b * y;
  p.y += p.c * x + p.d * y;
  [p.a, p.b] = [(p.a * d - p.b * c) / det, (p.b * a - p.a * b) / det];
  [p.c, p.d] = [(p.c * d - p.d * c) / det, (p.d * a - p.c * b) / det];
  return true;
}
