/** How the server stands, for whoever looks after it: the database, the disk, the queue, the workers, its own thread. */
import { monitorEventLoopDelay } from 'node:perf_hooks';
import type { Context } from '../context';
import { freeBytes } from '../free-bytes';
import * as jobs from '../sql/jobs';

/** Ms in which the database must answer to count as well. */
const DATABASE_ANSWERS = 2000;
/** Ms between looks at the server's own thread. */
const RESOLUTION = 5;

/** How long the server's own thread kept others waiting, since somebody asked last. */
const delay = monitorEventLoopDelay({ resolution: RESOLUTION });
delay.enable();

const NANOSECONDS_A_MS = 1e6;
/** Ms beyond the time between two looks. */
const beyond = (ns: number): number => Math.max(0, Math.round(ns / NANOSECONDS_A_MS - RESOLUTION));

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
  /** ms that the server's own thread kept others waiting since this was asked last: 99 of 100 looks stayed below, and the longest */
  readonly thread: { readonly p99: number; readonly longest: number };
  readonly memoryBytes: number;
  readonly upSeconds: number;
}

export async function healthOf(c: Context, workers: Health['workers']): Promise<Health> {
  const isThere = await c.db.answers(DATABASE_ANSWERS);
  const queue = isThere ? await c.db.one<NonNullable<Health['queue']>>(jobs.queueState) : null;
  const free = await freeBytes(c.config.data);
  const disk = { ok: free > c.config.reserve, freeBytes: free };
  const thread = { p99: beyond(delay.percentile(99)), longest: beyond(delay.max) };
  delay.reset();
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
    thread,
    memoryBytes: process.memoryUsage.rss(),
    upSeconds: Math.round(process.uptime()),
  };
}
