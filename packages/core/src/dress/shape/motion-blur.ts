/**
 * Motion blur from the solved motion: what every pixel saw while the shutter was open, along the plane's true path,
 * with perspective. The element at the shutter's centre is carried to moments of the exposure and averaged, edge and
 * inside alike.
 */
import { clamp } from '../../clamp';
import { quadToQuad } from '../../geometry/homography';
import { farthest, isConvex } from '../../geometry/quad';
import type { Quad } from '../../geometry/quad';
import { kernelsFor } from '../../image/kernels';
import type { Region } from '../base/region';
import { MAPS_AT } from '../base/kernel-memory';

export interface MotionBlur {
  /** left out or false: the element is laid in sharp */
  readonly on?: boolean;
  /** degrees of 360 during which the shutter is open; the plate's own estimate when left out */
  readonly shutter?: number;
}

/** px of the fastest corner's path that moments are at the most apart. By trial. */
const STEP = 1;
/** Moments of one frame: longer smears become visibly made of steps only beyond 48 px. By trial. */
const MOST_MOMENTS = 48;
/** px; shorter paths are no blur. By trial. */
const LEAST = 0.25;

/** Corners at a moment, `at` frames from the frame's own time, by the parabola through it and its neighbours. */
export function cornersAt(before: Quad | null, now: Quad, after: Quad | null, at: number): Quad {
  const past = before ?? (after ? mirrored(now, after) : now);
  const next = after ?? (before ? mirrored(now, before) : now);
  return now.map((p, i) =>
    [0, 1].map(
      (k) =>
        p[k]! + at * 0.5 * (next[i]![k]! - past[i]![k]!) + at * at * 0.5 * (next[i]![k]! - 2 * p[k]! + past[i]![k]!),
    ),
  ) as unknown as Quad;
}

const mirrored = (now: Quad, other: Quad): Quad =>
  now.map((p, i) => [2 * p[0] - other[i]![0], 2 * p[1] - other[i]![1]]) as unknown as Quad;

/**
 * @param share of a frame's time. @returns the corners at each moment; just `now` when nothing moves enough to be seen
 */
export function moments(before: Quad | null, now: Quad, after: Quad | null, share: number): Quad[] {
  const open = cornersAt(before, now, after, -share / 2);
  const close = cornersAt(before, now, after, share / 2);
  const length = farthest(open, now) + farthest(now, close);
  if (!(length > LEAST) || !isConvex(open) || !isConvex(close)) return [now];
  const n = clamp(Math.ceil(length / STEP), 2, MOST_MOMENTS);
  return Array.from({ length: n }, (_, i) => cornersAt(before, now, after, share * ((i + 0.5) / n - 0.5)));
}

function smearRow(
  src: Float32Array,
  region: Region,
  m: readonly number[],
  y: number,
  weight: number,
  out: Float32Array,
): void {
  const { width, height } = region;
  const yc = y + region.y + 0.5;
  const maxX = width - 1;
  const maxY = height - 1;
  let a = m[0]! * (region.x + 0.5) + m[1]! * yc + m[2]!;
  let b = m[3]! * (region.x + 0.5) + m[4]! * yc + m[5]!;
  let z = m[6]! * (region.x + 0.5) + m[7]! * yc + m[8]!;
  for (let x = 0, to = y * width * 4; x < width; x++, to += 4, a += m[0]!, b += m[3]!, z += m[6]!) {
    const sx = a / z - region.x - 0.5;
    const sy = b / z - region.y - 0.5;
    if (!(sx > -1 && sy > -1 && sx < width && sy < height)) continue;
    const ix = Math.floor(sx);
    const iy = Math.floor(sy);
    const fx = sx - ix;
    const fy = sy - iy;
    const k = (iy * width + ix) * 4;
    const row = width * 4;
    const w00 = ix >= 0 && iy >= 0 ? weight * (1 - fx) * (1 - fy) : 0;
    const w10 = ix < maxX && iy >= 0 ? weight * fx * (1 - fy) : 0;
    const w01 = ix >= 0 && iy < maxY ? weight * (1 - fx) * fy : 0;
    const w11 = ix < maxX && iy < maxY ? weight * fx * fy : 0;
    if (w00 > 0 && src[k + 3]! > 0) addTo(out, to, src, k, w00);
    if (w10 > 0 && src[k + 7]! > 0) addTo(out, to, src, k + 4, w10);
    if (w01 > 0 && src[k + row + 3]! > 0) addTo(out, to, src, k + row, w01);
    if (w11 > 0 && src[k + row + 7]! > 0) addTo(out, to, src, k + row + 4, w11);
  }
}

function addTo(out: Float32Array, to: number, src: Float32Array, from: number, w: number): void {
  out[to]! += w * src[from]!;
  out[to + 1]! += w * src[from + 1]!;
  out[to + 2]! += w * src[from + 2]!;
  out[to + 3]! += w * src[from + 3]!;
}

/**
 * The mean over the exposure.
 * @param element RGBA of the region, as at the shutter's centre, where the pin's corners lie at `now`
 * @param out as large; what it holds does not matter
 * @returns `out`, or the element itself when there is one moment only
 */
export function smear(
  element: Float32Array,
  region: Region,
  now: Quad,
  path: readonly Quad[],
  out: Float32Array = new Float32Array(element.length),
): Float32Array {
  if (path.length < 2) return element;
  const maps = path.map((corners) => quadToQuad(corners, now));
  const wasm = kernelsFor(element);
  if (wasm?.holds(out)) {
    new Float64Array(wasm.memory.buffer, MAPS_AT, 9 * maps.length).set(maps.flat());
    wasm.run.smearPath(
      element.byteOffset,
      region.width,
      region.height,
      region.x,
      region.y,
      MAPS_AT,
      maps.length,
      out.byteOffset,
    );
    return out;
  }
  out.fill(0);
  for (const back of maps)
    for (let y = 0; y < region.height; y++) smearRow(element, region, back, y, 1 / path.length, out);
  return out;
}
