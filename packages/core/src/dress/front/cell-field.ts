/** A field of cells with their neighbours, and what is done with masks over it. */
import type { CellGrid } from './front-cells';
import { gridHeight, gridWidth } from './front-cells';

/** Neighbours of a cell over its sides and corners. */
const BESIDE = 8;
/** Stands for a neighbour beyond the field. */
const NONE = -1;

/** Cells of a grid with its ring, row by row. */
export class CellField {
  readonly width: number;
  readonly height: number;
  readonly count: number;
  /** 1 for cells of the slot itself, 0 for those of the ring */
  readonly inside: Uint8Array;
  /** cells by which a cell of the ring lies beyond the slot, 0 next to it; of those of the slot -1 */
  readonly beyond: Int8Array;
  private readonly beside: Int32Array;

  constructor(readonly grid: CellGrid) {
    this.width = gridWidth(grid);
    this.height = gridHeight(grid);
    this.count = this.width * this.height;
    this.beside = this.neighbours();
    const { columns, rows, ring } = grid;
    this.beyond = Int8Array.from({ length: this.count }, (_, k) => {
      const x = (k % this.width) - ring;
      const y = Math.floor(k / this.width) - ring;
      return Math.max(-x, x - columns + 1, -y, y - rows + 1, 0) - 1;
    });
    this.inside = Uint8Array.from(this.beyond, (v) => (v < 0 ? 1 : 0));
  }

  private neighbours(): Int32Array {
    const { width, height, count } = this;
    const out = new Int32Array(BESIDE * count).fill(NONE);
    for (let k = 0; k < count; k++) {
      const x = k % width;
      const y = (k - x) / width;
      let n = BESIDE * k;
      for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
        for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++)
          if (i !== x || j !== y) out[n++] = j * width + i;
    }
    return out;
  }

  /** One cell further from the glass, from a cell of the ring next to it; null for others. */
  outwards(cell: number): number | null {
    const { columns, ring } = this.grid;
    const x = (cell % this.width) - ring;
    const y = Math.floor(cell / this.width) - ring;
    if (this.beyond[cell] !== 0) return null;
    if (x === -1) return -1;
    if (x === columns) return 1;
    return y === -1 ? -this.width : this.width;
  }

  /** Neighbours of a cell that are wanted. */
  countBeside(cell: number, isWanted: (k: number) => boolean): number {
    let count = 0;
    for (let n = BESIDE * cell; n < BESIDE * (cell + 1) && this.beside[n] !== NONE; n++)
      if (isWanted(this.beside[n]!)) count++;
    return count;
  }

  /** Cells that hang together with the first of a list, which grows by them. @param isOn whether a step may be taken */
  reach(list: number[], isOn: (from: number, to: number) => boolean, most = Infinity): void {
    for (let at = 0; at < list.length && list.length <= most; at++) {
      const from = list[at]!;
      for (let n = BESIDE * from; n < BESIDE * (from + 1) && this.beside[n] !== NONE; n++)
        if (isOn(from, this.beside[n]!)) list.push(this.beside[n]!);
    }
  }

  /** Cells of each piece of a mask. */
  pieces(mask: Uint8Array): number[][] {
    const met = new Uint8Array(this.count);
    const pieces: number[][] = [];
    const take = (_: number, k: number): boolean => {
      if (!mask[k] || met[k]) return false;
      met[k] = 1;
      return true;
    };
    for (let start = 0; start < this.count; start++) {
      if (!take(start, start)) continue;
      const piece = [start];
      this.reach(piece, take);
      pieces.push(piece);
    }
    return pieces;
  }

  /** A mask with all neighbours of its cells. */
  grown(mask: Uint8Array): Uint8Array {
    return mask.map((v, k) => (v || this.countBeside(k, (n) => mask[n] === 1) > 0 ? 1 : 0));
  }

  /** A mask without what is thinner than three cells. */
  opened(mask: Uint8Array): Uint8Array {
    const all = mask.map((v, k) => (v && this.countBeside(k, (n) => mask[n] === 0) === 0 ? 1 : 0));
    const thick = this.grown(this.grown(all));
    return mask.map((v, k) => (v && thick[k] ? 1 : 0));
  }

  /** Steps of each cell of a mask to the nearest that is not in it, at most `most`: 1 at its edge, 0 beyond it. */
  depth(mask: Uint8Array, most: number): Uint8Array {
    const depth = mask.slice();
    for (let step = 1; step < most; step++) {
      const before = depth.slice();
      for (let k = 0; k < this.count; k++)
        if (before[k] === step && this.countBeside(k, (n) => before[n]! < step) === 0) depth[k] = step + 1;
    }
    return depth;
  }

  /** A mask without holes of up to `most` cells. */
  closed(mask: Uint8Array, most: number): Uint8Array {
    const { width, height } = this;
    const isAtBorder = (k: number): boolean => {
      const x = k % width;
      const y = (k - x) / width;
      return x === 0 || y === 0 || x === width - 1 || y === height - 1;
    };
    const out = mask.slice();
    for (const hole of this.pieces(mask.map((v) => 1 - v)))
      if (hole.length <= most && !hole.some(isAtBorder)) for (const k of hole) out[k] = 1;
    return out;
  }

  /** Goes on with a mask over cells that are not decided, as their nearest decided neighbours are. */
  spreadOver(mask: Uint8Array, isDecided: Uint8Array, steps: number): Uint8Array {
    const out = mask.slice();
    const decided = isDecided.slice();
    for (let step = 0; step < steps; step++) {
      const met: number[] = [];
      for (let k = 0; k < this.count; k++) {
        if (decided[k]) continue;
        const known = this.countBeside(k, (n) => decided[n] === 1);
        if (known === 0) continue;
        met.push(k);
        if (2 * this.countBeside(k, (n) => decided[n] === 1 && out[n] === 1) > known) out[k] = 1;
      }
      for (const k of met) decided[k] = 1;
    }
    return out;
  }

  /** Share of the slot that a mask covers. */
  share(mask: Uint8Array): number {
    let covered = 0;
    for (let k = 0; k < this.count; k++) if (mask[k] && this.inside[k]) covered++;
    return covered / (this.grid.columns * this.grid.rows);
  }
}

/** Cells that are in either mask. */
export function either(a: Uint8Array, b: Uint8Array): Uint8Array {
  return a.map((v, k) => (v || b[k] ? 1 : 0));
}
