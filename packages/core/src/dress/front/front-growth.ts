/**
 * What stays where it is before a picture: it is part of what the plane usually shows, so that only its colour tells of
 * it. It is followed from places at which something lies over the whole bezel, as far as its colour goes on.
 */
import type { CellField } from './cell-field';

const GROWTH = {
  /** Levels of 255 by which neighbouring cells of one thing may differ, and by which it may differ from where it began. By trial. */
  step: 10,
  whole: 45,
  /** Of the glass that it may take from one place; more is the picture itself. By trial. */
  most: 0.12,
  /** Of the glass that it may take beyond as much as was known before. By trial. */
  alone: 0.06,
} as const;

/** A frame's cells. */
export interface Coloured {
  /** RGB, levels of 255; NaN where they are not seen */
  readonly levels: Float32Array;
  /** whether it is sure that a cell shows what lies behind */
  readonly isBehind: (cell: number) => boolean;
}

function isNear(levels: Float32Array, a: number, b: number, most: number): boolean {
  for (let c = 0; c < 3; c++) if (!(Math.abs(levels[3 * a + c]! - levels[3 * b + c]!) <= most)) return false;
  return true;
}

/** Cells of the seed's colour that hang together with it, without it; none where that goes too far. */
function flood(seed: number, taken: Uint8Array, { levels, isBehind }: Coloured, field: CellField): number[] {
  const most = GROWTH.most * field.grid.columns * field.grid.rows;
  const met = new Set<number>([seed]);
  const list = [seed];
  field.reach(
    list,
    (from, to) => {
      if (met.has(to) || taken[to] || !field.inside[to] || isBehind(to)) return false;
      if (!isNear(levels, from, to, GROWTH.step) || !isNear(levels, seed, to, GROWTH.whole)) return false;
      met.add(to);
      return true;
    },
    most,
  );
  return list.length > most ? [] : list.slice(1);
}

/** Adds to a mask what goes on in its colour, unless that is much. @param seeds from which it is followed */
export function grownByColour(
  mask: Uint8Array,
  seeds: readonly number[],
  coloured: Coloured,
  field: CellField,
): Uint8Array {
  const out = mask.slice();
  let added = 0;
  for (const seed of seeds) {
    const more = flood(seed, out, coloured, field);
    for (const k of more) out[k] = 1;
    added += more.length;
  }
  const whole = field.grid.columns * field.grid.rows;
  return added > (field.share(mask) + GROWTH.alone) * whole ? mask : out;
}

/**
 * Cells of the ring next to the glass at which something that is no part of the bezel lies across all of it.
 * @param likely 2 where a cell surely shows something else than usual @param isTold whether it is known what it shows
 */
export function acrossBezel(likely: Uint8Array, isTold: (cell: number) => boolean, field: CellField): number[] {
  const lies = (cell: number): boolean => {
    const step = field.outwards(cell);
    if (step === null || likely[cell] !== 2) return false;
    for (let n = 1; n < field.grid.ring; n++) if (isTold(cell + n * step) && !likely[cell + n * step]) return false;
    return true;
  };
  const cells = Array.from(likely.keys()).filter(lies);
  // One cell alone is a camera or a button.
  return cells.filter((k) => cells.some((o) => Math.abs(o - k) === 1 || Math.abs(o - k) === field.width));
}
