/**
 * A remembered picture, ready for alignment: per pyramid level its cells with zero-mean unit-norm values and their
 * gradients, already made orthogonal to a gain and an offset of the cell. With that projection the brightness of a cell
 * never enters the motion, and one pass over the sampled pixels gives its displacement and its residual.
 * Source: S. Baker, R. Gross, I. Matthews, Lucas-Kanade 20 Years On, part 3, 2003 (projecting out linear appearance).
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import type { Cell } from './cells';
import { selectCells } from './cells';
import type { Region } from '../outline/region';
import { rasterise, rasteriseSurroundings } from '../outline/region';

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
  /** `cells*side*side` each, d value / d normalised coordinate, orthogonal to 1 and to the cell's values */
  readonly gradientU: Float32Array;
  readonly gradientV: Float32Array;
  /** `cells*3`: sums of the gradients' products, uu uv vv */
  readonly structure: Float64Array;
  /** per cell, its place on the trust grid */
  readonly place: Int32Array;
  /** per cell, 1 when it must prove that it moves with the plane before it counts */
  readonly probation: Uint8Array;
  /** the cells in the remembered picture's level */
  readonly source: readonly Cell[];
}

/** A level with room for cells; `side` px of the level, `step` a px of it in normalised coordinates. */
export function emptyLevel(level: number, side: number, step: number, source: readonly Cell[]): TemplateLevel {
  const cells = source.length;
  const n = side * side;
  return {
    level,
    side,
    cells,
    step,
    u: new Float64Array(cells),
    v: new Float64Array(cells),
    values: new Float32Array(cells * n),
    norm: new Float64Array(cells),
    gradientU: new Float32Array(cells * n),
    gradientV: new Float32Array(cells * n),
    structure: new Float64Array(cells * 3),
    place: new Int32Array(cells),
    probation: new Uint8Array(cells),
    source,
  };
}

/** An empty level whose cells lie where those of another do, for their picture to be made anew. */
export function levelLike(t: TemplateLevel): TemplateLevel {
  const out = emptyLevel(t.level, t.side, t.step, t.source);
  out.u.set(t.u);
  out.v.set(t.v);
  out.place.set(t.place);
  out.probation.set(t.probation);
  return out;
}

export interface Template {
  /** normalised template coordinates to px of the remembered frame: x = s u + cx */
  readonly centre: readonly [number, number];
  readonly halfSize: number;
  readonly levels: readonly TemplateLevel[];
  /** px noise of the remembered picture at level 0 */
  readonly noise: number;
  /** as sharp as it was remembered */
  readonly pyramid: Pyramid;
  /** px of the remembered frame by which its cells are softer than that; see `softness.ts` */
  readonly softness: number;
}

/** Cells a side of the square grid over the region's bounds on which trust is remembered. By trial. */
export const TRUST_GRID = 32;

export interface TemplateOptions {
  readonly region: Region;
  /** most cells at the finest level */
  readonly count: number;
  readonly noise: number;
  /** remembered frame to reference frame, to place cells on the trust grid */
  readonly toReference: Matrix3;
  /** bounds of the region on the reference frame */
  readonly trustBounds: Region['bounds'];
  /** whether a square of the remembered frame (px) with that mean grey must prove itself first */
  readonly probation: (x0: number, y0: number, side: number, mean: number) => boolean;
}

/** Noise of a level falls by the kernel's norm, (20/64) per axis pair, each time a picture is halved. */
export function noiseAtLevel(noise: number, level: number): number {
  return noise * Math.pow(0.3125, level);
}

const TEMPLATE = {
  /** px; smaller cells agree with anything once gain and offset are free. By trial. */
  leastSide: 7,
  /** Squared grey steps a px under which a cell shows compression rather than picture. By trial. */
  leastContrast: 1,
  /** Cells tried around the pin, as a share of those in it. By trial. */
  aroundShare: 0.3,
} as const;

function cellSide(region: Region, level: number): number {
  const scale = 1 << level;
  const w = (region.core.x1 - region.core.x0) / scale;
  const h = (region.core.y1 - region.core.y0) / scale;
  return Math.max(
    TEMPLATE.leastSide,
    Math.min(14, Math.floor(Math.sqrt((w * h) / 90)), Math.floor(Math.min(w, h) / 2)),
  );
}

/** Makes a cell's gradient orthogonal to a change of offset and of gain, so that brightness never moves it. */
function projectOut(gradient: Float32Array, values: Float32Array, base: number, n: number): void {
  let mean = 0;
  let along = 0;
  for (let k = base; k < base + n; k++) {
    mean += gradient[k]!;
    along += gradient[k]! * values[k]!;
  }
  mean /= n;
  for (let k = base; k < base + n; k++) gradient[k]! -= mean + along * values[k]!;
}

