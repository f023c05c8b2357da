/** The light in which each frame shows a plane, against the one in which it is usually seen. */
import { median } from '../../statistics';
import { CURVES } from '../colour/transfer';
import { CELL_WHITE, UNSEEN } from './front-cells';

/** A frame's cells, see `cellsSeen`. */
export interface SeenCells {
  readonly frame: number;
  readonly cells: Uint16Array;
  /** cells by which the plane's movement smears it to each side */
  readonly smear: number;
  /** cells beyond the glass's edge that may still show it, as soft and as well placed as it is */
  readonly margin: number;
}

/** How much brighter each channel of a frame is than usual. */
export type Gain = readonly [number, number, number];

/** Levels of 255; darker cells tell nothing of the light. By trial. */
export const LIT = 6;

const LIGHTING = {
  /** Levels by which a cell that shows what is usual differs at the most. By trial. */
  agrees: 4,
  /** Of the cells that must agree for a light to be taken as it is. By trial. */
  share: 0.35,
  /** Entries of the table between light and levels. */
  entries: 4096,
} as const;

const { decode, encode } = CURVES.srgb;
const LIGHT = Float32Array.from({ length: CELL_WHITE + 1 }, (_, v) => decode(v / CELL_WHITE));
/** Levels by the square root of light, up to four times white, so that dark ones are as fine as bright ones. */
const BRIGHTEST = 2;
const LEVELS = Float32Array.from(
  { length: LIGHTING.entries + 1 },
  (_, i) => 255 * encode(((BRIGHTEST * i) / LIGHTING.entries) ** 2),
);

/** Levels of 255 of a cell's value as the frame would show it in usual light. */
function evened(value: number, gain: number): number {
  const at = (Math.sqrt(LIGHT[value]! / gain) * LIGHTING.entries) / BRIGHTEST;
  const i = Math.min(LIGHTING.entries - 1, at | 0);
  return LEVELS[i]! + Math.min(1, at - i) * (LEVELS[i + 1]! - LEVELS[i]!);
}

/** A frame's cells as they are in usual light, levels of 255; NaN where they are not seen. */
export function inUsualLight(cells: Uint16Array, gain: Gain): Float32Array {
  const out = new Float32Array(cells.length);
  for (let k = 0; k < cells.length; k++) out[k] = cells[k] === UNSEEN ? NaN : evened(cells[k]!, gain[k % 3]!);
  return out;
}

/** Nothing is brighter. */
export const NO_GAIN: Gain = [1, 1, 1];
/** From half to twice the light, in steps of 3 %: within the levels by which a cell agrees. */
const TRIED: readonly Gain[] = Array.from({ length: 47 }, (_, i): Gain => {
  const g = 1.03 ** (i - 23);
  return [g, g, g];
});

/** By the middle of its cells: right where less than half of them is covered. */
function middleGain(cells: Uint16Array, usual: Float32Array): Gain {
  return [0, 1, 2].map((c) => {
    const ratios: number[] = [];
    for (let k = c; k < cells.length; k += 3)
      if (cells[k] !== UNSEEN && usual[k]! > LIT) ratios.push(LIGHT[cells[k]!]! / decode(usual[k]! / 255));
    return ratios.length > 0 ? median(ratios) : 1;
  }) as unknown as Gain;
}

/** Share of the cells that show what is usual in a light. */
function agreeing(cells: Uint16Array, usual: Float32Array, gain: Gain): number {
  let n = 0;
  for (let k = 0; k < cells.length; k += 3) {
    if (cells[k] === UNSEEN || Number.isNaN(usual[k]!)) continue;
    let isLike = true;
    for (let c = 0; c < 3 && isLike; c++)
      isLike = Math.abs(evened(cells[k + c]!, gain[c]!) - usual[k + c]!) < LIGHTING.agrees;
    if (isLike) n++;
  }
  return n / (cells.length / 3);
}

/**
 * The light of every frame: of its own middle, of the frame before or after, or the usual one, that in which most cells
 * show what is usual; where that is few it is looked for. What covers most of a frame has no say by that.
 * @param usual levels of 255
 */
export function gainsOf(frames: readonly SeenCells[], usual: Float32Array): Map<number, Gain> {
  const gains = frames.map(({ cells }) => middleGain(cells, usual));
  const shares = frames.map(({ cells }, i) => agreeing(cells, usual, gains[i]!));
  const better = (i: number, others: readonly Gain[]): void => {
    for (const other of others) {
      const share = agreeing(frames[i]!.cells, usual, other);
      if (share > shares[i]!) [shares[i], gains[i]] = [share, other];
    }
  };
  for (let i = 0; i < frames.length; i++) better(i, [gains[i - 1] ?? NO_GAIN, NO_GAIN]);
  for (let i = frames.length - 2; i >= 0; i--) better(i, [gains[i + 1]!]);
  for (let i = 0; i < frames.length; i++) if (shares[i]! < LIGHTING.share) better(i, TRIED);
  return new Map(frames.map(({ frame }, i) => [frame, gains[i]!]));
}
