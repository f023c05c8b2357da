import type { Requests } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { DeliveryRow, ScreenRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as jobs from '../sql/jobs';
import * as screens from '../sql/screens';
import { findShot } from './create-shot';
import { readTrack } from './solve';

type Settings = NonNullable<Requests['deliver']>;

/** A name that every file system takes. */
export function safeName(name: string): string {
  return name.normalize('NFKD').replace(/[^\w.-]+/g, '-').replace(/^[-.]+|[-.]+$/g, '').slice(0, 80) || 'shot';
}

const ENDING = { csv: 'csv', json: 'json', mp4: 'mp4', png: 'zip' } as const;

export async function startDelivery(c: Context, shotId: number, settings: Settings): Promise<DeliveryRow> {
  const shot = await findShot(c, shotId), all = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  if (all.length === 0) throw new ApiError(422, 'nothing', 'The shot has no Screen yet; set a pin first.');
  const tracks = await Promise.all(all.map((s) => readTrack(c, s, shot.mediaHash)));
  if (tracks.every((t) => t.frames.length === 0)) throw new ApiError(422, 'nothing', 'No Screen of the shot has been followed yet; follow it first.');
  const picture = settings.as === 'mp4' || settings.as === 'png';
  if (picture && !all.some((s) => s.recipe.fill)) throw new ApiError(422, 'nothing', 'No Screen of the shot has a fill; choose one in Dress first.');
  const revision = all.reduce((sum, s) => sum + s.revision, 0);
  const fileName = `${safeName(shot.name)}-r${revision}.${ENDING[settings.as]}`;
  const id = await c.db.transaction(async (t) => {
    const { insertId } = await t.run(deliveries.insertDelivery, [shotId, JSON.stringify(settings), revision, fileName]);
    const input = { settings, fileName, recipes: all.map((s) => ({ id: s.id, revision: s.revision, recipe: s.recipe })), range: [shot.rangeFrom, shot.rangeTo] };
    await t.run(jobs.insertJob, ['deliver', shot.mediaHash, shotId, null, null, insertId, JSON.stringify(input), picture ? shot.rangeTo - shot.rangeFrom + 1 : 1]);
    return insertId;
  });
  c.wake();
  c.events.emit('deliveries', { shotId });
  return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [id]))!;
}
