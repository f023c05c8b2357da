/** How a shot's light changes from frame to frame: by flicker, or by its exposure. */
import { median, quantile } from '../../statistics';
import type { MatchEvidence } from './evidence';

const CHANGE = {
  /** Frames to each side against which flicker is told from slow changes and what moves into view. By trial. */
  flickerSpan: 4,
  /** Correlation of the picture's two halves from which a change of light is one. By trial. */
  agree: 0.8,
  /**
   * Logarithm; change of the whole picture's light over the shot from which it is the exposure's: smaller ones drift
   * in with what moves into view. By trial.
   */
  exposure: 0.4,
  /** Share of it by which the two halves may differ. By trial. */
  apart: 0.2,
} as const;

/**
 * The picture's light against its running median; steady where its two halves do not agree, since then it is chance.
 */
export function flicker(e: MatchEvidence): { frame: number; value: number }[] {
  const quick = ([0, 1] as const).map((h) =>
    e.lights.map(
      ({ halves }, i) =>
        halves[h] -
        median(e.lights.slice(Math.max(0, i - CHANGE.flickerSpan), i + CHANGE.flickerSpan + 1).map((l) => l.halves[h])),
    ),
  );
  const [a, b] = quick as [number[], number[]];
  const dot = (x: readonly number[], y: readonly number[]): number => x.reduce((s, v, i) => s + v * y[i]!, 0);
  const agree = dot(a, b) / Math.max(1e-12, Math.sqrt(dot(a, a) * dot(b, b)));
  return e.lights.map(({ frame }, i) => ({
    frame,
    value: agree > CHANGE.agree ? Math.exp((a[i]! + b[i]!) / 2) : 1,
  }));
}

/** The picture's light by frame against the reference frame's, where its exposure changes; null where it does not. */
export function exposure(e: MatchEvidence): { frame: number; value: number }[] | null {
  const middle = e.lights.map(({ halves }) => (halves[0] + halves[1]) / 2);
  const range = middle.length > 0 ? quantile(middle, 0.98) - quantile(middle, 0.02) : 0;
  const reference = e.lights.findIndex((l) => l.frame >= e.referenceFrame);
  if (range < CHANGE.exposure || e.lights.some(({ halves }) => Math.abs(halves[0] - halves[1]) > CHANGE.apart * range))
    return null;
  const own = middle[Math.max(0, reference)]!;
  return e.lights.map(({ frame }, i) => ({ frame, value: Math.exp(middle[i]! - own) }));
}
