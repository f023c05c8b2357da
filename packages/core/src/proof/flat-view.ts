/**
 * The flat view: a Screen unwarped to the same upright rectangle on every frame, with some of its surroundings. Where
 * the track is right, nothing in it moves; and the slit view: one line of it, stacked over time, in which what is
 * locked draws straight streaks and what slips bends.
 */
import { clamp } from '../clamp';
import type { Matrix3 } from '../geometry/matrix3';
import { multiply } from '../geometry/matrix3';
import { unitSquareToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { RawLuma } from '../image/image';

/** Px of the flat picture; the pin's rectangle lies inside it, away from its border by the margins. */
export interface FlatArea {
  readonly width: number;
  readonly height: number;
  readonly marginX: number;
  readonly marginY: number;
}

/** Share of the rectangle that is shown beyond each of its sides: the bezel wants to be seen. By trial. */
const MARGIN = 0.14;

/** The area for a pin: about as long and wide as it looks, of at most so many px in all. */
export function flatAreaFor(pin: Quad, mostPixels: number): FlatArea {
  const across = (distance(pin[0], pin[1]) + distance(pin[3], pin[2])) / 2;
  const down = (distance(pin[1], pin[2]) + distance(pin[0], pin[3])) / 2;
  const whole = 1 + 2 * MARGIN;
  const k = Math.min(1, Math.sqrt(mostPixels / (across * down * whole * whole)));
  const width = Math.max(32, Math.round(across * k * whole));
  const height = Math.max(32, Math.round(down * k * whole));
  return { width, height, marginX: (width * MARGIN) / whole, marginY: (height * MARGIN) / whole };
}

/** Where the area's rectangle has the pin's corners, px of the flat picture. */
export function flatCorners({ width, height, marginX: x, marginY: y }: FlatArea): Quad {
  return [
    [x, y],
    [width - x, y],
    [width - x, height - y],
    [x, height - y],
  ];
}

/** From px of the flat picture to the frame on which the pin's corners lie at `corners`. */
export function fromFlat({ width, height, marginX: x, marginY: y }: FlatArea, corners: Quad): Matrix3 {
  const w = width - 2 * x;
  const h = height - 2 * y;
  return multiply(unitSquareToQuad(corners), [1 / w, 0, -x / w, 0, 1 / h, -y / h, 0, 0, 1]);
}

/**
 * Unwarps a frame, bilinear between pixel centres; where the frame is finer than the flat picture, over a square of
 * samples.
 * @param out `Uint8ClampedArray` of width*height of the area, row-major; 0 outside the frame
 */
export function flatten(frame: RawLuma, area: FlatArea, corners: Quad, out: Uint8ClampedArray): void {
  const { width, height, data } = frame;
  const depth = data instanceof Uint16Array ? 255 / 65535 : 1;
  flattenRows({ width, height, data, stride: 1, channels: 1 }, area, corners, (y, sums, share) => {
    for (let x = 0, at = y * area.width; x < area.width; x++) out[at + x] = sums[x]! * share * depth;
  });
}

/**
 * The same of a picture in colour.
 * @param picture RGBA of 8 bits
 * @param out `width*height*4` of the area, row-major RGBA, opaque; black outside the picture
 */
export function flattenColour(
  { width, height, data }: { readonly width: number; readonly height: number; readonly data: Uint8ClampedArray },
  area: FlatArea,
  corners: Quad,
  out: Uint8ClampedArray,
): void {
  flattenRows({ width, height, data, stride: 4, channels: 3 }, area, corners, (y, sums, share) => {
    for (let x = 0, i = 0, at = 4 * y * area.width; x < area.width; x++, i += 3, at += 4) {
      out[at] = sums[i]! * share;
      out[at + 1] = sums[i + 1]! * share;
      out[at + 2] = sums[i + 2]! * share;
      out[at + 3] = 255;
    }
  });
}

/** A picture of which the first `channels` of `stride` numbers a pixel are sampled. */
interface Sampled {
  readonly width: number;
  readonly height: number;
  readonly data: RawLuma['data'] | Uint8ClampedArray;
  readonly stride: number;
  readonly channels: number;
}

/** @param take is told each row: sums over the samples of a pixel, and what one of them counts */
function flattenRows(
  picture: Sampled,
  area: FlatArea,
  corners: Quad,
  take: (y: number, sums: Float32Array, share: number) => void,
): void {
  const taps = tapsFor(area, corners);
  const sums = new Float32Array(area.width * picture.channels);
  const h = fromFlat(area, corners);
  for (let y = 0; y < area.height; y++) {
    sums.fill(0);
    for (let t = 0; t < taps * taps; t++) {
      const px = ((t % taps) + 0.5) / taps;
      const py = y + (Math.floor(t / taps) + 0.5) / taps;
      addRow(
        picture,
        h[0]! * px + h[1]! * py + h[2]!,
        h[0]!,
        h[3]! * px + h[4]! * py + h[5]!,
        h[3]!,
        h[6]! * px + h[7]! * py + h[8]!,
        h[6]!,
        sums,
      );
    }
    take(y, sums, 1 / (taps * taps));
  }
}

/** Samples to each side of a pixel's square, so that what is shown smaller is not skipped over. */
function tapsFor(area: FlatArea, corners: Quad): number {
  const shown =
    (distance(corners[0], corners[1]) +
      distance(corners[1], corners[2]) +
      distance(corners[2], corners[3]) +
      distance(corners[3], corners[0])) /
    (2 * (area.width - 2 * area.marginX + area.height - 2 * area.marginY));
  return clamp(Math.round(shown - 0.2), 1, 4);
}

/** Adds a row of samples at (a + i da, b + i db) / (z + i dz); nothing where they lie outside the picture. */
function addRow(
  { width, height, data, stride, channels }: Sampled,
  a: number,
  da: number,
  b: number,
  db: number,
  z: number,
  dz: number,
  sums: Float32Array,
): void {
  const maxX = width - 1;
  const maxY = height - 1;
  const below = width * stride;
  const count = sums.length / channels;
  for (let i = 0; i < count; i++) {
    const w = 1 / (z + i * dz);
    const sx = (a + i * da) * w - 0.5;
    const sy = (b + i * db) * w - 0.5;
    if (!(w > 0 && sx > -0.5 && sy > -0.5 && sx < maxX + 0.5 && sy < maxY + 0.5)) continue;
    let cx: number;
    if (sx < 0) cx = 0;
    else if (sx >= maxX) cx = maxX - 1e-3;
    else cx = sx;
    let cy: number;
    if (sy < 0) cy = 0;
    else if (sy >= maxY) cy = maxY - 1e-3;
    else cy = sy;
    const ix = cx | 0;
    const iy = cy | 0;
    const fx = cx - ix;
    const fy = cy - iy;
    for (let c = 0, k = (iy * width + ix) * stride, at = i * channels; c < channels; c++, k++, at++) {
      const top = data[k]! + fx * (data[k + stride]! - data[k]!);
      const bottom = data[k + below]! + fx * (data[k + below + stride]! - data[k + below]!);
      sums[at]! += top + fy * (bottom - top);
    }
  }
}

/** Flat pictures of consecutive frames, one after the other; frames without a track are black. */
export interface FlatStack {
  readonly area: FlatArea;
  readonly from: number;
  readonly frames: number;
  readonly data: Uint8ClampedArray | Uint8Array;
}

/**
 * @param line two ends, px of the flat picture
 * @param out grey, a row per sample of the line from its first end on and a column per frame
 */
export function slitView(
  { area: { width, height }, frames, data }: FlatStack,
  [a, b]: readonly [Point, Point],
  samples: number,
  out: Uint8ClampedArray,
): void {
  for (let s = 0; s < samples; s++) {
    const t = (s + 0.5) / samples;
    const x = clamp(a[0] + t * (b[0] - a[0]) - 0.5, 0, width - 1.001);
    const y = clamp(a[1] + t * (b[1] - a[1]) - 0.5, 0, height - 1.001);
    const ix = x | 0;
    const iy = y | 0;
    const fx = x - ix;
    const fy = y - iy;
    for (let n = 0, k = iy * width + ix; n < frames; n++, k += width * height) {
      const top = data[k]! + fx * (data[k + 1]! - data[k]!);
      const bottom = data[k + width]! + fx * (data[k + width + 1]! - data[k + width]!);
      out[s * frames + n] = top + fy * (bottom - top);
    }
  }
}
