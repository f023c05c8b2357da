/** What passes in front of a Screen: the runs of what its recipe ignores. */
import type { Passing } from '@yarlop/core/follow/outline/outlines';
import type { CarriedFrame } from '@yarlop/pipeline/carried';
import { passingOf } from '@yarlop/pipeline/carried';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import { listScreens } from '../sql/screens';

/** @param track of another Screen of the shot; one that was not followed hides nothing */
export async function passingBefore(
  c: Pick<Context, 'db'>,
  { id, shotId, recipe: { ignores = [] } }: Pick<ScreenRow, 'id' | 'shotId' | 'recipe'>,
  track: (screen: ScreenRow) => Promise<{ readonly frames: readonly CarriedFrame[] }>,
): Promise<Passing[]> {
  if (ignores.length === 0) return [];
  const all = await c.db.all<ScreenRow>(listScreens, [shotId]);
  const named = all.filter((s) => s.id !== id && ignores.includes(s.recipe.name));
  return Promise.all(named.map(async (s) => passingOf(s.recipe, (await track(s)).frames)));
}
