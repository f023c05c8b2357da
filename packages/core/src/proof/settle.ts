/**
 * Settling: what jumps from frame to frame in the measured slips is the track's own jitter, since the plate's movement
 * is in the plate as well as in the track. It is taken out by as much as the measurement's own noise allows (N.
 * Wiener's shrinkage of a noisy measurement); where no slip could be told, nothing is done.
 */
import { mapPoint } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { Corrections, Settle } from '../solve/touch-up';
import { correctedPin } from '../solve/touch-up';
import { jitterOf } from './ranking';
import type { MeasuredFrame } from './residual-slip';
import { residualSlip } from './residual-slip';

export interface Settled {
  readonly settle: Settle;
  /** rms per axis of what jumps from frame to frame, px at 1920 wide; NaN when too little could be told */
  readonly before: number;
  readonly after: number;
  /** frames of the range on which at least two corners could be told */
  readonly told: number;
}

/**
 * Frames to each side over which the slowly changing part is drawn as a parabola (A. Savitzky and M. Golay 1964). By
 * trial.
 */
const SIDE = 4;
/** Frames of those that must have been told. By trial. */
const LEAST = 5;

/** The value at 0 of a parabola through (x, y), by least squares; a mean of few points; null of none. */
function smoothAt(x: readonly number[], y: readonly number[]): number | null {
  const n = x.length;
  if (n < LEAST) return null;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  let s4 = 0;
  let t0 = 0;
  let t1 = 0;
  let t2 = 0;
  for (let i = 0; i < n; i++) {
    const a = x[i]!;
    const b = a * a;
    s1 += a;
    s2 += b;
    s3 += b * a;
    s4 += b * b;
    t0 += y[i]!;
    t1 += a * y[i]!;
    t2 += b * y[i]!;
  }
  const det = n * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2);
  if (Math.abs(det) < 1e-9) return null;
  return (t0 * (s2 * s4 - s3 * s3) - s1 * (t1 * s4 - s3 * t2) + s2 * (t1 * s3 - s2 * t2)) / det;
}

/**
 * @param frames in order; slips as measured on the path, and how well (px, per corner)
 * @param range first and last frame, inclusive
 */
export function settle(
  frames: readonly (MeasuredFrame & { readonly sigma: readonly number[] })[],
  pin: Quad,
  now: Corrections,
  range: readonly [number, number],
  width: number,
): Settled {
  const inside = frames.filter((f) => f.frame >= range[0] && f.frame <= range[1]);
  const left = inside.map((f) => residualSlip(f, pin, now));
  const k = 1920 / width;
  const jumps = left.map((f, i) =>
    f.by.map((p, c): Point | null => {
      if (!p) return null;
      const near = left
        .slice(Math.max(0, i - SIDE), i + SIDE + 1)
        .flatMap((g) => (g.by[c] ? [[g.frame - f.frame, ...g.by[c]!] as const] : []));
      const sx = smoothAt(
        near.map((q) => q[0]),
        near.map((q) => q[1]),
      );
      const sy = smoothAt(
        near.map((q) => q[0]),
        near.map((q) => q[2]),
      );
      return sx === null || sy === null ? null : [p[0] - sx, p[1] - sy];
    }),
  );
  // Per corner: how much of what jumps is the measurement's own noise.
  const believed = [0, 1, 2, 3].map((c) => {
    let own = 0;
    let all = 0;
    let n = 0;
    for (const [i, j] of jumps.entries())
      if (j[c]) {
        all += (j[c]![0] ** 2 + j[c]![1] ** 2) / 2;
        own += Math.min(inside[i]!.sigma[c]!, 1) ** 2;
        n++;
      }
    return n < LEAST || all === 0 ? 0 : Math.max(0, 1 - own / n / (all / n));
  });
  const offsets = inside.map((f, i) => {
    const own = correctedPin(pin, now, f.frame);
    const back = inverse(f.homography);
    return own.flatMap((p, c): number[] => {
      const j = jumps[i]![c];
      if (!j) return [0, 0];
      const at = mapPoint(f.homography, p);
      const q = mapPoint(back, [at[0] + believed[c]! * j[0], at[1] + believed[c]! * j[1]]);
      return [Number((q[0] - p[0]).toFixed(4)), Number((q[1] - p[1]).toFixed(4))];
    });
  });
  const made: Settle = { from: inside[0]?.frame ?? range[0], offsets };
  const after = { ...now, settles: [...(now.settles ?? []), made] };
  return {
    settle: made,
    before: jitterOf(left) * k,
    after: jitterOf(inside.map((f) => residualSlip(f, pin, after))) * k,
    told: left.filter((f) => f.by.filter((p) => p !== null).length >= 2).length,
  };
}
