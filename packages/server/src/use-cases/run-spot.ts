/**
 * A spot's own run: short and looked at while it goes, so that it is answered as it is worked, a line a frame, and ends
 * when nobody listens any more. The places belong to the recipe, which the person's page saves.
 */
import type { Response } from 'express';
import type { Requests } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { readyPlate } from './ready-plate';
import { findScreen } from './save-screen';

/** Writes one JSON line a frame to `res`. @throws ApiError before the first line */
export async function runSpot(
  c: Context,
  screenId: number,
  { spot, start, end }: NonNullable<Requests['spotRun']>,
  res: Response,
): Promise<void> {
  const { recipe, shotId } = await findScreen(c, screenId);
  const plate = await readyPlate(c, shotId, start, end);
  if (!recipe.spots?.[spot])
    throw new ApiError(422, 'out-of-range', `The Screen has no spot ${spot + 1}; it may not be saved yet.`);
  const begin = (): void => {
    if (!res.headersSent) res.writeHead(200, { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' });
  };
  await c.desk.ask(
    { kind: 'spot', ...plate, recipe, spot, start, end },
    (report) => {
      if (report.type !== 'spot') return;
      begin();
      res.write(`${JSON.stringify(report.word)}\n`);
    },
    (leave) => res.on('close', leave),
  );
  begin();
  res.end();
}
