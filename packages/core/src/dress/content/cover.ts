/** How far closed outlines cover pixels: letters and shapes of made-up content are drawn so. */
import type { Point } from '../../geometry/point';

/** Rows into which a pixel of a letter is cut to know how far its outline covers it. By trial. */
const ROWS = 4;

interface Edge {
  readonly from: Point;
  readonly to: Point;
  readonly top: number;
  readonly bottom: number;
}

function edgesOf(contours: readonly (readonly Point[])[]): Edge[] {
  return contours.flatMap((c) =>
    c.map((to, i) => {
      const from = c[(i + c.length - 1) % c.length]!;
      return { from, to, top: Math.min(from[1], to[1]), bottom: Math.max(from[1], to[1]) };
    }),
  );
}

/** Where a line meets outlines, left to right, and whether they go up or down there. */
function crossingsOn(edges: readonly Edge[], y: number): { x: number; turn: number }[] {
  return edges
    .map(({ from: [xj, yj], to: [xi, yi] }) => ({
      x: ((xj - xi) * (y - yi)) / (yj - yi) + xi,
      turn: yi > yj ? 1 : -1,
    }))
    .sort((a, b) => a.x - b.x);
}

/** Adds what lies between crossings by the non-zero rule to a row of pixels. */
function fillRow(row: Float32Array, crossings: readonly { readonly x: number; readonly turn: number }[]): void {
  let wind = 0;
  for (let k = 0; k + 1 < crossings.length; k++) {
    wind += crossings[k]!.turn;
    if (wind === 0) continue;
    const a = Math.max(0, crossings[k]!.x);
    const b = Math.min(row.length, crossings[k + 1]!.x);
    for (let x = Math.floor(a); x < b; x++) row[x]! += Math.max(0, Math.min(b, x + 1) - Math.max(a, x)) / ROWS;
  }
}

/**
 * Share of each pixel that closed outlines (px) cover by the non-zero rule: four lines a pixel, exact along each.
 * @returns `width * height`, 0 to 1
 */
export function coverOf(contours: readonly (readonly Point[])[], width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  const edges = edgesOf(contours).sort((a, b) => a.top - b.top);
  let open: Edge[] = [];
  let next = 0;
  for (let line = 0; line < height * ROWS; line++) {
    const y = (line + 0.5) / ROWS;
    while (next < edges.length && edges[next]!.top <= y) open.push(edges[next++]!);
    open = open.filter((e) => e.bottom > y);
    if (open.length === 0) continue;
    const row = Math.floor(line / ROWS) * width;
    fillRow(out.subarray(row, row + width), crossingsOn(open, y));
  }
  return out;
}
