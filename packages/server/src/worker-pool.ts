/**
 * The threads that jobs run in: as many as cores and memory allow, each with a limit of its own. One that dies fails its
 * job alone and is replaced.
 */
import { availableParallelism, totalmem } from 'node:os';
import type { Logger } from 'pino';
import type { Piscina } from 'piscina';
import { FOR_A_JOB } from './give-way';
import { threadPool } from './thread-pool';
import type { Call, Outcome } from './worker-protocol';

/** Jobs at once, at the least: one a core of the smallest machine. */
const LEAST_SLOTS = 2;
/** And at the most: jobs use threads of their own, so that more are seldom of use. By trial. */
const MOST_SLOTS = 6;
/** MB of memory that a job is reckoned to need. By trial. */
const MB_A_JOB = 1500;
/** Ms after which a thread without work is let go. */
const IDLE = 30_000;

const OUT_OF_MEMORY = 'ERR_WORKER_OUT_OF_MEMORY';

/** By cores and memory. */
function slotsHere(): number {
  const byMemory = Math.floor(totalmem() / 2 ** 20 / MB_A_JOB);
  return Math.max(LEAST_SLOTS, Math.min(MOST_SLOTS, availableParallelism(), byMemory));
}

/** What is said of a job whose worker ended under it. */
function whyEnded(e: unknown): string {
  const isMemory = (e as NodeJS.ErrnoException).code === OUT_OF_MEMORY;
  return isMemory
    ? 'This took more memory than a job may have; try it on fewer frames or a smaller picture. Nothing else was affected.'
    : 'The worker that did this ended unexpectedly; start it again. Nothing else was affected.';
}

export class WorkerPool {
  readonly slots = slotsHere();
  /** workers that ended under a job */
  ended = 0;
  private pool: Piscina<Call, Outcome>;
  private isClosing = false;
  /** why pools were given up */
  private readonly givenUp = new WeakMap<Piscina<Call, Outcome>, unknown>();

  /** @param mb that the objects of a worker may take up */
  constructor(
    private readonly mb: number,
    private readonly log: Logger,
  ) {
    this.pool = this.open();
  }

  private open(): Piscina<Call, Outcome> {
    const threads = { program: 'worker', most: this.slots, givesWay: FOR_A_JOB, idle: IDLE, mb: this.mb } as const;
    const pool = threadPool<Call, Outcome>(threads, this.log, (e) => {
      if (pool.queueSize > 0) this.renew(pool, e);
    });
    return pool;
  }

  /** A pool whose workers do not come to stand starts no more of them: what waits in it fails, another takes its place. */
  private renew(pool: Piscina<Call, Outcome>, e: unknown): void {
    if (this.pool !== pool || this.isClosing) return;
    this.pool = this.open();
    this.givenUp.set(pool, e);
    void pool.destroy();
  }

  /** Never rejects: a worker that died is an outcome too. */
  async run(call: Call): Promise<Outcome> {
    const { pool } = this;
    try {
      return await pool.run(call, { transferList: [call.port] });
    } catch (e) {
      if (this.isClosing) return { kind: 'cancelled' };
      this.ended++;
      this.log.error(e, 'a worker ended under its job');
      return { kind: 'failed', message: whyEnded(this.givenUp.get(pool) ?? e) };
    }
  }

  async close(): Promise<void> {
    this.isClosing = true;
    await this.pool.destroy();
  }
}
