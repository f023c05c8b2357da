/** What the plate tells of a part of a dress, to be taken or refused. */
import type { DressRecipe } from '../layer/recipe';

/** Parts of a dress that can be proposed. */
export const PARTS = [
  'levels',
  'softness',
  'motionBlur',
  'edge',
  'glare',
  'grain',
  'holdouts',
  'spill',
  'rim',
] as const;

export interface Proposal {
  readonly part: (typeof PARTS)[number];
  /** what was measured, as a sentence */
  readonly told: string;
  readonly recipe: Partial<DressRecipe>;
}

/** A number as it is written into a recipe. */
export const round = (v: number, digits = 4): number => Number(v.toFixed(digits));

/** Values by frame from the frames that told, joined by straight lines. @param list not empty, in any order */
export function perFrame(list: readonly { readonly frame: number; readonly value: number }[]): {
  from: number;
  values: number[];
} {
  const sorted = [...list].sort((a, b) => a.frame - b.frame);
  const from = sorted[0]!.frame;
  const values: number[] = [];
  for (let i = 0, n = from; n <= sorted.at(-1)!.frame; n++) {
    while (i + 1 < sorted.length && sorted[i + 1]!.frame <= n) i++;
    const a = sorted[i]!;
    const b = sorted[i + 1] ?? a;
    const t = b.frame === a.frame ? 0 : (n - a.frame) / (b.frame - a.frame);
    values.push(round(a.value + t * (b.value - a.value), 3));
  }
  return { from, values };
}
