import { notFound } from '../api-error';
import type { Executor } from '../database';
import * as productions from '../sql/productions';

/** @throws ApiError where there is no such production, or it lies in the bin */
export async function findProduction(c: { readonly db: Pick<Executor, 'one'> }, id: number): Promise<object> {
  const production = await c.db.one<object>(productions.findProduction, [id]);
  if (!production) throw notFound('The production');
  return production;
}
