import type { ScreenFile } from '@yarlop/contracts/validate';

type FillFile = NonNullable<ScreenFile['fill']>;

/** Hashes of the files that a fill is made from: what is in the slot, what stands before it, and what its layers show. */
export function filesOfFill(fill: FillFile | undefined): string[] {
  const layers = (fill?.made?.layers ?? []).map((l) => (l.kind === 'picture' ? l.media : undefined));
  const named = [fill?.media, fill?.made?.foreground?.media, ...layers];
  return [...new Set(named.filter((hash) => hash !== undefined))];
}
