/** How far closed outlines cover pixels: letters and shapes of made-up content are drawn so. */
import type { Point } from '../../geometry/point';
import type { Region } from '../base/region';

/** Rows into which a pixel of a letter is cut to know how far its outline covers it. By trial. */
const ROWS = 4;

/** An edge of an outline: where it is at `y`, how that changes with y, and whether it goes down (1) or up. */
interface Edge {
  readonly x: number;
  readonly y: number;
  readonly slope: number;
  readonly turn: number;
  readonly top: number;
  readonly bottom: number;
}

/** Those that lines of pixels can meet: none that lie level. */
function edgesOf(outlines: readonly (readonly Point[])[]): Edge[] {
  const out: Edge[] = [];
  for (const outline of outlines) {
    let [bx, by] = outline.at(-1) ?? [0, 0];
    for (const [x, y] of outline) {
      const turn = y > by ? 1 : -1;
      if (y !== by) out.push({ x, y, slope: (bx - x) / (by - y), turn, top: Math.min(y, by), bottom: Math.max(y, by) });
      [bx, by] = [x, y];
    }
  }
  return out.sort((a, b) => a.top - b.top);
}

/** Crossings of a line with outlines, left to right, and whether they go up or down there. */
class Crossings {
  private readonly x: number[] = [];
  private readonly turn: number[] = [];
  count = 0;

  /** Those of the line at `y` with edges that it meets. */
  meet(edges: readonly Edge[], y: number): void {
    this.count = 0;
    for (const e of edges) this.insert(e.slope * (y - e.y) + e.x, e.turn);
  }

  private insert(x: number, turn: number): void {
    let i = this.count++;
    for (; i > 0 && this.x[i - 1]! > x; i--) {
      this.x[i] = this.x[i - 1]!;
      this.turn[i] = this.turn[i - 1]!;
    }
    this.x[i] = x;
    this.turn[i] = turn;
  }

  /** Adds what lies between them by the non-zero rule to a row. */
  fill(row: Row): void {
    let wind = 0;
    for (let k = 0; k + 1 < this.count; k++) {
      wind += this.turn[k]!;
      if (wind !== 0) row.add(this.x[k]!, this.x[k + 1]!);
    }
  }
}

/** Lengths that are covered of the px of a row, and of all px after each. */
class Row {
  private readonly own: Float32Array;
  private readonly after: Float32Array;

  constructor(
    private readonly x0: number,
    private readonly width: number,
  ) {
    this.own = new Float32Array(width + 1);
    this.after = new Float32Array(width + 1);
  }

  add(from: number, to: number): void {
    const a = Math.max(0, from - this.x0);
    const b = Math.min(this.width, to - this.x0);
    if (b <= a) return;
    const first = Math.floor(a);
    const last = Math.floor(b);
    if (first === last) {
      this.own[first]! += b - a;
      return;
    }
    this.own[first]! += first + 1 - a;
    this.own[last]! += b - last;
    this.after[first + 1]! += 1;
    this.after[last]! -= 1;
  }

  /** Writes the shares of its px, of that many lines, and begins anew. */
  end(out: Float32Array, at: number): void {
    let whole = 0;
    for (let x = 0; x < this.width; x++) {
      whole += this.after[x]!;
      out[at + x] = (whole + this.own[x]!) / ROWS;
    }
    this.own.fill(0);
    this.after.fill(0);
  }
}

/** The edges that a line meets, from those that the line before met and those that begin after it. */
function openAt(y: number, open: Edge[], edges: readonly Edge[], from: number): number {
  let next = from;
  while (next < edges.length && edges[next]!.top <= y) open.push(edges[next++]!);
  let kept = 0;
  for (const e of open) if (e.bottom > y) open[kept++] = e;
  open.length = kept;
  return next;
}

/**
 * Share of each pixel that closed outlines (px of the picture) cover by the non-zero rule: four lines a pixel, exact along
 * each.
 * @param region of the picture
 * @returns `width * height` of the region, 0 to 1
 */
export function coverOf(outlines: readonly (readonly Point[])[], region: Region): Float32Array {
  const { width, height } = region;
  const out = new Float32Array(width * height);
  const edges = edgesOf(outlines);
  const row = new Row(region.x, width);
  const crossings = new Crossings();
  const open: Edge[] = [];
  let next = 0;
  for (let y = 0; y < height; y++) {
    for (let line = 0; line < ROWS; line++) {
      const at = region.y + y + (line + 0.5) / ROWS;
      next = openAt(at, open, edges, next);
      crossings.meet(open, at);
      crossings.fill(row);
    }
    row.end(out, y * width);
  }
  return out;
}
