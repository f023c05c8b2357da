/**
 * Grain: the plate's noise, measured where it is flat, and made anew over the fill. Made-up noise has the measured
 * strength at each level and channel and the measured size, is never the same on two frames, and always the same on the
 * same one.
 */
import { kernelsFor } from '../../image/kernels';
import { median } from '../../statistics';
import { hash32 } from '../base/hash';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Region } from '../base/region';
import { gaussianBlur, gaussianKernel } from '../shape/softness';
import { NORMALS_AT, holdNormals } from '../base/kernel-memory';

/** Noise of a plate: standard deviation per channel at some levels, both as shares of the code range. */
export interface MeasuredGrain {
  readonly levels: readonly number[];
  /** R, G, B, each as long as `levels` */
  readonly sigma: readonly (readonly number[])[];
  /** blur of the noise, sigma in px of the plate: 0 where pixels know nothing of each other */
  readonly size: number;
}

export interface Grain {
  /** 1 as measured */
  readonly amount?: Animated;
  /** in place of the measured size, px of the plate */
  readonly size?: number;
  readonly seed?: number;
  readonly measured?: MeasuredGrain;
}

/** Strength at a level, share of the range, between the levels that were measured. */
export function grainSigma(m: MeasuredGrain, channel: number, level: number): number {
  const { levels } = m;
  const sigma = m.sigma[channel] ?? [];
  if (levels.length === 0) return 0;
  let i = 1;
  while (i < levels.length - 1 && levels[i]! < level) i++;
  if (levels.length === 1 || level <= levels[0]!) return sigma[0]!;
  if (level >= levels.at(-1)!) return sigma.at(-1)!;
  const t = (level - levels[i - 1]!) / (levels[i]! - levels[i - 1]!);
  return sigma[i - 1]! + t * (sigma[i]! - sigma[i - 1]!);
}

/** Made-up noise about a region, R, G, B interleaved. */
export interface NoiseField {
  readonly data: Float32Array;
  /** floats from a row to the next, and to the region's first px */
  readonly row: number;
  readonly first: number;
  /** by which the values have to be divided to be of unit strength */
  readonly strength: number;
}

/** The px about a region in which noise of a size is made up. */
function grainMargin(size: number): number {
  return size > 0.05 ? Math.ceil(3 * size) : 0;
}

/** Floats that {@link grainField} fills. */
export function grainRoom(region: Region, size: number): number {
  const m = grainMargin(size);
  return (region.width + 2 * m) * (region.height + 2 * m) * 3;
}

const GRAIN = {
  /** Bits of the table of normal deviates: 16384 of them repeat too far apart to be seen. By trial. */
  normalBits: 14,
  /** Levels at which noise is told apart. By trial. */
  levels: 6,
  /** px of the squares that are looked at. By trial. */
  patch: 8,
  /** Share of a level's squares, by their noise, below which they do not count: a codec flattened them. By trial. */
  from: 0.15,
  /** Share above which they do not count: they have texture. By trial. */
  to: 0.5,
  /** Share of the range below which noise is none: a fifth of a level of 255. By trial. */
  least: 0.2 / 255,
} as const;
let normals: Float32Array | undefined;
/**
 * 2^14 values that are as often in each range as the standard normal distribution has it: middles of equal shares, with
 * a deviation of exactly 1.
 */
export function normalTable(): Float32Array {
  if (normals) return normals;
  const n = 1 << GRAIN.normalBits;
  const out = new Float32Array(n);
  const step = 1e-4;
  const density = step / Math.sqrt(2 * Math.PI);
  let share = 0.5;
  let x = 0;
  for (let i = n / 2; i < n; i++) {
    for (; share < (i + 0.5) / n && x < 6; x += step) share += density * Math.exp(-0.5 * (x + 0.5 * step) ** 2);
    out[i] = x;
    out[n - 1 - i] = -x;
  }
  const deviation = Math.sqrt(out.reduce((s, v) => s + v * v, 0) / n);
  return (normals = out.map((v) => v / deviation));
}

/** A field of noise, the same wherever the region begins. @param data as long as {@link grainRoom} says */
export function grainField(
  region: Region,
  frame: number,
  seed: number,
  size: number,
  data: Float32Array = new Float32Array(grainRoom(region, size)),
): NoiseField {
  const margin = grainMargin(size);
  const width = region.width + 2 * margin;
  const height = region.height + 2 * margin;
  const row = width * 3;
  const s = seed * 7919 + frame * 31;
  const wasm = kernelsFor(data);
  const table = normalTable();
  if (wasm) holdNormals(wasm, table);
  for (let y = 0; y < height; y++) {
    const n = (y + region.y - margin) * 65536 + region.x - margin;
    if (wasm) wasm.run.noiseRow(n, s, width, NORMALS_AT, GRAIN.normalBits, data.byteOffset + 4 * y * row);
    else
      for (let x = 0, k = y * row; x < width; x++)
        for (let c = 0; c < 3; c++) data[k++] = table[hash32(n + x, s + c) >>> (32 - GRAIN.normalBits)]!;
  }
  if (margin > 0) gaussianBlur(data, width, height, 3, size);
  return {
    data,
    row,
    first: margin * row + margin * 3,
    strength: margin > 0 ? gaussianKernel(size).reduce((sum, w) => sum + w * w, 0) : 1,
  };
}

