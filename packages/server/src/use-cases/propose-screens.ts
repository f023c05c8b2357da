/** Screens that are seen on a frame of a plate, for a shot whose person has set none yet. */
import type { ProposedScreen } from '@yarlop/core/propose/screens-seen';
import type { Context } from '../context';
import { readyPlate } from './ready-plate';

/** As many as a person looks through at a glance. */
const MOST = 3;

/** @returns the likeliest first; none where nothing looks like a screen @throws ApiError where the plate or frame is not there */
export async function proposeScreens(c: Context, shotId: number, frame: number): Promise<readonly ProposedScreen[]> {
  const plate = await readyPlate(c, shotId, frame);
  const original = c.storage.original(plate.media.hash);
  const outcome = await c.desk.ask({ kind: 'propose', ...plate, original, frame, most: MOST });
  return (outcome as Extract<typeof outcome, { kind: 'propose' }>).proposals;
}
