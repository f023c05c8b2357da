/** What the end of a job leaves behind: its result and its state, in one transaction under the job's token. */
import type { Database, Executor } from '../database';
import type { JobRow } from '../rows';
import * as jobs from '../sql/jobs';
import type { Outcome, Task } from '../worker-protocol';
import { kindOf } from './job-kinds';
import { underLease } from './lease';

export type EndState = 'done' | 'failed' | 'cancelled' | 'paused';

/** `cancel_wanted` of a job that is to be paused. */
const PAUSE = 2;

async function endState(t: Executor, job: JobRow, outcome: Outcome): Promise<EndState> {
  if (outcome.kind === 'failed') return 'failed';
  if (outcome.kind !== 'cancelled') return 'done';
  const row = await t.one<{ wanted: number }>(jobs.cancelWanted, [job.id, job.token]);
  return row?.wanted === PAUSE ? 'paused' : 'cancelled';
}

function framesDone(outcome: Outcome, reported: number): number {
  if ('done' in outcome) return outcome.done;
  return outcome.kind === 'ingest' ? outcome.frameCount : reported;
}

/**
 * @param reported frames that the job said it had done
 * @returns how it ended, or null when the lease was lost and nothing was stored
 */
export async function storeOutcome(
  db: Database,
  job: JobRow,
  task: Task | null,
  outcome: Outcome,
  reported: number,
): Promise<EndState | null> {
  let state: EndState = 'done';
  const held = await underLease(db, job, async (t) => {
    state = await endState(t, job, outcome);
    const message = outcome.kind === 'failed' || outcome.kind === 'follow' ? outcome.message : null;
    const kind = kindOf(job);
    if (outcome.kind === job.kind) await kind.store?.(t, job, outcome, task);
    else if (state !== 'done') await kind.storeFailure?.(t, job, message);
    await t.run(jobs.finish, [state, message, framesDone(outcome, reported), job.id]);
  });
  return held ? state : null;
}
