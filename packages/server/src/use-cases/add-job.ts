/** Work for the runner: every job is put into the table here, with whom it is for. */
import type { Executor } from '../database';
import type { JobRow } from '../rows';
import * as jobs from '../sql/jobs';
import { visitorNow } from '../visitor-now';

/** What a job is about; what is left out it does not touch. */
type NewJob = Pick<JobRow, 'kind' | 'mediaHash' | 'framesTotal'> &
  Partial<Pick<JobRow, 'shotId' | 'screenId' | 'solveId' | 'deliveryId'>> & {
    /** as JSON, for whoever makes it ready */
    readonly input?: object;
  };

/** @returns the job's number */
export async function addJob(db: Executor, job: NewJob): Promise<number> {
  const { insertId } = await db.run(jobs.insertJob, [
    job.kind,
    job.mediaHash,
    job.shotId ?? null,
    job.screenId ?? null,
    job.solveId ?? null,
    job.deliveryId ?? null,
    JSON.stringify(job.input ?? {}),
    job.framesTotal,
    visitorNow(),
  ]);
  return insertId;
}
