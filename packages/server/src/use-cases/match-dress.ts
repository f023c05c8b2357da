/** Match all: the plate is looked through for what a dress needs, while the person waits and sees how far it is. */
import type { Response } from 'express';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { findShot } from './create-shot';
import { readyPlate } from './ready-plate';
import { findScreen } from './save-screen';

/**
 * Writes JSON lines to `res`: how many frames are done of how many, and last the proposals. @throws ApiError before the
 * first line
 */
export async function matchDress(c: Context, screenId: number, res: Response): Promise<void> {
  const screen = await findScreen(c, screenId);
  const shot = await findShot(c, screen.shotId);
  const plate = await readyPlate(c, screen.shotId);
  const track = await c.readers.track(screen, plate.media.hash);
  const places =
    track.frames.length > 0
      ? track.frames.map(({ frame, corners, homography }) => ({ frame, corners, homography }))
      : [{ frame: screen.recipe.referenceFrame, corners: screen.recipe.pin, homography: [1, 0, 0, 0, 1, 0, 0, 0, 1] }];
  const first = Math.max(shot.rangeFrom, places[0]!.frame);
  const last = Math.min(shot.rangeTo, places.at(-1)!.frame);
  if (last < first)
    throw new ApiError(
      422,
      'not-followed',
      'The Screen is not followed inside the working range; widen the range, or follow it there.',
    );
  const total = last - first + 1;
  const line = (value: object): void => {
    if (!res.headersSent) res.writeHead(200, { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' });
    res.write(`${JSON.stringify(value)}\n`);
  };
  const outcome = await c.desk.ask(
    {
      kind: 'match',
      ...plate,
      recipe: screen.recipe,
      places,
      shutter: track.shutter?.share ?? null,
      lens: track.lens ?? 0,
      from: first,
      to: last,
    },
    (report) => {
      if (report.type === 'progress') line({ done: report.done, total });
    },
    (leave) => res.on('close', leave),
  );
  if (outcome.kind === 'match') line({ proposals: outcome.proposals });
  res.end();
}
