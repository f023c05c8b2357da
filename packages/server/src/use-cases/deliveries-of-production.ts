/** All deliveries of a production, and the revision that each would be made from now. */
import type { Context } from '../context';
import type { DeliveryRow, ScreenRow } from '../rows';
import { listOfProduction } from '../sql/deliveries';
import { listScreensOfProduction } from '../sql/screens';
import type { DeliverSettings } from '../worker-protocol';
import { deliveredScreens, revisionOf } from './delivered-screens';

interface Row extends DeliveryRow {
  readonly shotName: string;
}

/** The newest first. */
export async function deliveriesOfProduction(
  { db }: Pick<Context, 'db'>,
  production: number,
): Promise<(Row & { readonly latest: number })[]> {
  const rows = await db.all<Row>(listOfProduction, [production]);
  const screens = await db.all<ScreenRow>(listScreensOfProduction, [production]);
  return rows.map((d) => {
    const own = screens.filter((s) => s.shotId === d.shotId);
    return { ...d, latest: revisionOf(deliveredScreens(own, d.settings as unknown as DeliverSettings)) };
  });
}
