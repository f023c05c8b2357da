/** The order in which Screens are followed: a run waits for earlier ones of what its Screen ignores. */
import type { Recipe } from '../types';

interface Named {
  readonly recipe: Pick<Recipe, 'name' | 'ignores'>;
}

/** Each after those that it ignores; where two ignore one another, in the order in which they stand. */
export function inRunOrder<T extends Named>(screens: readonly T[]): T[] {
  const out: T[] = [];
  const place = (s: T, asking: readonly T[]): void => {
    if (out.includes(s) || asking.includes(s)) return;
    for (const other of screens) if (s.recipe.ignores?.includes(other.recipe.name)) place(other, [...asking, s]);
    out.push(s);
  };
  for (const s of screens) place(s, []);
  return out;
}
