/**
 * The matte of what stands before a Screen, from the plate itself: cells tell where it surely stands and surely does
 * not; between, a pixel shows A of it and 1 - A of what lies behind, whose lights go on from both sides. The mixing
 * equation is that of Porter and Duff, Compositing Digital Images, 1984; colours of both sides from sure places as in
 * Bayesian matting (Chuang et al. 2001, from memory), with one mean a side.
 */
import { clamp } from '../../clamp';
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import type { Lens } from '../../geometry/lens';
import { distort, undistort, undistortQuad } from '../../geometry/lens';
import { inverse } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { extendBy } from '../base/extend';
import { fillIn } from '../base/fill-in';
import type { Region } from '../base/region';
import { regionOfBounds } from '../base/region';
import { gaussianMean } from '../shape/softness';
import { CellField } from './cell-field';
import { maskOf } from './cell-mask';

import type { FoundFronts } from './front-search';

const MATTE = {
  /** Cells by which steps inside a mask are evened out: sigma. By trial. */
  even: 0.7,
  /** Cells from the mask at which nothing stands before the Screen. By trial. */
  clear: 1,
  /** Of the depth that a thin front reaches, beyond which it is taken for itself alone. By trial. */
  thin: 0.7,
  /** Cells over which that goes over. By trial. */
  over: 0.7,
  /** Squared light between both sides at which their mixture is known as well as the mask. By trial. */
  apart: 0.0004,
  /** px; sigma by which the matte is smoothed. By trial. */
  smooth: 0.6,
  /** Cells by which it is where a picture lies behind, of which too little is known in the edge. By trial. */
  uneven: 0.4,
} as const;

export interface FrontTask {
  readonly region: Region;
  /** of the slot, as the picture shows them, px */
  readonly corners: Quad;
  readonly lens: Lens | null;
  readonly frame: number;
}

/** What stands before a Screen in a region, taken apart. */
export interface Apart {
  /** of the region; nothing stands before the rest of it */
  readonly part: Region;
  /** cover, 0 to 1 a pixel */
  readonly alpha: Float32Array;
  /** light of what stands in front, and of what lies behind it: RGB, `width*height*3` */
  readonly front: Float32Array;
  readonly behind: Float32Array;
}

/** Where each pixel of a region lies in the mask. */
interface Placed {
  /** 1 where what stands in front is seen alone, 0 where it mixes or is not there */
  readonly own: Float32Array;
  /** 1 where nothing stands in front */
  readonly clear: Float32Array;
}

/** The same by cells. */
function cellsOf(mask: Uint8Array, field: CellField, edge: number): Placed {
  const { width, height } = field;
  const far = Math.ceil(edge) + 2;
  const depth = Float32Array.from(field.depth(mask, far));
  gaussianMean(depth, width, height, MATTE.even);
  const deepest = depth.slice();
  extendBy(deepest, width, height, far, true);
  const own = depth.map((d, k) => ramp(d - Math.min(edge, MATTE.thin * deepest[k]!), MATTE.over));
  const beyond = field.depth(
    mask.map((v) => 1 - v),
    CLEAR_STEPS,
  );
  return { own, clear: Float32Array.from(beyond, (d) => ramp(d - MATTE.clear, 1)) };
}

/** Steps beyond a mask that are told apart. */
const CLEAR_STEPS = 3;

const ramp = (v: number, over: number): number => clamp(v / over + 0.5, 0, 1);

/** The part of a region in which something may stand, where its pixels lie in the mask, and px of a cell; null where there is none. */
function placed(found: FoundFronts, t: FrontTask): (Placed & { readonly part: Region; readonly cell: number }) | null {
  const text = found.masks[t.frame - found.from];
  if (!text) return null;
  const field = new CellField(found);
  const mask = maskOf(text, field.count);
  const part = partOf(mask, field, t);
  if (!part) return null;
  const cells = cellsOf(mask, field, found.edge);
  const own = new Float32Array(part.width * part.height);
  const clear = new Float32Array(own.length);
  const cellOf = toCells(found, t);
  const row = { u: new Float32Array(part.width), v: new Float32Array(part.width) };
  for (let y = 0, i = 0; y < part.height; y++) {
    alongRow(cellOf, part, y, row);
    for (let x = 0; x < part.width; x++, i++) {
      own[i] = cellAt(cells.own, field, row.u[x]!, row.v[x]!);
      clear[i] = cellAt(cells.clear, field, row.u[x]!, row.v[x]!);
    }
  }
  const at = cellOf([part.x, part.y]);
  const beside = cellOf([part.x + 1, part.y]);
  return { own, clear, part, cell: 1 / Math.max(TINY, distance(at, beside)) };
}

/** px between places that are mapped; between them they are straight within a hundredth of a cell. */
const STRIDE = 8;

