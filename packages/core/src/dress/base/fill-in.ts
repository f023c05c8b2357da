/**
 * Closes holes of a picture from what surrounds them, smoothly: the picture's known parts are averaged to ever coarser
 * sizes, and the holes are filled back from there. Source: S. J. Gortler et al., The Lumigraph, SIGGRAPH 1996, section
 * 3.4 (push and pull).
 */
import { clamp } from '../../clamp';

interface Level {
  readonly width: number;
  readonly height: number;
  /** RGB times weight, and weight: `width*height*4` */
  readonly data: Float32Array;
}

/** An empty level of half the size. */
function half(width: number, height: number): Level {
  const [w, h] = [Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1)];
  return { width: w, height: h, data: new Float32Array(w * h * 4) };
}

/** Weights count to one: a coarse place that has seen enough is as good as known. */
function atMostOne({ data }: Level): void {
  for (let k = 0; k < data.length; k += 4) {
    const w = data[k + 3]!;
    if (w > 1) for (let c = k; c < k + 4; c++) data[c]! /= w;
  }
}

/** The first coarse level, from the picture itself. */
function pulledFrom(data: Float32Array, known: Float32Array, width: number, height: number): Level {
  const to = half(width, height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const w = known[i]!;
      if (w <= 0) continue;
      const o = ((y >> 1) * to.width + (x >> 1)) * 4;
      for (let c = 0; c < 3; c++) to.data[o + c]! += w * data[3 * i + c]!;
      to.data[o + 3]! += w;
    }
  atMostOne(to);
  return to;
}

function pulled(from: Level): Level {
  const to = half(from.width, from.height);
  for (let y = 0; y < from.height; y++)
    for (let x = 0; x < from.width; x++) {
      const k = (y * from.width + x) * 4;
      const o = ((y >> 1) * to.width + (x >> 1)) * 4;
      for (let c = 0; c < 4; c++) to.data[o + c]! += from.data[k + c]!;
    }
  atMostOne(to);
  return to;
}

/** Coarse values at a fine place, between the four coarse middles around it. @param out RGB */
function between({ width, height, data }: Level, x: number, y: number, out: Float64Array): void {
  const u = clamp((x + 0.5) / 2 - 0.5, 0, width - 1);
  const v = clamp((y + 0.5) / 2 - 0.5, 0, height - 1);
  const ix = Math.min(width - 1, u | 0);
  const iy = Math.min(height - 1, v | 0);
  const fx = u - ix;
  const fy = v - iy;
  const right = ix + 1 < width ? 4 : 0;
  const down = iy + 1 < height ? 4 * width : 0;
  const k = (iy * width + ix) * 4;
  for (let c = 0; c < 3; c++) {
    const top = data[k + c]! + fx * (data[k + right + c]! - data[k + c]!);
    const low = data[k + down + c]! + fx * (data[k + down + right + c]! - data[k + down + c]!);
    out[c] = top + fy * (low - top);
  }
}

/** Fills a level's holes from the one that is coarser, and so on up to the finest. */
function pushed(levels: readonly Level[], room: Float64Array): void {
  for (let n = levels.length - 2; n >= 0; n--) {
    const { width, height, data } = levels[n]!;
    const coarse = levels[n + 1]!;
    for (let y = 0, k = 0; y < height; y++)
      for (let x = 0; x < width; x++, k += 4) {
        const w = data[k + 3]!;
        if (w >= 1) continue;
        between(coarse, x, y, room);
        for (let c = 0; c < 3; c++) data[k + c]! += (1 - w) * room[c]!;
        data[k + 3] = 1;
      }
  }
}

/**
 * @param data `width*height*3`, changed in place where a place is not wholly known
 * @param known 0 to 1 a place: 0 is a hole
 */
export function fillIn(data: Float32Array, known: Float32Array, width: number, height: number): void {
  const levels = [pulledFrom(data, known, width, height)];
  while (levels.at(-1)!.width > 1 || levels.at(-1)!.height > 1) levels.push(pulled(levels.at(-1)!));
  const room = new Float64Array(3);
  pushed(levels, room);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const w = known[i]!;
      if (w >= 1) continue;
      between(levels[0]!, x, y, room);
      for (let c = 0; c < 3; c++) data[3 * i + c] = w * data[3 * i + c]! + (1 - w) * room[c]!;
    }
}
