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

function pulled(from: Level): Level {
  const width = Math.max(1, (from.width + 1) >> 1);
  const height = Math.max(1, (from.height + 1) >> 1);
  const data = new Float32Array(width * height * 4);
  for (let y = 0; y < from.height; y++)
    for (let x = 0; x < from.width; x++) {
      const k = (y * from.width + x) * 4;
      const o = ((y >> 1) * width + (x >> 1)) * 4;
      for (let c = 0; c < 4; c++) data[o + c]! += from.data[k + c]!;
    }
  // Weights count to one: a coarse place that has seen enough is as good as known.
  for (let i = 0; i < width * height; i++) {
    const w = data[i * 4 + 3]!;
    if (w > 1) for (let c = 0; c < 4; c++) data[i * 4 + c]! /= w;
  }
  return { width, height, data };
}

/** Coarse values at a fine place, between the four coarse middles around it. @param out RGB */
function between(l: Level, x: number, y: number, out: Float64Array): void {
  const u = clamp((x + 0.5) / 2 - 0.5, 0, l.width - 1);
  const v = clamp((y + 0.5) / 2 - 0.5, 0, l.height - 1);
  const ix = Math.min(l.width - 1, u | 0);
  const iy = Math.min(l.height - 1, v | 0);
  const jx = Math.min(l.width - 1, ix + 1);
  const jy = Math.min(l.height - 1, iy + 1);
  const fx = u - ix;
  const fy = v - iy;
  for (let c = 0; c < 3; c++) {
    const at = (i: number, j: number): number => l.data[(j * l.width + i) * 4 + c]!;
    out[c] = (1 - fy) * ((1 - fx) * at(ix, iy) + fx * at(jx, iy)) + fy * ((1 - fx) * at(ix, jy) + fx * at(jx, jy));
  }
}

/**
 * @param data `width*height*3`, changed in place where a place is not wholly known
 * @param known 0 to 1 a place: 0 is a hole
 */
export function fillIn(data: Float32Array, known: Float32Array, width: number, height: number): void {
  const base: Level = { width, height, data: new Float32Array(width * height * 4) };
  for (let i = 0; i < width * height; i++) {
    const w = known[i]!;
    for (let c = 0; c < 3; c++) base.data[i * 4 + c] = w * data[i * 3 + c]!;
    base.data[i * 4 + 3] = w;
  }
  const levels = [base];
  while (levels.at(-1)!.width > 1 || levels.at(-1)!.height > 1) levels.push(pulled(levels.at(-1)!));
  const room = new Float64Array(3);
  for (let n = levels.length - 2; n >= 0; n--) {
    const fine = levels[n]!;
    const coarse = levels[n + 1]!;
    for (let y = 0, k = 0; y < fine.height; y++)
      for (let x = 0; x < fine.width; x++, k += 4) {
        const w = fine.data[k + 3]!;
        if (w >= 1) continue;
        between(coarse, x, y, room);
        for (let c = 0; c < 3; c++) fine.data[k + c]! += (1 - w) * room[c]!;
        fine.data[k + 3] = 1;
      }
  }
  for (let i = 0; i < width * height; i++)
    if (known[i]! < 1) for (let c = 0; c < 3; c++) data[i * 3 + c] = base.data[i * 4 + c]!;
}
