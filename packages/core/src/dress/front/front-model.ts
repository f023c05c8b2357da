/**
 * What a Screen's plane shows where nothing stands before it, told from many frames: a cell's usual value and how much
 * it varies. Glass that is even, and bezels that are even along a side, are known from their surroundings too, so that
 * what never moves is seen to stand before them.
 */
import { SIGMA_PER_DEVIATION, median, spread } from '../../statistics';
import type { CellField } from './cell-field';
import { evenSurface } from './even-surface';
import type { Gain, SeenCells } from './front-light';
import { NO_GAIN, gainsOf, inUsualLight } from './front-light';
import { usualOf } from './front-sections';

const MODEL = {
  /** Frames that must tell. By trial. */
  least: 6,
  /** Frames by which a cell is told. By trial. */
  most: 60,
  /** Levels of 255; no cell is known better. By trial. */
  sigma: 1.2,
  /** Levels; what varies by more is not known. By trial. */
  unknown: 14,
  /** Levels by which a value must leave the usual one, and the times that what passes makes it do so, or come back. By trial. */
  away: 10,
  turns: 8,
  /** Times the usual variation of even cells that is taken for theirs. By trial. */
  varies: 2,
  /** Of the glass that something on it must take to be a picture. By trial. */
  picture: 0.015,
  /** Cells by which a surface is told. By trial. */
  cells: 60,
  /** Levels by which a bezel may vary along its side. By trial. */
  side: 5,
  /** Of a side that must be seen. By trial. */
  seen: 0.5,
} as const;

/** Usual values and their spread, RGB by cell, levels of 255; NaN where a cell was not seen often enough. */
export interface FrontModel {
  readonly usual: Float32Array;
  readonly sigma: Float32Array;
  /** the glass is even, and known from all of it */
  readonly isEven: boolean;
  readonly gains: ReadonlyMap<number, Gain>;
}

/** @returns null where the frames are too few */
export function frontModel(frames: readonly SeenCells[], field: CellField): FrontModel | null {
  if (frames.length < MODEL.least) return null;
  const few = spread(frames, MODEL.most);
  const first = usualOf(
    few.map(({ cells }) => inUsualLight(cells, NO_GAIN)),
    MODEL.least,
  );
  const gains = gainsOf(frames, first);
  const levels = few.map(({ frame, cells }) => inUsualLight(cells, gains.get(frame)!));
  const usual = usualOf(levels, MODEL.least);
  const off = usualOf(
    levels.map((l) => l.map((v, k) => Math.abs(v - usual[k]!))),
    1,
  );
  const sigma = off.map((v) => Math.max(MODEL.sigma, SIGMA_PER_DEVIATION * v));
  for (let k = 0; k < sigma.length; k++) if (turnsOf(levels, usual, k) > MODEL.turns) sigma[k] = Infinity;
  const isEven = evenGlass(usual, sigma, field);
  evenSides(usual, sigma, field);
  return { usual, sigma, isEven, gains };
}

/** How often a value leaves the usual one and comes back: what passes does so once or twice, a film again and again. */
function turnsOf(levels: readonly Float32Array[], usual: Float32Array, k: number): number {
  let turns = 0;
  let isAway = false;
  for (const l of levels) {
    if (Number.isNaN(l[k]!)) continue;
    const isNowAway = Math.abs(l[k]! - usual[k]!) > MODEL.away;
    if (isNowAway !== isAway) turns++;
    isAway = isNowAway;
  }
  return turns;
}

/** Whether it is known what a cell usually shows in a channel. */
export function isKnown({ usual, sigma }: Pick<FrontModel, 'usual' | 'sigma'>, value: number): boolean {
  return !Number.isNaN(usual[value]!) && sigma[value]! <= MODEL.unknown;
}

/**
 * Where cells are known from one another too, what varies much more than most of them is not the plane: something moves
 * before it there.
 */
const mostSigma = (cells: readonly number[], sigma: Float32Array, c: number): number =>
  MODEL.varies * median(cells.map((k) => sigma[3 * k + c]!));

/** Where the glass is even over most of it, in all colours, it is taken for even everywhere. @returns whether it is */
function evenGlass(usual: Float32Array, sigma: Float32Array, field: CellField): boolean {
  const { inside, width, height } = field;
  const cells: number[] = [];
  for (let k = 0; k < inside.length; k++) if (inside[k] && !Number.isNaN(usual[3 * k]!)) cells.push(k);
  if (cells.length < MODEL.cells) return false;
  const places = cells.map((k): readonly [number, number] => [(k % width) / width, Math.floor(k / width) / height]);
  const surfaces = [0, 1, 2].map((c) =>
    evenSurface(
      places,
      cells.map((k) => usual[3 * k + c]!),
    ),
  );
  if (surfaces.some((s) => s === null)) return false;
  const isOff = new Uint8Array(field.count);
  for (const [i, k] of cells.entries())
    if (surfaces.some((s, c) => Math.abs(s!.values[i]! - usual[3 * k + c]!) > MODEL.away)) isOff[k] = 1;
  if (showsPicture(isOff, field)) return false;
  for (let c = 0; c < 3; c++) {
    const most = mostSigma(cells, sigma, c);
    const { values, scale } = surfaces[c]!;
    for (const [i, k] of cells.entries()) {
      usual[3 * k + c] = values[i]!;
      sigma[3 * k + c] = Math.hypot(Math.min(most, sigma[3 * k + c]!), scale);
    }
  }
  return true;
}

/** Whether what differs from an even glass lies on it: what stands before it comes from beyond it. */
function showsPicture(isOff: Uint8Array, field: CellField): boolean {
  let within = 0;
  for (const piece of field.pieces(isOff)) {
    const isAtEdge = piece.some((k) => field.countBeside(k, (n) => !field.inside[n]) > 0);
    if (!isAtEdge) within += piece.length;
  }
  return within > MODEL.picture * field.grid.columns * field.grid.rows;
}

/** Cells of the lines of the ring along each side. */
function sideLines({ grid, width }: CellField): number[][] {
  const { ring, columns, rows } = grid;
  const lines: number[][] = [];
  const across = (y: number): number[] => Array.from({ length: columns }, (_, i) => y * width + ring + i);
  const down = (x: number): number[] => Array.from({ length: rows }, (_, j) => (ring + j) * width + x);
  for (let n = 0; n < ring; n++)
    lines.push(across(ring - 1 - n), across(ring + rows + n), down(ring - 1 - n), down(ring + columns + n));
  return lines;
}

/** Where the bezel is alike along most of a side it is taken for alike along all of it. */
function evenSides(usual: Float32Array, sigma: Float32Array, field: CellField): void {
  for (const line of sideLines(field)) {
    const seen = line.filter((k) => !Number.isNaN(usual[3 * k]!));
    if (seen.length < MODEL.seen * line.length) continue;
    const middle = [0, 1, 2].map((c) => median(seen.map((k) => usual[3 * k + c]!)));
    const scale = middle.map((m, c) => SIGMA_PER_DEVIATION * median(seen.map((k) => Math.abs(usual[3 * k + c]! - m))));
    if (Math.max(...scale) > MODEL.side) continue;
    for (let c = 0; c < 3; c++) {
      const most = mostSigma(seen, sigma, c);
      for (const k of seen) {
        usual[3 * k + c] = middle[c]!;
        sigma[3 * k + c] = Math.hypot(Math.min(most, sigma[3 * k + c]!), scale[c]!);
      }
    }
  }
}