/** Cells of a row of pixels. */
function alongRow(
  cellOf: (p: Point) => Point,
  { x: left, y: top, width }: Region,
  y: number,
  { u, v }: { readonly u: Float32Array; readonly v: Float32Array },
): void {
  const py = top + y + 0.5;
  let a = cellOf([left + 0.5, py]);
  for (let x0 = 0; x0 < width; x0 += STRIDE) {
    const b = cellOf([left + x0 + STRIDE + 0.5, py]);
    for (let x = x0; x < Math.min(width, x0 + STRIDE); x++) {
      const t = (x - x0) / STRIDE;
      u[x] = a[0] + t * (b[0] - a[0]);
      v[x] = a[1] + t * (b[1] - a[1]);
    }
    a = b;
  }
}

/** Px of the frame to cells, whose middles are at whole numbers. */
function toCells({ columns, rows, ring }: FoundFronts, { corners, lens }: FrontTask): (p: Point) => Point {
  const m = inverse(unitSquareToQuad(undistortQuad(lens, corners)));
  return (p) => {
    const [s, t] = mapPoint(m, lens ? undistort(lens, p) : p);
    return [s * columns + ring - 0.5, t * rows + ring - 0.5];
  };
}

/** The pixels of a region that a mask may reach, with room beyond it. */
function partOf(mask: Uint8Array, { grid, width }: CellField, { region, corners, lens }: FrontTask): Region | null {
  const h = unitSquareToQuad(undistortQuad(lens, corners));
  const seen: Point[] = [];
  for (let k = 0; k < mask.length; k++) {
    if (!mask[k]) continue;
    const x = (k % width) - grid.ring;
    const y = Math.floor(k / width) - grid.ring;
    for (const [i, j] of ROOM) {
      const p = mapPoint(h, [(x + i) / grid.columns, (y + j) / grid.rows]);
      seen.push(lens ? distort(lens, p) : p);
    }
  }
  if (seen.length === 0) return null;
  const b = boundsOf(seen);
  const beyond = { x0: b.x0 - region.x, y0: b.y0 - region.y, x1: b.x1 - region.x, y1: b.y1 - region.y };
  const part = regionOfBounds(beyond, 1, region);
  return part && { ...part, x: part.x + region.x, y: part.y + region.y };
}

/** Corners of a cell with three cells of room around it: what lies behind must be seen. */
const ROOM = [
  [-3, -3],
  [4, -3],
  [4, 4],
  [-3, 4],
] as const;

/** Between the four cells about a place; the nearest beyond the grid. */
function cellAt(cells: Float32Array, { width, height }: CellField, u: number, v: number): number {
  const x = clamp(u, 0, width - 1);
  const y = clamp(v, 0, height - 1);
  const i = Math.min(width - 2, x | 0);
  const j = Math.min(height - 2, y | 0);
  const [fx, fy] = [x - i, y - j];
  const k = j * width + i;
  const top = cells[k]! + fx * (cells[k + 1]! - cells[k]!);
  const low = cells[k + width]! + fx * (cells[k + width + 1]! - cells[k + width]!);
  return top + fy * (low - top);
}

/**
 * @param light of the plate in the region, scene-linear RGB
 * @returns null on frames on which nothing stands before it
 */
export function takeFrontApart(light: Float32Array, found: FoundFronts, t: FrontTask): Apart | null {
  const at = placed(found, t);
  if (!at) return null;
  const { own, clear, part, cell } = at;
  const { width, height } = part;
  const seen = cutOut(light, t.region, part);
  const front = seen.slice();
  const behind = seen.slice();
  fillIn(front, own, width, height);
  fillIn(behind, clear, width, height);
  const alpha = own.map((v, i) => coverAt(v, clear[i]!, { seen, front, behind }, i));
  gaussianMean(alpha, width, height, found.isEven ? MATTE.smooth : Math.max(MATTE.smooth, MATTE.uneven * cell));
  return { part, alpha, front, behind };
}

function cutOut(light: Float32Array, region: Region, part: Region): Float32Array {
  const out = new Float32Array(3 * part.width * part.height);
  for (let y = 0; y < part.height; y++) {
    const from = 3 * ((y + part.y - region.y) * region.width + part.x - region.x);
    out.set(light.subarray(from, from + 3 * part.width), 3 * y * part.width);
  }
  return out;
}

/** Share of the front in pixel `i`, where its light tells; a half where it does not. */
function coverAt(own: number, clear: number, { seen, front, behind }: Sides, i: number): number {
  if (clear >= 1) return 0;
  if (own >= 1) return 1;
  let along = 0;
  let apart = 0;
  for (let c = 3 * i; c < 3 * i + 3; c++) {
    const d = front[c]! - behind[c]!;
    along += (seen[c]! - behind[c]!) * d;
    apart += d * d;
  }
  const trust = apart / (apart + MATTE.apart);
  const told = trust * clamp(along / Math.max(TINY, apart), 0, 1) + (1 - trust) / 2;
  return own + (1 - own) * (1 - clear) * told;
}

/** Squared light that is none. */
const TINY = 1e-12;

/** Light of a part of the plate, RGB: as it is seen, and that of both sides. */
interface Sides {
  readonly seen: Float32Array;
  readonly front: Float32Array;
  readonly behind: Float32Array;
}
