/**
 * The light that lies on the glass: what the plate shows there beyond the glass's own dark level, which is its low
 * quantile over time in the flat view. It is taken from the plate and added back over the fill.
 */
import { clamp } from '../../clamp';
import { unitSquareToQuad } from '../../geometry/homography';
import { inverse } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { kernelsFor } from '../../image/kernels';
import type { Animated } from '../base/keys';
import type { Region } from '../base/region';
import type { Light } from './unmix';
import { continueGlass } from './unmix';
import { CELLS_AT, MAPS_AT, MOST_CELLS } from '../base/kernel-memory';

/** The glass's own light over the slot: RGB per cell, row by row, scene-linear. */
export interface GlassLight {
  readonly columns: number;
  readonly rows: number;
  readonly values: readonly number[];
}

export interface Glare {
  /** share that is kept */
  readonly keep?: Animated;
  /** softens it, sigma in px of the reference frame, so that the plate's grain is not added twice */
  readonly soften?: number;
  readonly measured?: GlassLight;
}

/** Low quantile that stands for the glass without any light on it. By trial. */
const DARK_SHARE = 0.15;

/** @param samples per moment the light of every cell, RGB, NaN where it was not seen */
export function glassLight(samples: readonly Float32Array[], columns: number, rows: number): GlassLight {
  const values = Array.from({ length: columns * rows * 3 }, (_, k) => {
    const seen = samples
      .map((s) => s[k]!)
      .filter((v) => !Number.isNaN(v))
      .sort((a, b) => a - b);
    return seen[Math.floor(DARK_SHARE * (seen.length - 1))] ?? NaN;
  });
  const known = [0, 1, 2].map((c) => values.filter((v, k) => k % 3 === c && !Number.isNaN(v)).sort((a, b) => a - b));
  const middle = known.map((l) => l[l.length >> 1] ?? 0);
  return { columns, rows, values: values.map((v, k) => Number((Number.isNaN(v) ? middle[k % 3]! : v).toFixed(5))) };
}

/** The glass's own light at (s, t) of the slot, one channel, between the middles of its cells. */
export function glassLightAt({ columns, rows, values }: GlassLight, s: number, t: number, channel: number): number {
  const x = clamp(s * columns - 0.5, 0, columns - 1);
  const y = Math.min(rows - 1, Math.max(0, t * rows - 0.5));
  const ix = Math.min(columns - 2, Math.floor(x));
  const iy = Math.min(rows - 2, Math.floor(y));
  if (columns < 2 || rows < 2) return values[channel]!;
  const fx = x - ix;
  const fy = y - iy;
  const k = (iy * columns + ix) * 3 + channel;
  const down = columns * 3;
  const top = values[k]! + fx * (values[k + 3]! - values[k]!);
  const low = values[k + down]! + fx * (values[k + down + 3]! - values[k + down]!);
  return top + fy * (low - top);
}

/** A glass in a frame, and how it is to be read. */
export interface GlareTask {
  readonly region: Region;
  /** of the pin, px of the frame */
  readonly corners: Quad;
  readonly own: GlassLight;
  /** by which its light is softened, px of the frame */
  readonly sigma: number;
  /** share of each px that the glass covers */
  readonly cover: Float32Array;
}

/**
 * The light on the glass over a region: RGB, `width*height*3`, as it is where the glass stands alone and continued over
 * its soft edge, nothing beyond. Noise has both signs; what is left of it below zero after softening is for
 * {@link addGlare} to leave out.
 * @param plate scene-linear RGB of the region
 * @param out as large as `plate`; what it holds does not matter
 */
export function glareOn(
  plate: Float32Array,
  { region, corners, own, sigma, cover }: GlareTask,
  out: Float32Array = new Float32Array(plate.length),
): Float32Array {
  const m = inverse(unitSquareToQuad(corners));
  const wasm = kernelsFor(out);
  const n = own.columns * own.rows;
  if (wasm?.holds(plate) && 4 * n <= MOST_CELLS) {
    for (let i = 0; i < n; i++)
      wasm.memory.set([own.values[3 * i]!, own.values[3 * i + 1]!, own.values[3 * i + 2]!, 0], CELLS_AT / 4 + 4 * i);
    new Float64Array(wasm.memory.buffer, MAPS_AT, 9).set(m);
    for (let y = 0; y < region.height; y++)
      wasm.run.glareRow(
        plate.byteOffset + 12 * y * region.width,
        MAPS_AT,
        region.x + 0.5,
        region.y + y + 0.5,
        region.width,
        CELLS_AT,
        own.columns,
        own.rows,
        out.byteOffset + 12 * y * region.width,
      );
  } else {
    out.fill(0);
    for (let y = 0; y < region.height; y++)
      for (let x = 0; x < region.width; x++) {
        const px = region.x + x + 0.5;
        const py = region.y + y + 0.5;
        const w = 1 / (m[6]! * px + m[7]! * py + m[8]!);
        const s = (m[0]! * px + m[1]! * py + m[2]!) * w;
        const t = (m[3]! * px + m[4]! * py + m[5]!) * w;
        if (s < -0.02 || t < -0.02 || s > 1.02 || t > 1.02) continue;
        for (let c = 0, k = (y * region.width + x) * 3; c < 3; c++)
          out[k + c] = plate[k + c]! - glassLightAt(own, s, t, c);
      }
  }
  continueGlass(out, cover, region, sigma);
  return out;
}

/** The glass's own light with what lies on it, at px of a region; see `UnmixTask`'s `glass`. */
export function glassWith(
  glare: Float32Array,
  { corners, own }: Pick<GlareTask, 'corners' | 'own'>,
): (i: number, x: number, y: number, out: Light) => void {
  const m = inverse(unitSquareToQuad(corners));
  return (i, x, y, out) => {
    const w = 1 / (m[6]! * x + m[7]! * y + m[8]!);
    const s = (m[0]! * x + m[1]! * y + m[2]!) * w;
    const t = (m[3]! * x + m[4]! * y + m[5]!) * w;
    for (let c = 0; c < 3; c++) out[c] = glassLightAt(own, s, t, c) + Math.max(0, glare[3 * i + c]!);
  };
}

/** Adds a share of the light on the glass to RGBA, as much as its alpha lets through. */
export function addGlare(element: Float32Array, glare: Float32Array, share: number): void {
  const wasm = kernelsFor(element);
  const n = element.length / 4;
  if (wasm?.holds(glare)) wasm.run.addLight(element.byteOffset, glare.byteOffset, n, share);
  else
    for (let i = 0; i < n; i++)
      for (let c = 0; c < 3; c++) element[i * 4 + c]! += share * element[i * 4 + 3]! * Math.max(0, glare[i * 3 + c]!);
}
