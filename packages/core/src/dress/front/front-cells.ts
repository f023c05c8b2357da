/** Cells over a Screen's plane and a little beyond it: what a frame shows in each. */
import { clamp } from '../../clamp';
import { unitSquareToQuad } from '../../geometry/homography';
import type { Lens } from '../../geometry/lens';
import { distort, undistortQuad } from '../../geometry/lens';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { CURVES } from '../colour/transfer';

/** Cells of the slot, row by row, with a ring of others around them. */
export interface CellGrid {
  readonly columns: number;
  readonly rows: number;
  /** cells beyond each side */
  readonly ring: number;
}

const CELLS = {
  /** Along the slot's longer side. By trial: 6 px of a phone that is 600 px long. */
  longer: 96,
  least: 12,
  /** Cells beyond each side: about a bezel. By trial. */
  ring: 3,
} as const;

/** What a cell shows that the picture does not hold. */
export const UNSEEN = 65_535;
/** What stands for white in {@link cellsSeen}. */
export const CELL_WHITE = 65_280;

/** @param aspect width of the slot by its height */
export function gridOf(aspect: number): CellGrid {
  const shorter = Math.max(CELLS.least, Math.round(CELLS.longer * Math.min(aspect, 1 / aspect)));
  return {
    columns: aspect >= 1 ? CELLS.longer : shorter,
    rows: aspect >= 1 ? shorter : CELLS.longer,
    ring: CELLS.ring,
  };
}

/** Cells of a row, with the ring. */
export const gridWidth = ({ columns, ring }: CellGrid): number => columns + 2 * ring;
/** Rows of cells, with the ring. */
export const gridHeight = ({ rows, ring }: CellGrid): number => rows + 2 * ring;

/** Samples of a cell along each of its sides; each is the mean of four px. */
const SAMPLES = 2;
/** Px that a cell's value is the mean of. */
const PIXELS = 4 * SAMPLES * SAMPLES;

/** Sums the four px about a place. @returns false where they are not all in the picture */
function addAround({ width, height, channels, data }: Raster, [px, py]: Point, sum: Float64Array): boolean {
  const x = Math.round(px) - 1;
  const y = Math.round(py) - 1;
  if (!(x >= 0 && y >= 0 && x + 1 < width && y + 1 < height)) return false;
  for (let q = 0; q < 4; q++) {
    const k = ((y + (q >> 1)) * width + x + (q & 1)) * channels;
    for (let c = 0; c < 3; c++) sum[c]! += data[k + c]!;
  }
  return true;
}

/** Where shares of the slot are seen; null behind the camera. */
function seenBy(corners: Quad, lens: Lens | null): (s: number, t: number) => Point | null {
  const h = unitSquareToQuad(undistortQuad(lens, corners));
  return (s, t) => {
    const w = h[6]! * s + h[7]! * t + h[8]!;
    if (w <= 0) return null;
    const p: Point = [(h[0]! * s + h[1]! * t + h[2]!) / w, (h[3]! * s + h[4]! * t + h[5]!) / w];
    return lens ? distort(lens, p) : p;
  };
}

/**
 * Mean code values of the cells on a frame, RGB, 0 to {@link CELL_WHITE}; {@link UNSEEN} where one reaches beyond the
 * picture. @param corners of the slot as the picture shows them, px
 */
export function cellsSeen(picture: Raster, corners: Quad, lens: Lens | null, grid: CellGrid): Uint16Array {
  const { columns, rows, ring } = grid;
  const at = seenBy(corners, lens);
  const share = 1 / (maxOf(picture) * PIXELS);
  // Floats hold light; they are compared as they are shown.
  const isLight = picture.data instanceof Float32Array;
  const coded = (v: number): number =>
    Math.round(CELL_WHITE * clamp(isLight ? CURVES.srgb.encode(Math.max(0, v)) : v, 0, 1));
  const out = new Uint16Array(3 * gridWidth(grid) * gridHeight(grid)).fill(UNSEEN);
  const sum = new Float64Array(3);
  const isSummed = (i: number, j: number): boolean => {
    sum.fill(0);
    for (let p = 0; p < SAMPLES * SAMPLES; p++) {
      const s = (i + ((p % SAMPLES) + 0.5) / SAMPLES) / columns;
      const t = (j + (Math.floor(p / SAMPLES) + 0.5) / SAMPLES) / rows;
      const place = at(s, t);
      if (!place || !addAround(picture, place, sum)) return false;
    }
    return true;
  };
  for (let j = -ring, o = 0; j < rows + ring; j++)
    for (let i = -ring; i < columns + ring; i++, o += 3)
      if (isSummed(i, j)) for (let c = 0; c < 3; c++) out[o + c] = coded(sum[c]! * share);
  return out;
}
