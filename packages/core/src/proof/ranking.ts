/**
 * What is wrong with a track, from the slips of its corners: slow drift, pops of one frame, and jitter, told apart; and
 * the frames that are worst.
 */
import type { Point } from '../geometry/point';
import { SIGMA_PER_DEVIATION, median } from '../statistics';

export interface SlipFrame {
  readonly frame: number;
  /** per corner, px of the frame; null where it cannot be told */
  readonly by: readonly (Point | null)[];
}

export interface Trouble {
  readonly frame: number;
  readonly corner: number;
  readonly kind: 'drift' | 'pop';
  /** px at 1920 wide */
  readonly size: number;
}

export interface Ranking {
  /** worst first: at most one of each kind a frame */
  readonly troubles: readonly Trouble[];
  /**
   * per frame, the slowly changing part of the worst corner's slip, px at 1920 wide; null where nothing could be told
   */
  readonly drift: readonly (number | null)[];
  /**
   * rms of the slips' second differences per axis over the square root of six, px at 1920 wide; NaN when too little
   * could be told
   */
  readonly jitter: number;
  /** share of corners and frames on which slip could be told */
  readonly told: number;
}

const RANKING = {
  /** Frames on each side over which slip is taken to change slowly. By trial. */
  slow: 3,
  /** px at 1920 wide by which a pop stands out. By trial. */
  pop: 0.8,
  /** Typical deviations by which it must stand out too. By trial. */
  popDeviations: 6,
} as const;

/** Per corner and frame: the median of the slips around, which a pop does not move. */
export function slowPart(frames: readonly SlipFrame[], corner: number): (Point | null)[] {
  const x = new Float64Array(2 * RANKING.slow + 1);
  const y = new Float64Array(2 * RANKING.slow + 1);
  return frames.map((_, i) => {
    let n = 0;
    for (let k = Math.max(0, i - RANKING.slow); k <= i + RANKING.slow && k < frames.length; k++) {
      const p = frames[k]!.by[corner];
      if (!p) continue;
      x[n] = p[0];
      y[n++] = p[1];
    }
    return n < 2 ? null : [median(x.subarray(0, n)), median(y.subarray(0, n))];
  });
}

/**
 * Root mean square of second differences per axis over the square root of six: what is left of white jitter's own
 * deviation.
 */
export function jitterOf(frames: readonly SlipFrame[]): number {
  let sum = 0;
  let n = 0;
  for (let i = 1; i + 1 < frames.length; i++)
    for (let c = 0; c < 4; c++) {
      const [a, b, d] = [frames[i - 1]!.by[c], frames[i]!.by[c], frames[i + 1]!.by[c]];
      if (!a || !b || !d) continue;
      for (const k of [0, 1] as const) sum += (a[k] - 2 * b[k] + d[k]) ** 2;
      n += 2;
    }
  return n < 8 ? NaN : Math.sqrt(sum / n / 6);
}

/** @param frames in order; @param width of the picture, px */
export function rankSlips(frames: readonly SlipFrame[], width: number): Ranking {
  const k = 1920 / width;
  const slow = [0, 1, 2, 3].map((c) => slowPart(frames, c));
  const troubles: Trouble[] = [];
  let told = 0;
  const drift = frames.map((f, i): number | null => {
    const sizes = slow.map((s) => (s[i] ? Math.hypot(...s[i]!) * k : -1));
    const worst = Math.max(...sizes);
    told += f.by.filter((p) => p !== null).length;
    if (worst < 0) return null;
    troubles.push({ frame: f.frame, corner: sizes.indexOf(worst), kind: 'drift', size: worst });
    return worst;
  });
  for (let c = 0; c < 4; c++) {
    const off = frames.map((f, i) =>
      f.by[c] && slow[c]![i] ? Math.hypot(f.by[c]![0] - slow[c]![i]![0], f.by[c]![1] - slow[c]![i]![1]) * k : NaN,
    );
    const usual = SIGMA_PER_DEVIATION * median(off.filter((v) => !Number.isNaN(v)));
    // Between frames that were told: else it may be the end of a drift, or of what covers the corner.
    for (const [i, v] of off.entries())
      if (
        v > Math.max(RANKING.pop, RANKING.popDeviations * (usual || 0)) &&
        [-1, 1].every((side) => frames[i + side]?.by[c] || frames[i + 2 * side]?.by[c])
      )
        troubles.push({ frame: frames[i]!.frame, corner: c, kind: 'pop', size: v });
  }
  const best = new Map<string, Trouble>();
  for (const t of troubles) {
    const key = `${t.frame} ${t.kind}`;
    if (!best.has(key) || best.get(key)!.size < t.size) best.set(key, t);
  }
  return {
    troubles: [...best.values()].sort((a, b) => b.size - a.size),
    drift,
    jitter: jitterOf(frames) * k,
    told: frames.length > 0 ? told / (4 * frames.length) : 0,
  };
}
