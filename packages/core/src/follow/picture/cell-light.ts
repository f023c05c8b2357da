/**
 * Light of a piece of a remembered picture, as soft as its template is told to be: only what cells need is softened, not
 * the picture.
 */
import { clamp } from '../../clamp';
import { inLight } from '../../image/light-levels';
import type { PyramidLevel } from '../../image/pyramid';
import type { Template } from './template';

/** px of a level; softness and smear of less make no difference there. By trial. */
export const WORTHWHILE = 0.8;

/** A rectangle of a picture, px; it may reach beyond it, where the border repeats. */
export interface Piece {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Weights of a box that was averaged twice, of that spread in all. @param width px */
function weightsOf(width: number): Float32Array {
  const one = width / Math.SQRT2;
  const half = Math.max(1, Math.ceil(one));
  const weights = Float32Array.from({ length: 2 * half + 1 }, (_, i) => Math.max(0, one - Math.abs(i - half)));
  const sum = weights.reduce((s, w) => s + w, 0);
  return weights.map((w) => w / sum);
}

function cut({ data, width, height }: PyramidLevel, p: Piece): Float32Array {
  const out = new Float32Array(p.width * p.height);
  const isInside = p.x >= 0 && p.x + p.width <= width;
  for (let y = 0; y < p.height; y++) {
    const row = clamp(p.y + y, 0, height - 1) * width;
    const to = y * p.width;
    if (isInside) out.set(data.subarray(row + p.x, row + p.x + p.width), to);
    else for (let x = 0; x < p.width; x++) out[to + x] = data[row + clamp(p.x + x, 0, width - 1)]!;
  }
  return out;
}

/** One pass along rows, which are longer than what comes of them by all taps but one. @param width of what comes of them */
function averagedAlong(from: Float32Array, width: number, height: number, weights: Float32Array): Float32Array {
  const taps = weights.length;
  const long = width + taps - 1;
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = 0; k < taps; k++) sum += weights[k]! * from[y * long + x + k]!;
      out[y * width + x] = sum;
    }
  return out;
}

/** The same down columns. @param height of what comes of them */
function averagedDown(from: Float32Array, width: number, height: number, weights: Float32Array): Float32Array {
  const taps = weights.length;
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = 0; k < taps; k++) sum += weights[k]! * from[(y + k) * width + x]!;
      out[y * width + x] = sum;
    }
  return out;
}

/** Softness that a template's picture is given on a level, px of it; 0 where it makes no difference. */
export function softnessOfLevel({ softness }: Template, level: number): number {
  const own = softness / (1 << level);
  return own > WORTHWHILE ? own : 0;
}

/** `piece.width * piece.height` values of light, 0 to 255. @param level of the template's pyramid */
export function lightOfPiece(template: Template, level: number, piece: Piece): Float32Array {
  const light = inLight(template.pyramid[level]!);
  const softness = softnessOfLevel(template, level);
  if (softness === 0) return cut(light, piece);
  const weights = weightsOf(softness);
  const half = weights.length >> 1;
  const { x, y, width, height } = piece;
  const high = height + 2 * half;
  const wide = cut(light, { x: x - half, y: y - half, width: width + 2 * half, height: high });
  return averagedDown(averagedAlong(wide, width, high, weights), width, height, weights);
}
