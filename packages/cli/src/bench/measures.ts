/**
 * The figures of following against exact truth. Errors in px of a picture 1920 wide; a frame counts where at least 30 %
 * of the screen can be seen; the reference frame never counts.
 */
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { jitterOf } from '@yarlop/core/proof/ranking';

/** What the generator knows of a shot. */
export interface Truth {
  readonly width: number;
  readonly height: number;
  readonly corners: readonly Quad[];
  /** per frame, the share of the screen inside the picture and not covered, 0 to 1 */
  readonly visible?: readonly number[];
  /** per frame, how far the fastest corner moves while the shutter is open, px */
  readonly blur?: readonly number[];
}

/** One frame of a track as a method under test gives it; a bridged frame rests on no evidence. */
export interface Claim {
  readonly corners: Quad;
  readonly sigma?: readonly number[];
  readonly bridged?: boolean;
}

export interface Figures {
  readonly median: number;
  readonly p95: number;
  readonly max: number;
  /** share of counted frames whose mean corner error is at most 1 px */
  readonly within1px: number;
  readonly lost: number;
  readonly counted: number;
  /** 95th percentile over corners inside and outside the picture */
  readonly insideP95: number;
  readonly outsideP95: number;
  readonly bridgedMean: number;
  readonly jitter: number;
  /** 95th percentile of the last hundred frames less that of the first; NaN for takes of fewer than 400 */
  readonly drift: number;
  /** shares of per-axis errors within one and two sigma */
  readonly calibration: readonly [number, number] | null;
}

const NOWHERE = [null, null, null, null];
/** Share of the screen that must be visible for a frame to count. */
const LEAST_VISIBLE = 0.3;
/** px of blur below which jitter is told. */
const SHARP = 2;
/** Frames over which drift is told. */
const HUNDRED = 100;

export function quantile(values: readonly number[], q: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? NaN;
}

const mean = (v: readonly number[]): number => (v.length === 0 ? NaN : v.reduce((s, x) => s + x, 0) / v.length);

/** Mean corner error of a frame, px at 1920 wide. */
export function frameError(claim: Quad, truth: Quad, width: number): number {
  return (1920 / width) * mean(claim.map((p, i) => distance(p, truth[i]!)));
}

export function measure(claims: ReadonlyMap<number, Claim>, truth: Truth, reference: number): Figures {
  const scale = 1920 / truth.width;
  const offsets = new Map<number, Point[]>();
  const frames: number[] = [];
  const inside: number[] = [];
  const outside: number[] = [];
  const bridged: number[] = [];
  const ratios: number[] = [];
  let lost = 0;
  for (const [frame, t] of truth.corners.entries()) {
    if (frame === reference || (truth.visible?.[frame] ?? 1) < LEAST_VISIBLE) {
      const c = claims.get(frame);
      if (c?.bridged) bridged.push(frameError(c.corners, t, truth.width));
      continue;
    }
    const c = claims.get(frame);
    if (!c || c.bridged) lost++;
    if (!c) continue;
    if (c.bridged) bridged.push(frameError(c.corners, t, truth.width));
    else
      offsets.set(
        frame,
        c.corners.map((p, i): Point => [(p[0] - t[i]![0]) * scale, (p[1] - t[i]![1]) * scale]),
      );
    frames.push(frameError(c.corners, t, truth.width));
    c.corners.forEach((p, i) => {
      const [x, y] = t[i]!;
      const within = x >= 0 && y >= 0 && x <= truth.width && y <= truth.height;
      (within ? inside : outside).push(scale * distance(p, t[i]!));
      const s = c.sigma?.[i];
      if (s !== undefined && !c.bridged) ratios.push(Math.abs(p[0] - x) / s, Math.abs(p[1] - y) / s);
    });
  }
  const share = (limit: number): number => ratios.filter((r) => r <= limit).length / ratios.length;
  return {
    median: quantile(frames, 0.5),
    p95: quantile(frames, 0.95),
    max: frames.length > 0 ? Math.max(...frames) : NaN,
    counted: frames.length,
    lost,
    within1px: frames.filter((e) => e <= 1).length / Math.max(1, frames.length),
    insideP95: quantile(inside, 0.95),
    outsideP95: quantile(outside, 0.95),
    bridgedMean: mean(bridged),
    jitter: jitterOf(
      truth.corners.map((_, frame) => ({
        frame,
        by: ((truth.blur?.[frame] ?? 0) < SHARP && offsets.get(frame)) || NOWHERE,
      })),
    ),
    drift:
      frames.length < 4 * HUNDRED
        ? NaN
        : quantile(frames.slice(-HUNDRED), 0.95) - quantile(frames.slice(0, HUNDRED), 0.95),
    calibration: ratios.length > 0 ? [share(1), share(2)] : null,
  };
}
