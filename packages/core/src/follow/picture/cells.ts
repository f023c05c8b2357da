/**
 * Which square cells of the reference picture are worth following. A cell is scored by the smaller eigenvalue of its
 * structure tensor (J. Shi and C. Tomasi, Good Features to Track, 1994) with a share of the larger one, since a cell on
 * a straight edge still holds one direction; the choice goes round coarse blocks of the region so that cells spread to
 * where they say most about the corners.
 */
import type { PyramidLevel } from '../../image/pyramid';

export const DENSITIES = { few: 70, usual: 160, many: 320 } as const;
export type Density = keyof typeof DENSITIES;

export interface Cell {
  /** first pixel's column and row inside the level's window */
  readonly x: number;
  readonly y: number;
  readonly score: number;
  /** mean grey, 0 to 255 */
  readonly mean: number;
}

const CELLS = {
  /** What an edge counts against a corner of the same contrast, when cells are chosen. By trial. */
  edgeShare: 0.15,
  /** Blocks a side over which the chosen cells are spread. By trial. */
  blocks: 7,
  /** Grey, 0 to 255; darker pixels are clipped and carry no position. By trial. */
  clippedLow: 0.5,
  /** Grey, 0 to 255; brighter pixels are clipped and carry no position. By trial. */
  clippedHigh: 254.5,
} as const;

function score(level: PyramidLevel, x0: number, y0: number, side: number): { score: number; mean: number } {
  const { width, data } = level;
  let xx = 0;
  let xy = 0;
  let yy = 0;
  let clipped = 0;
  let sum = 0;
  for (let y = y0; y < y0 + side; y++)
    for (let x = x0; x < x0 + side; x++) {
      const i = y * width + x;
      const gx = (data[i + 1]! - data[i - 1]!) / 2;
      const gy = (data[i + width]! - data[i - width]!) / 2;
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
      sum += data[i]!;
      if (data[i]! <= CELLS.clippedLow || data[i]! >= CELLS.clippedHigh) clipped++;
    }
  const n = side * side;
  if (clipped > 0.7 * n) return { score: 0, mean: sum / n };
  const mean = (xx + yy) / 2;
  const spread = Math.hypot((xx - yy) / 2, xy);
  return { score: (mean - spread + CELLS.edgeShare * (mean + spread)) / n, mean: sum / n };
}

/**
 * @param mask 1 where the level's pixels are followed, same size as the level
 * @param floor score that pixel noise alone would give; cells below twice of it are left out
 * @returns at most `count` cells of `side` px, none overlapping, best first within each round
 */
export function selectCells(level: PyramidLevel, mask: Uint8Array, side: number, count: number, floor: number): Cell[] {
  const { width, height } = level;
  const blocks = new Map<number, Cell[]>();
  let bx0 = width;
  let by0 = height;
  let bx1 = 0;
  let by1 = 0;
  const cells: Cell[] = [];
  for (let y = 1; y + side < height; y += side)
    for (let x = 1; x + side < width; x += side) {
      let covered = 0;
      for (let j = y; j < y + side; j++) for (let i = x; i < x + side; i++) covered += mask[j * width + i]!;
      if (covered < side * side) continue;
      const s = score(level, x, y, side);
      if (s.score <= 2 * floor) continue;
      cells.push({ x, y, ...s });
      bx0 = Math.min(bx0, x);
      by0 = Math.min(by0, y);
      bx1 = Math.max(bx1, x + side);
      by1 = Math.max(by1, y + side);
    }
  for (const cell of cells) {
    const u = Math.floor(((cell.x - bx0) / (bx1 - bx0)) * CELLS.blocks);
    const v = Math.floor(((cell.y - by0) / (by1 - by0)) * CELLS.blocks);
    const key = v * CELLS.blocks + u;
    const list = blocks.get(key);
    if (list) list.push(cell);
    else blocks.set(key, [cell]);
  }
  for (const list of blocks.values()) list.sort((a, b) => b.score - a.score || a.y - b.y || a.x - b.x);
  const out: Cell[] = [];
  for (let round = 0; out.length < count; round++) {
    const row = [...blocks.values()].map((l) => l[round]).filter((c): c is Cell => c !== undefined);
    if (row.length === 0) break;
    row.sort((a, b) => b.score - a.score || a.y - b.y || a.x - b.x);
    out.push(...row.slice(0, count - out.length));
  }
  return out;
}
