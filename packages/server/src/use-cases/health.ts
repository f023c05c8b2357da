/** How the server stands, for whoever looks after it: the database, the disk, the queue, the workers, its own thread. */
import type { Context } from '../context';
import { freeBytes } from '../free-bytes';
import type { Kept } from '../own-thread';
import { OwnThread } from '../own-thread';
import * as jobs from '../sql/jobs';

/** Ms in which the database must answer to count as well. */
const DATABASE_ANSWERS = 2000;
const ownThread = new OwnThread();

export interface Health {
  readonly ok: boolean;
  readonly database: { readonly ok: boolean };
  readonly disk: { readonly ok: boolean; readonly freeBytes: number };
  /** null while the database does not answer */
  readonly queue: {
    readonly waiting: number;
    readonly running: number;
    /** of the job that waits longest; 0 without one */
    readonly oldestSeconds: number;
  } | null;
  /** slots, jobs in them, workers that ended under a job */
  readonly workers: { readonly slots: number; readonly running: number; readonly ended: number };
  /** since this was asked last */
  readonly thread: Kept;
  readonly memoryBytes: number;
  readonly upSeconds: number;
}

export async function healthOf(c: Context, workers: Health['workers']): Promise<Health> {
  const isThere = await c.db.answers(DATABASE_ANSWERS);
  const queue = isThere ? await c.db.one<NonNullable<Health['queue']>>(jobs.queueState) : null;
  const free = await freeBytes(c.config.data);
  const disk = { ok: free > c.config.reserve, freeBytes: free };
  return {
    ok: isThere && disk.ok,
    database: { ok: isThere },
    disk,
    queue: queue && {
      waiting: Number(queue.waiting),
      running: Number(queue.running),
      oldestSeconds: Number(queue.oldestSeconds),
    },
    workers,
    thread: ownThread.take(),
    memoryBytes: process.memoryUsage.rss(),
    upSeconds: Math.round(process.uptime()),
  };
}
