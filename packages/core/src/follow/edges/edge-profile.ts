/**
 * Short profiles across an edge and their smoothed derivative. Source: J. Canny, A Computational Approach to Edge
 * Detection, 1986 (the derivative of a Gaussian as the detector of a step in noise).
 */
import type { Point } from '../../geometry/point';
import { MOST_TAPS, TAPS_AT, kernelsFor } from '../../image/kernels';
import { greyOf, lightOf } from '../../image/light';
import type { PyramidLevel } from '../../image/pyramid';

/** Derivative of a Gaussian of `sigma` px, on taps of `step` px; its response to a ramp of slope 1 per px is 1. */
export function derivativeKernel(sigma: number, step: number): Float32Array {
  const half = Math.ceil((2.6 * sigma) / step);
  const out = new Float32Array(2 * half + 1);
  let norm = 0;
  for (let i = -half; i <= half; i++) {
    const x = i * step;
    const v = x * Math.exp((-x * x) / (2 * sigma * sigma));
    out[i + half] = v;
    norm += v * x;
  }
  for (let i = 0; i < out.length; i++) out[i]! /= norm;
  return out;
}

/** The kernel's response at every tap; taps that it does not wholly cover give 0. */
export function respond(profile: Float32Array, kernel: Float32Array): Float32Array {
  const half = kernel.length >> 1;
  const out = new Float32Array(profile.length);
  for (let t = half; t < profile.length - half; t++) {
    let s = 0;
    for (let k = -half; k <= half; k++) s += kernel[k + half]! * profile[t + k]!;
    out[t] = s;
  }
  return out;
}

/** About how much light one step of grey makes where there is so much light already, both 0 to 255. */
export function lightStep(light: number): number {
  const grey = greyOf(light);
  return lightOf(grey + 0.5) - lightOf(Math.max(0, grey - 0.5));
}

/**
 * Fills `out` with light along `normal` through `at` (its middle tap), each the mean over `width` px along
 * `tangent`. @returns false when it needs a pixel outside the picture
 */
export function sampleProfile(
  image: PyramidLevel,
  at: Point,
  normal: Point,
  tangent: Point,
  step: number,
  width: number,
  out: Float32Array,
): boolean {
  const { data, width: w, height: h } = image;
  const lines = Math.max(1, Math.round(width));
  const half = (out.length - 1) / 2;
  const reach = half * step;
  const side = (lines - 1) / 2;
  const ox = at[0] - image.x0 - 0.5;
  const oy = at[1] - image.y0 - 0.5;
  const ex = Math.abs(reach * normal[0]) + Math.abs(side * tangent[0]);
  const ey = Math.abs(reach * normal[1]) + Math.abs(side * tangent[1]);
  if (!(ox - ex >= 0 && oy - ey >= 0 && ox + ex < w - 1 && oy + ey < h - 1)) return false;
  const k = out.length <= MOST_TAPS ? kernelsFor(data) : null;
  if (k) {
    const { memory, run } = k;
    const taps = out.length;
    run.profile(
      data.byteOffset,
      w,
      ox - side * tangent[0] - reach * normal[0],
      oy - side * tangent[1] - reach * normal[1],
      step * normal[0],
      step * normal[1],
      tangent[0],
      tangent[1],
      lines,
      taps,
      TAPS_AT,
    );
    for (let t = 0, from = TAPS_AT / 4; t < taps; t++) out[t] = memory[from + t]!;
    return true;
  }
  const f = 1 / lines;
  out.fill(0);
  for (let l = 0; l < lines; l++) {
    const bx = ox + (l - side) * tangent[0] - reach * normal[0];
    const by = oy + (l - side) * tangent[1] - reach * normal[1];
    const sx = step * normal[0];
    const sy = step * normal[1];
    for (let t = 0; t < out.length; t++) {
      const x = bx + t * sx;
      const y = by + t * sy;
      const ix = x | 0;
      const iy = y | 0;
      const fx = x - ix;
      const fy = y - iy;
      const k = iy * w + ix;
      const a = lightOf(data[k]!);
      const b = lightOf(data[k + 1]!);
      const c = lightOf(data[k + w]!);
      const d = lightOf(data[k + w + 1]!);
      const top = a + fx * (b - a);
      const bottom = c + fx * (d - c);
      out[t]! += f * (top + fy * (bottom - top));
    }
  }
  return true;
}

/** Where a profile is taken: as the parameters of {@link sampleProfile}. */
export interface ProfileLine {
  readonly at: Point;
  readonly normal: Point;
  readonly tangent: Point;
  readonly step: number;
  readonly width: number;
}

/** {@link sampleProfile} where it may reach beyond the picture: what lies there is not a number. */
export function sampleInside(
  image: PyramidLevel,
  { at, normal, tangent, step, width }: ProfileLine,
  out: Float32Array,
): void {
  if (sampleProfile(image, at, normal, tangent, step, width, out)) return;
  const one = new Float32Array(1);
  const half = (out.length - 1) / 2;
  for (let t = 0; t < out.length; t++) {
    const d = (t - half) * step;
    const there: Point = [at[0] + d * normal[0], at[1] + d * normal[1]];
    out[t] = sampleProfile(image, there, normal, tangent, step, width, one) ? one[0]! : NaN;
  }
}
