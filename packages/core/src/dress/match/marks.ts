/** Marks drawn on a keyed screen. */
import { unitSquareToQuad } from '../../geometry/homography';
import { boundsOf } from '../../geometry/polygon';
import { keyStrength } from '../holdout/holdout';
import type { MatchEvidence } from './evidence';

const MARKS = {
  /** Cells along the longer side in which marks are looked for. By trial. */
  cells: 180,
  /** Of the screen's longer side; a longer thing is no mark. By trial. */
  most: 0.16,
  /** Of the screen's longer side; a shorter thing is noise. By trial. */
  least: 0.01,
} as const;

interface Island {
  readonly area: number;
  readonly width: number;
  readonly height: number;
  /** the border of the picture */
  readonly touches: boolean;
}

/** Connected groups of set cells, by their four neighbours. */
function islands(set: Uint8Array, width: number, height: number): Island[] {
  const left = set.slice();
  const out: Island[] = [];
  for (let from = 0; from < left.length; from++) {
    if (!left[from]) continue;
    const stack = [from];
    left[from] = 0;
    let area = 0;
    let x0 = width;
    let x1 = 0;
    let y0 = height;
    let y1 = 0;
    while (stack.length > 0) {
      const k = stack.pop()!;
      const x = k % width;
      const y = (k - x) / width;
      area++;
      [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, y), Math.max(y1, y)];
      for (const [ok, to] of [
        [x > 0, k - 1],
        [x < width - 1, k + 1],
        [y > 0, k - width],
        [y < height - 1, k + width],
      ] as const)
        if (ok && left[to]) {
          left[to] = 0;
          stack.push(to);
        }
    }
    out.push({
      area,
      width: x1 - x0 + 1,
      height: y1 - y0 + 1,
      touches: x0 === 0 || y0 === 0 || x1 === width - 1 || y1 === height - 1,
    });
  }
  return out;
}

/**
 * How thick marks drawn on the screen are, with their soft edges, px of the plate; 0 where there are none: small
 * islands of another colour that touch no side.
 */
export function marks({ marked, columns, rows, max, colour }: MatchEvidence, least: number): number {
  if (!marked) return 0;
  const { picture, corners } = marked;
  const h = unitSquareToQuad(corners);
  const long = Math.max(columns, rows);
  const w = Math.round((MARKS.cells * columns) / long);
  const n = Math.round((MARKS.cells * rows) / long);
  const other = new Uint8Array(w * n);
  for (let j = 0; j < n; j++)
    for (let i = 0; i < w; i++) {
      const s = (i + 0.5) / w;
      const t = (j + 0.5) / n;
      const z = h[6]! * s + h[7]! * t + h[8]!;
      const x = Math.floor((h[0]! * s + h[1]! * t + h[2]!) / z);
      const y = Math.floor((h[3]! * s + h[4]! * t + h[5]!) / z);
      const k = (y * picture.width + x) * picture.channels;
      if (x >= 0 && y >= 0 && x < picture.width && y < picture.height)
        other[j * w + i] =
          keyStrength(colour, picture.data[k]! / max, picture.data[k + 1]! / max, picture.data[k + 2]! / max) < least
            ? 1
            : 0;
    }
  const b = boundsOf(corners);
  const cell = Math.max(b.x1 - b.x0, b.y1 - b.y0) / MARKS.cells;
  const thick = islands(other, w, n)
    .filter(
      (m) =>
        !m.touches &&
        Math.max(m.width, m.height) <= MARKS.most * MARKS.cells &&
        Math.max(m.width, m.height) >= MARKS.least * MARKS.cells,
    )
    .map((m) => m.area / Math.max(1, m.width + m.height - 1));
  return thick.length > 0 ? Math.ceil(Math.max(...thick) * cell * 1.6 + 5) : 0;
}
