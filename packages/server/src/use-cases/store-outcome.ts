/** What the end of a job leaves behind: its result and its state, in one transaction under the job's token. */
import type { Database, Executor } from '../database';
import type { JobRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as jobs from '../sql/jobs';
import * as media from '../sql/media';
import * as proofs from '../sql/proofs';
import type { Outcome, ProveTask, Task } from '../worker-protocol';
import { storeCamera } from './camera';
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

async function storeResult(t: Executor, job: JobRow, task: Task | null, outcome: Outcome): Promise<void> {
  if (outcome.kind === 'ingest') {
    const { frameCount, notes, damaged } = outcome;
    await t.run(media.mediaReady, [frameCount, JSON.stringify(notes), JSON.stringify(damaged), job.mediaHash]);
    await t.run(media.clampRanges, [outcome.frameCount - 1, outcome.frameCount - 1, job.mediaHash]);
  }
  if (outcome.kind === 'camera') await storeCamera(t, job, outcome);
  if (outcome.kind === 'prove')
    await t.run(proofs.putProof, [(task as ProveTask).identity, JSON.stringify(outcome.frames), job.id]);
  if (outcome.kind === 'deliver') await t.run(deliveries.deliveryDone, [outcome.bytes, outcome.sha256, job.deliveryId]);
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
    await storeResult(t, job, task, outcome);
    if (job.kind === 'ingest' && state !== 'done')
      await t.run(media.mediaFailed, [message ?? 'Bringing it in was cancelled.', job.mediaHash]);
    await t.run(jobs.finish, [state, message, framesDone(outcome, reported), job.id]);
  });
  return held ? state : null;
}
