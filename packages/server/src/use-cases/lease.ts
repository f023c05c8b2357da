/**
 * A claim on a job is a lease with a fencing token: each claim raises the token, and every write of a run goes through
 * {@link underLease}, which holds the job's row under that token until the write is committed. A run whose lease went
 * to another server (it stood still longer than its heartbeat allows) writes nothing more.
 */
import type { Database, Executor } from '../database';
import type { JobRow } from '../rows';
import * as jobs from '../sql/jobs';

export type Lease = Pick<JobRow, 'id' | 'token'>;

/** What a server looks for. */
export interface Wanted {
  /** kinds whose turn it was: others come first */
  readonly busy: readonly JobRow['kind'][];
  /** visitors whose turn it was: the same */
  readonly served: readonly string[];
  /** kinds that are left to others */
  readonly barred: readonly JobRow['kind'][];
}

/** A job, and whom it is for. */
export type ClaimedJob = JobRow & { readonly visitor: string };

/** Takes the next job that waits, or one whose server died. */
export function claimJob(
  db: Database,
  { busy, served, barred }: Wanted = { busy: [], served: [], barred: [] },
): Promise<ClaimedJob | null> {
  return db.transaction(async (t) => {
    const next = await t.one<{ id: number; visitor: string }>(jobs.claimable, [
      barred.join(','),
      busy.join(','),
      served.join(','),
    ]);
    if (!next) return null;
    await t.run(jobs.claim, [next.id]);
    return { ...(await t.one<JobRow>(jobs.findJob, [next.id]))!, visitor: next.visitor };
  });
}

/**
 * Runs `writes` in one transaction while this run holds the job.
 * @returns whether it still held it; if not, nothing was written
 */
export function underLease(db: Database, lease: Lease, writes: (t: Executor) => Promise<void>): Promise<boolean> {
  return db.transaction(async (t) => {
    const row = await t.one<Pick<JobRow, 'token' | 'state'>>(jobs.holdLease, [lease.id]);
    if (row?.token !== lease.token || row.state !== 'running') return false;
    await writes(t);
    return true;
  });
}
