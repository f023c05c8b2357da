/** Which Screens of a shot a delivery is of, and on whose planes their holdouts ride. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { planesRiddenOn } from '@yarlop/core/dress/layer/recipe';
import type { PlaneLayer } from '@yarlop/pipeline/render-frame';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import { listScreens } from '../sql/screens';
import type { DeliverSettings } from '../worker-protocol';

/** The one that was asked for; else all but carried outlines, which go along with a template alone. */
export function deliveredScreens(
  all: readonly ScreenRow[],
  { screen, as }: Pick<DeliverSettings, 'screen' | 'as'>,
): ScreenRow[] {
  if (screen !== undefined) return all.filter((s) => s.id === screen);
  return all.filter((s) => as === 'template' || !s.recipe.carried);
}

/** The revision that a delivery of these Screens is made from. */
export function revisionOf(screens: readonly Pick<ScreenRow, 'revision'>[]): number {
  return screens.reduce((sum, s) => sum + s.revision, 0);
}

/** Screens that show nothing themselves, on whose planes outlines of others ride. */
export async function planesOf(
  c: Pick<Context, 'db' | 'readers'>,
  shotId: number,
  mediaHash: string,
  recipes: readonly Pick<ScreenRow, 'recipe'>[],
): Promise<PlaneLayer[]> {
  const names = new Set(recipes.flatMap(({ recipe }) => [...planesRiddenOn((recipe.dress ?? {}) as DressRecipe)]));
  if (names.size === 0) return [];
  const all = await c.db.all<ScreenRow>(listScreens, [shotId]);
  return Promise.all(
    all
      .filter((s) => names.has(s.recipe.name))
      .map(async (s) => {
        const { frames } = await c.readers.track(s, mediaHash);
        const places = frames.map(({ frame, corners, homography }) => [frame, { corners, homography }] as const);
        return { screen: s.recipe, places: new Map(places) };
      }),
  );
}