/** Fills one cell's values, gradients and structure from `image`, one px of border around it included. */
export function fillCell(
  t: TemplateLevel,
  c: number,
  image: Pick<PyramidLevel, 'data' | 'width'>,
  x0: number,
  y0: number,
): void {
  const { side, values, gradientU, gradientV } = t;
  const { data, width } = image;
  const n = side * side;
  const base = c * n;
  const f = 0.5 / t.step;
  let mean = 0;
  let norm = 0;
  for (let j = 0, k = base; j < side; j++)
    for (let i = 0, at = (y0 + j) * width + x0; i < side; i++, at++, k++) {
      values[k] = data[at]!;
      mean += data[at]!;
      gradientU[k] = f * (data[at + 1]! - data[at - 1]!);
      gradientV[k] = f * (data[at + width]! - data[at - width]!);
    }
  mean /= n;
  for (let k = base; k < base + n; k++) {
    values[k]! -= mean;
    norm += values[k]! ** 2;
  }
  norm = Math.sqrt(norm) || 1;
  t.norm[c] = norm;
  for (let k = base; k < base + n; k++) values[k]! /= norm;
  projectOut(gradientU, values, base, n);
  projectOut(gradientV, values, base, n);
  let uu = 0;
  let uv = 0;
  let vv = 0;
  for (let k = base; k < base + n; k++) {
    uu += gradientU[k]! ** 2;
    uv += gradientU[k]! * gradientV[k]!;
    vv += gradientV[k]! ** 2;
  }
  t.structure.set([uu, uv, vv], c * 3);
}

/** @param pyramid of the remembered frame, or of a window of it that holds the region */
export function buildTemplate(pyramid: Pyramid, options: TemplateOptions): Template {
  const { region, trustBounds } = options;
  const b = region.bounds;
  const cx = (b.x0 + b.x1) / 2;
  const cy = (b.y0 + b.y1) / 2;
  const half = Math.max(b.x1 - b.x0, b.y1 - b.y0) / 2;
  const levels: TemplateLevel[] = [];
  for (const [l, image] of options.count > 0 ? pyramid.entries() : []) {
    const scale = 1 << l;
    const side = cellSide(region, l);
    if (Math.min(region.core.x1 - region.core.x0, region.core.y1 - region.core.y0) / scale < 2 * side) break;
    const window = { x0: image.x0, y0: image.y0, width: image.width, height: image.height, scale };
    const mask = rasterise(region, window);
    const noise = noiseAtLevel(options.noise, l);
    const count = Math.max(24, Math.round(options.count / (1 + 0.5 * l)));
    const floor = Math.max(noise * noise, TEMPLATE.leastContrast) / 2;
    const around = rasteriseSurroundings(region, mask, window);
    const chosen = [
      ...selectCells(image, mask, side, count, floor),
      ...(around ? selectCells(image, around, side, Math.round(TEMPLATE.aroundShare * count), floor) : []),
    ];
    if (chosen.length < 4) continue;
    const t = emptyLevel(l, side, scale / half, chosen);
    for (const [c, cell] of chosen.entries()) {
      t.u[c] = ((image.x0 + cell.x + 0.5) * scale - cx) / half;
      t.v[c] = ((image.y0 + cell.y + 0.5) * scale - cy) / half;
      const [rx, ry] = mapPoint(options.toReference, [
        (image.x0 + cell.x + side / 2) * scale,
        (image.y0 + cell.y + side / 2) * scale,
      ]);
      const gx = Math.floor(((rx - trustBounds.x0) / (trustBounds.x1 - trustBounds.x0)) * TRUST_GRID);
      const gy = Math.floor(((ry - trustBounds.y0) / (trustBounds.y1 - trustBounds.y0)) * TRUST_GRID);
      t.place[c] = clamp(gy, 0, TRUST_GRID - 1) * TRUST_GRID + clamp(gx, 0, TRUST_GRID - 1);
      fillCell(t, c, image, cell.x, cell.y);
      t.probation[c] = options.probation(
        (image.x0 + cell.x) * scale,
        (image.y0 + cell.y) * scale,
        side * scale,
        cell.mean,
      )
        ? 1
        : 0;
    }
    levels.push(t);
  }
  return { centre: [cx, cy], halfSize: half, levels, noise: options.noise, pyramid, softness: 0 };
}
