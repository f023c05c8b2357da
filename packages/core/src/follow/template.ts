/**
 * A remembered picture, ready for alignment: per pyramid level its cells with zero-mean unit-norm values and the
 * steepest-descent images, already made orthogonal to a gain and an offset of the cell. With that projection the
 * brightness of a cell never enters the motion, and one pass over the sampled pixels gives gradient and residual.
 * Source: S. Baker, R. Gross, I. Matthews, Lucas-Kanade 20 Years On, part 3, 2003 (projecting out linear appearance).
 */
import type { Matrix3 } from '../geometry/matrix3';
import { mapPoint } from '../geometry/homography';
import type { Pyramid, PyramidLevel } from '../image/pyramid';
import type { Cell } from './cells';
import { selectCells } from './cells';
import type { Region } from './region';
import { rasterise } from './region';

export interface TemplateLevel {
  readonly level: number;
  /** cell side in px of this level */
  readonly side: number;
  readonly cells: number;
  /** normalised coordinates of each cell's first pixel centre */
  readonly u: Float64Array;
  readonly v: Float64Array;
  /** step of one level px in normalised coordinates */
  readonly step: number;
  /** `cells*side*side`, zero mean and unit norm per cell */
  readonly values: Float32Array;
  /** per cell, the norm that was divided out (0 to 255 units times px) */
  readonly norm: Float64Array;
  /** `cells*side*side*8`, d value / d parameter, orthogonal to 1 and to the cell's values */
  readonly jacobian: Float32Array;
  /** `cells*64` */
  readonly hessian: Float64Array;
  /** per cell, its place on the trust grid */
  readonly place: Int32Array;
}

export interface Template {
  /** normalised template coordinates to px of the remembered frame: x = s u + cx */
  readonly centre: readonly [number, number];
  readonly halfSize: number;
  readonly levels: readonly TemplateLevel[];
  /** px noise of the remembered picture at level 0 */
  readonly noise: number;
}

/** Side of the square grid over the region's bounds on which trust is remembered. */
export const TRUST_GRID = 24;

export interface TemplateOptions {
  readonly region: Region;
  /** most cells at the finest level */
  readonly count: number;
  readonly noise: number;
  /** remembered frame to reference frame, to place cells on the trust grid */
  readonly toReference: Matrix3;
  /** bounds of the region on the reference frame */
  readonly trustBounds: Region['bounds'];
}

/** Noise of a level falls by the kernel's norm, (20/64) per axis pair, each time a picture is halved. */
export function noiseAtLevel(noise: number, level: number): number {
  return noise * Math.pow(0.3125, level);
}

/** Smaller cells agree with anything once gain and offset are free. */
const LEAST_SIDE = 7;

function cellSide(region: Region, level: number): number {
  const scale = 1 << level;
  const w = (region.bounds.x1 - region.bounds.x0) / scale, h = (region.bounds.y1 - region.bounds.y0) / scale;
  return Math.max(LEAST_SIDE, Math.min(14, Math.floor(Math.sqrt((w * h) / 90)), Math.floor(Math.min(w, h) / 2)));
}

