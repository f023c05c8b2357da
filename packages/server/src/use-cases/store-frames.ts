/** A batch of followed frames, and the follower's memory of them, into the solves that they belong to. */
import type { Executor } from '../database';
import type { JobRow } from '../rows';
import * as solves from '../sql/solves';
import type { Report } from '../worker-protocol';
import { placesOf, solveAt } from './follow-task';
import { frameValues } from './frame-values';

/** @param t in a transaction under the job's token */
export async function storeFrames(
  t: Executor,
  job: JobRow,
  { results, isSteadied, checkpoint, direction, isAnew }: Extract<Report, { type: 'frames' }>,
): Promise<void> {
  const places = placesOf(job);
  for (const r of results) {
    const seen = { cells: r.cells ?? [], spots: r.spots ?? [] };
    await t.run(solves.putFrame, frameValues(solveAt(places, r.frame, isSteadied), { ...r, seen }));
  }
  if (!checkpoint) return;
  const id = solveAt(places, checkpoint.frame, isSteadied);
  // A run over frames that were followed before leaves the farther memory as it is.
  const statement = isAnew ? solves.checkpoint : solves.fartherCheckpoint;
  await t.run(statement[direction], [JSON.stringify(checkpoint), id, ...(isAnew ? [] : [checkpoint.frame])]);
}