/** {@link Grain} on a frame; null where there is none. */
export function grainAt(
  g: Grain | undefined,
  frame: number,
): { readonly amount: number; readonly size: number; readonly seed: number; readonly measured: MeasuredGrain } | null {
  const amount = valueAt(g?.amount, frame, 1);
  return g?.measured && amount > 0
    ? { amount, size: g.size ?? g.measured.size, seed: g.seed ?? 1, measured: g.measured }
    : null;
}

/**
 * Measures a picture's noise from the flattest of its small squares at each level.
 * @param pixels code values as shares of the range, RGB interleaved, `width*height*3`
 */
export function measureGrain(pixels: Float32Array, width: number, height: number): MeasuredGrain {
  const bins = Array.from(
    { length: GRAIN.levels },
    () => [[], [], []] as { sigma: number; level: number; lag: number }[][],
  );
  for (let y = 0; y + GRAIN.patch <= height; y += GRAIN.patch)
    for (let x = 0; x + GRAIN.patch <= width; x += GRAIN.patch)
      for (let c = 0; c < 3; c++) {
        const m = squareNoise(pixels, width, x, y, c);
        if (m.level > 0.01 && m.level < 0.98)
          bins[Math.min(GRAIN.levels - 1, Math.floor(m.level * GRAIN.levels))]![c]!.push(m);
      }
  const flat = bins.map((channels) =>
    channels.map((list) => between(list.filter((m) => m.sigma > GRAIN.least).sort((a, b) => a.sigma - b.sigma))),
  );
  const used = flat.filter((channels) => channels.every((l) => l.length >= 4));
  const middle = (l: readonly { sigma: number; level: number; lag: number }[], of: 'sigma' | 'level' | 'lag'): number =>
    median(l.map((m) => m[of]));
  if (used.length === 0) return { levels: [], sigma: [[], [], []], size: 0 };
  const lag = median(used.flatMap((c) => c[1]!.map((m) => m.lag)));
  return {
    levels: used.map((c) => middle(c[1]!, 'level')),
    sigma: [0, 1, 2].map((k) => used.map((c) => middle(c[k]!, 'sigma'))),
    // A Gaussian blur of sigma s leaves neighbours with a correlation of exp(-1 / (4 s^2)).
    size: lag > 0.05 && lag < 0.98 ? Math.min(2, Math.sqrt(-1 / (4 * Math.log(lag)))) : 0,
  };
}

function between<T>(sorted: readonly T[]): readonly T[] {
  return sorted.length < 8
    ? []
    : sorted.slice(Math.floor(GRAIN.from * sorted.length), Math.max(4, Math.floor(GRAIN.to * sorted.length)));
}

/**
 * Noise of one square after a plane is taken out of it: its deviation, level, and correlation with the pixel to the
 * right.
 */
function squareNoise(
  pixels: Float32Array,
  width: number,
  x0: number,
  y0: number,
  c: number,
): { sigma: number; level: number; lag: number } {
  const n = GRAIN.patch * GRAIN.patch;
  const half = (GRAIN.patch - 1) / 2;
  let sum = 0;
  let sx = 0;
  let sy = 0;
  let xx = 0;
  for (let y = 0; y < GRAIN.patch; y++)
    for (let x = 0; x < GRAIN.patch; x++) {
      const v = pixels[((y0 + y) * width + x0 + x) * 3 + c]!;
      sum += v;
      sx += v * (x - half);
      sy += v * (y - half);
      xx += (x - half) * (x - half);
    }
  const mean = sum / n;
  const gx = sx / xx;
  const gy = sy / xx;
  let squares = 0;
  let products = 0;
  let pairs = 0;
  for (let y = 0; y < GRAIN.patch; y++) {
    let last = 0;
    for (let x = 0; x < GRAIN.patch; x++) {
      const d = pixels[((y0 + y) * width + x0 + x) * 3 + c]! - mean - gx * (x - half) - gy * (y - half);
      squares += d * d;
      if (x > 0) {
        products += d * last;
        pairs++;
      }
      last = d;
    }
  }
  const variance = squares / (n - 3);
  return { sigma: Math.sqrt(variance), level: mean, lag: variance > 1e-12 ? products / pairs / variance : 0 };
}
