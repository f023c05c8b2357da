import { parseScreen } from '@yarlop/pipeline/screen-file';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import * as screens from '../sql/screens';
import { findShot } from './create-shot';

export async function findScreen(c: Context, id: number): Promise<ScreenRow> {
  const row = await c.db.one<ScreenRow>(screens.findScreen, [id]);
  if (!row) throw notFound('The Screen');
  return row;
}

async function checked(c: Context, shotId: number, value: unknown): Promise<string> {
  const recipe = parseScreen(value);
  const shot = await findShot(c, shotId);
  if (recipe.referenceFrame >= shot.frameCount)
    throw new ApiError(
      422,
      'out-of-range',
      `Reference frame ${recipe.referenceFrame} lies outside the plate, which has frames 0 to ${shot.frameCount - 1}.`,
    );
  return JSON.stringify(recipe);
}

export async function createScreen(c: Context, shotId: number, value: unknown): Promise<ScreenRow> {
  const recipe = await checked(c, shotId, value);
  const id = await c.db.transaction(async (t) => {
    await t.one(screens.lockShot, [shotId]);
    const { insertId } = await t.run(screens.insertScreen, [shotId, recipe, shotId]);
    await t.run(screens.insertRevision, [insertId, 1, recipe, 'New Screen']);
    return insertId;
  });
  return findScreen(c, id);
}

/**
 * Saves a recipe whole; `step` names what was done. @throws ApiError 409 with the newest revision when it was saved
 * elsewhere since
 */
export async function saveScreen(
  c: Context,
  id: number,
  revision: number,
  value: unknown,
  step: string | null,
): Promise<ScreenRow> {
  const before = await findScreen(c, id);
  const recipe = await checked(c, before.shotId, value);
  const saved = await c.db.transaction(async (t) => {
    const { affectedRows } = await t.run(screens.saveScreen, [recipe, id, revision]);
    if (affectedRows === 0) return false;
    await t.run(screens.insertRevision, [id, revision + 1, recipe, step]);
    return true;
  });
  if (!saved)
    throw new ApiError(
      409,
      'stale',
      `This Screen was saved elsewhere (it is at revision ${before.revision}, yours started from ${revision}); nothing was overwritten.`,
      before,
    );
  c.events.emit('screen', { id, revision: revision + 1 });
  return findScreen(c, id);
}

/** Sets which Screens stand before which. @throws ApiError 422 unless every Screen of the shot is named once */
export async function setDepthOrder(
  c: Context,
  shotId: number,
  order: readonly number[],
): Promise<readonly ScreenRow[]> {
  const all = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  const known = new Set(all.map((s) => s.id));
  if (order.length !== all.length || new Set(order).size !== order.length || !order.every((id) => known.has(id)))
    throw new ApiError(422, 'invalid', `The order must name each of the shot's ${all.length} Screens once.`);
  await c.db.transaction(async (t) => {
    for (const [i, id] of order.entries()) await t.run(screens.setDepth, [i + 1, id, shotId]);
  });
  return c.db.all<ScreenRow>(screens.listScreens, [shotId]);
}
