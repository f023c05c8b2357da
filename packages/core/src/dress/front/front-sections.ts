/** Stretches of a shot on which a Screen shows the same. */
import { median, spread } from '../../statistics';
import type { CellField } from './cell-field';
import type { SeenCells } from './front-light';
import { LIT, NO_GAIN, inUsualLight } from './front-light';

const SECTION = {
  /** Frames by which it is told what a section shows, and that it must have. By trial. */
  few: 9,
  least: 6,
  /** Of the glass that must change at once where another picture is shown. By trial. */
  share: 0.3,
  /** Levels of 255 by which a cell changes then. By trial. */
  levels: 9,
} as const;

/** Whether the glass shows something else, and not the same in another light. @param a levels */
function isOther(a: Float32Array, b: Float32Array, { inside }: CellField): boolean {
  const ratios: number[] = [];
  for (let k = 0; k < a.length; k++)
    if (inside[Math.floor(k / 3)] && a[k]! > LIT && b[k]! > 0) ratios.push(b[k]! / a[k]!);
  const gain = ratios.length > 0 ? median(ratios) : 1;
  let changed = 0;
  let seen = 0;
  for (let k = 0; k < inside.length; k++) {
    if (!inside[k] || Number.isNaN(a[3 * k]!) || Number.isNaN(b[3 * k]!)) continue;
    seen++;
    if ([0, 1, 2].some((c) => Math.abs(gain * a[3 * k + c]! - b[3 * k + c]!) > SECTION.levels)) changed++;
  }
  return seen > 0 && changed > SECTION.share * seen;
}

/** Median of what frames show in each cell, levels of 255; NaN where less than `least` see it. */
export function usualOf(frames: readonly Float32Array[], least: number): Float32Array {
  const room = new Float64Array(frames.length);
  return frames[0]!.map((_, k) => {
    let n = 0;
    for (const f of frames) if (!Number.isNaN(f[k]!)) room[n++] = f[k]!;
    return n >= least ? median(room.subarray(0, n)) : NaN;
  });
}

/**
 * Cuts a shot where most of the glass shows something else at once, and goes on doing so: what shows the same before and
 * after something passed is one section, with what lies between.
 */
export function sectionsOf(all: readonly SeenCells[], field: CellField): SeenCells[][] {
  const levels = all.map(({ cells }) => inUsualLight(cells, NO_GAIN));
  const runs: number[][] = [];
  for (let i = 0; i < all.length; i++) {
    if (i === 0 || isOther(levels[i - 1]!, levels[i]!, field)) runs.push([]);
    runs.at(-1)!.push(i);
  }
  const sections: number[][] = [];
  let shown: Float32Array | null = null;
  let waiting: number[] = [];
  for (const run of runs) {
    waiting.push(...run);
    if (run.length < SECTION.least) continue;
    const usual = usualOf(
      spread(run, SECTION.few).map((i) => levels[i]!),
      SECTION.least,
    );
    if (shown && !isOther(shown, usual, field)) sections.at(-1)!.push(...waiting);
    else sections.push(waiting);
    waiting = [];
    shown = usual;
  }
  if (sections.length === 0) sections.push([]);
  sections.at(-1)!.push(...waiting);
  return sections.map((s) => s.map((i) => all[i]!));
}