/** Fills one cell's values, Jacobian and Hessian. */
function fillCell(t: TemplateLevel, c: number, image: PyramidLevel, cell: Cell, gradientScale: number): void {
  const { side } = t, n = side * side, base = c * n;
  let mean = 0;
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) mean += image.data[(cell.y + j) * image.width + cell.x + i]! / n;
  let norm = 0;
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const value = image.data[(cell.y + j) * image.width + cell.x + i]! - mean;
      t.values[base + j * side + i] = value;
      norm += value * value;
    }
  norm = Math.sqrt(norm) || 1;
  t.norm[c] = norm;
  for (let k = 0; k < n; k++) t.values[base + k]! /= norm;
  const J = t.jacobian;
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const at = (cell.y + j) * image.width + cell.x + i;
      const gu = ((image.data[at + 1]! - image.data[at - 1]!) / 2) * gradientScale;
      const gv = ((image.data[at + image.width]! - image.data[at - image.width]!) / 2) * gradientScale;
      const u = t.u[c]! + i * t.step, v = t.v[c]! + j * t.step, f = u * gu + v * gv;
      const o = (base + j * side + i) * 8;
      J[o] = u * gu; J[o + 1] = v * gu; J[o + 2] = gu; J[o + 3] = u * gv;
      J[o + 4] = v * gv; J[o + 5] = gv; J[o + 6] = -u * f; J[o + 7] = -v * f;
    }
  for (let p = 0; p < 8; p++) {
    let m = 0, along = 0;
    for (let k = 0; k < n; k++) m += J[(base + k) * 8 + p]! / n;
    for (let k = 0; k < n; k++) along += J[(base + k) * 8 + p]! * t.values[base + k]!;
    for (let k = 0; k < n; k++) J[(base + k) * 8 + p]! -= m + along * t.values[base + k]!;
  }
  for (let k = 0; k < n; k++) {
    const o = (base + k) * 8;
    for (let a = 0; a < 8; a++)
      for (let b = a; b < 8; b++) t.hessian[c * 64 + a * 8 + b]! += J[o + a]! * J[o + b]!;
  }
  for (let a = 0; a < 8; a++) for (let b = 0; b < a; b++) t.hessian[c * 64 + a * 8 + b] = t.hessian[c * 64 + b * 8 + a]!;
}

/** @param pyramid of the remembered frame, or of a window of it that holds the region */
export function buildTemplate(pyramid: Pyramid, options: TemplateOptions): Template {
  const { region, trustBounds } = options, b = region.bounds;
  const cx = (b.x0 + b.x1) / 2, cy = (b.y0 + b.y1) / 2, half = Math.max(b.x1 - b.x0, b.y1 - b.y0) / 2;
  const levels: TemplateLevel[] = [];
  for (const [l, image] of pyramid.entries()) {
    const scale = 1 << l, side = cellSide(region, l);
    if (Math.min(b.x1 - b.x0, b.y1 - b.y0) / scale < 2 * side) break;
    const mask = rasterise(region, image.x0, image.y0, image.width, image.height, scale);
    const noise = noiseAtLevel(options.noise, l);
    const chosen = selectCells(image, mask, side, Math.max(24, Math.round(options.count / (1 + 0.5 * l))), (noise * noise) / 2);
    if (chosen.length < 4) continue;
    const n = side * side;
    const t: TemplateLevel = {
      level: l, side, cells: chosen.length, step: scale / half,
      u: new Float64Array(chosen.length), v: new Float64Array(chosen.length),
      values: new Float32Array(chosen.length * n), norm: new Float64Array(chosen.length),
      jacobian: new Float32Array(chosen.length * n * 8), hessian: new Float64Array(chosen.length * 64),
      place: new Int32Array(chosen.length),
    };
    for (const [c, cell] of chosen.entries()) {
      t.u[c] = ((image.x0 + cell.x + 0.5) * scale - cx) / half;
      t.v[c] = ((image.y0 + cell.y + 0.5) * scale - cy) / half;
      const [rx, ry] = mapPoint(options.toReference, [(image.x0 + cell.x + side / 2) * scale, (image.y0 + cell.y + side / 2) * scale]);
      const gx = Math.floor(((rx - trustBounds.x0) / (trustBounds.x1 - trustBounds.x0)) * TRUST_GRID);
      const gy = Math.floor(((ry - trustBounds.y0) / (trustBounds.y1 - trustBounds.y0)) * TRUST_GRID);
      const clamp = (g: number): number => Math.min(Math.max(g, 0), TRUST_GRID - 1);
      t.place[c] = clamp(gy) * TRUST_GRID + clamp(gx);
      fillCell(t, c, image, cell, half / scale);
    }
    levels.push(t);
  }
  return { centre: [cx, cy], halfSize: half, levels, noise: options.noise };
}
