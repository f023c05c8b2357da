/**
 * What a picture's values are on a Screen and about it, to be judged beside each other: histograms and a waveform of
 * code values.
 */
import { clamp } from '../../clamp';
import { boundsOf, insidePolygon } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { luminance } from '../../image/luminance';
import { maxOf } from '../../image/image';

export interface Scopes {
  /** shares by code value, darkest first, each adding up to 1 */
  readonly inside: readonly number[];
  readonly around: readonly number[];
  /**
   * shares by column and value, `columns*bins`, the Screen and its surroundings from left to right; white is at the end
   */
  readonly waveform: Float32Array;
  readonly columns: number;
  readonly bins: number;
  /** columns between which the Screen lies */
  readonly screen: readonly [number, number];
}

/** Of the Screen's size; how far its surroundings reach. By trial. */
const AROUND = 0.35;
/** px that are counted; more look the same. By trial. */
const MOST_SAMPLES = 60_000;

/** Waveform and histogram of what lies inside the corners (px of the picture). @param columns of the waveform; `bins` of values */
export function scopesOf(picture: Raster, corners: Quad, columns = 128, bins = 64): Scopes {
  const b = boundsOf(corners);
  const reach = AROUND * Math.max(b.x1 - b.x0, b.y1 - b.y0);
  const x0 = Math.max(0, Math.floor(b.x0 - reach));
  const x1 = Math.min(picture.width, Math.ceil(b.x1 + reach));
  const y0 = Math.max(0, Math.floor(b.y0 - reach));
  const y1 = Math.min(picture.height, Math.ceil(b.y1 + reach));
  const inside = new Array<number>(bins).fill(0);
  const around = new Array<number>(bins).fill(0);
  const waveform = new Float32Array(columns * bins);
  const max = maxOf(picture);
  const step = Math.max(1, Math.round(Math.sqrt(Math.max(1, (x1 - x0) * (y1 - y0)) / MOST_SAMPLES)));
  for (let y = y0; y < y1; y += step)
    for (let x = x0; x < x1; x += step) {
      const k = (y * picture.width + x) * picture.channels;
      const v = luminance(picture.data[k]!, picture.data[k + 1]!, picture.data[k + 2]!) / max;
      const bin = clamp(Math.floor(v * bins), 0, bins - 1);
      (insidePolygon([x + 0.5, y + 0.5], corners) ? inside : around)[bin]!++;
      waveform[Math.min(columns - 1, Math.floor(((x - x0) / (x1 - x0)) * columns)) * bins + bin]!++;
    }
  const shares = (l: number[]): number[] => {
    const sum = l.reduce((s, v) => s + v, 0) || 1;
    return l.map((v) => v / sum);
  };
  for (let c = 0; c < columns; c++) {
    let most = 0;
    for (let i = 0; i < bins; i++) most = Math.max(most, waveform[c * bins + i]!);
    for (let i = 0; i < bins && most > 0; i++) waveform[c * bins + i]! /= most;
  }
  const column = (x: number): number => clamp(((x - x0) / Math.max(1, x1 - x0)) * columns, 0, columns);
  return {
    inside: shares(inside),
    around: shares(around),
    waveform,
    columns,
    bins,
    screen: [column(b.x0), column(b.x1)],
  };
}
