/**
 * Takes jobs from the table and runs them in worker threads. A claim is a lease with a fencing token: a heartbeat keeps
 * it, every write carries it, and a run whose lease went to another server writes nothing more. Solved frames are
 * committed in small batches together with the follower's memory, so a killed server loses at most a batch.
 */
import type { MessagePort } from 'node:worker_threads';
import { MessageChannel } from 'node:worker_threads';
import { rm } from 'node:fs/promises';
import type { Logger } from 'pino';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { ScreenFile } from '@yarlop/contracts/validate';
import { ApiError } from './api-error';
import type { Context } from './context';
import type { JobRow, MediaRow } from './rows';
import { withoutInput } from './rows';
import * as jobs from './sql/jobs';
import * as media from './sql/media';
import { LONG_KINDS, kindOf } from './use-cases/job-kinds';
import type { ClaimedJob, Wanted } from './use-cases/lease';
import { claimJob, underLease } from './use-cases/lease';
import { storeFrames } from './use-cases/store-frames';
import { storeOutcome } from './use-cases/store-outcome';
import type { Word } from './worker-line';
import { listen } from './worker-line';
import { WorkerPool } from './worker-pool';
import type { Outcome, Task } from './worker-protocol';

/** ms between the heartbeats of a run; a lease lasts 4 s (sql/jobs.ts). */
const BEAT_MS = 300;
/** ms between looks for work that nobody told of. */
const POLL_MS = 1500;
/** Attempts after which a job is given up: it may be what ends the server. */
const MOST_ATTEMPTS = 4;

interface Running extends Pick<ClaimedJob, 'kind' | 'visitor'> {
  readonly cancel: Int32Array;
  readonly ended: Promise<void>;
}

export class Runner {
  private readonly workers: WorkerPool;
  private readonly running = new Map<number, Running>();
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private again = false;
  private stopping = false;
  /** of long work, what was begun last */
  private lastLong: Pick<ClaimedJob, 'kind' | 'visitor'> | null = null;

  constructor(
    private readonly c: Context,
    private readonly log: Logger,
  ) {
    this.workers = new WorkerPool(c.config.workerMb, log);
  }

  /** For whoever looks after the server. */
  get state(): { readonly slots: number; readonly running: number; readonly ended: number } {
    return { slots: this.workers.slots, running: this.running.size, ended: this.workers.ended };
  }

  start(): void {
    this.timer = setInterval(() => this.wake(), POLL_MS);
    this.wake();
  }

  wake(): void {
    if (this.looking) this.again = true;
    else
      this.looking = this.look()
        .catch((e: unknown) => this.log.error(e, 'claiming failed'))
        .finally(() => {
          this.looking = null;
          if (this.again) {
            this.again = false;
            this.wake();
          }
        });
  }

  /** One slot is kept free of long work, so that reading in never waits for it; kinds of long work, and visitors, take turns. */
  private wanted(): Wanted {
    const running = [...this.running.values()];
    const isFull = running.filter((r) => kindOf(r).isLong).length >= this.workers.slots - 1;
    const turns = this.lastLong ? [...running, this.lastLong] : running;
    return {
      busy: turns.map((r) => r.kind),
      served: turns.map((r) => r.visitor).filter((v) => v !== ''),
      barred: isFull ? LONG_KINDS : [],
    };
  }

  private async look(): Promise<void> {
    while (!this.stopping && this.running.size < this.workers.slots) {
      const job = await claimJob(this.c.db, this.wanted());
      if (!job) return;
      if (kindOf(job).isLong) this.lastLong = job;
      const cancel = new Int32Array(new SharedArrayBuffer(4));
      const ended = this.run(job, cancel)
        .catch((e: unknown) => this.log.error(e, `job ${job.id} failed`))
        .finally(() => {
          this.running.delete(job.id);
          this.wake();
        });
      this.running.set(job.id, { kind: job.kind, visitor: job.visitor, cancel, ended });
    }
  }

  /** Tells browsers how a job stands. */
  async tell(id: number): Promise<void> {
    const job = await this.c.db.one<JobRow>(jobs.findJob, [id]);
    if (!job) return;
    this.c.events.emit('job', withoutInput(job));
    if (job.deliveryId) this.c.events.emit('deliveries', { shotId: job.shotId! });
  }

  private async taskOf(job: JobRow): Promise<Task> {
    const row = await this.c.db.one<MediaRow>(media.findMedia, [job.mediaHash!]);
    return kindOf(job).ready(this.c, job, row!);
  }

  private async run(job: JobRow, cancel: Int32Array): Promise<void> {
    const refuse = (message: string): Promise<void> =>
      this.finish(job, null, { kind: 'failed', message }, job.framesDone);
    if (job.attempt > MOST_ATTEMPTS) return refuse('The job ended the server several times and was given up.');
    await this.tell(job.id);
    const task = await this.taskOf(job).catch((e: unknown) => {
      if (e instanceof ApiError) return e;
      throw e;
    });
    return task instanceof ApiError ? refuse(task.message) : this.work(job, task, cancel);
  }

  /** A job in its worker, until it ends or is ended. */
  private async work(job: JobRow, task: Task, cancel: Int32Array): Promise<void> {
    const { port1, port2 } = new MessageChannel();
    const stop = (): void => {
      Atomics.store(cancel, 0, 1);
    };
    const heard = this.hear(job, task, port1, stop);
    const beat = setInterval(() => void this.beat(job, heard.done(), stop).catch(() => {}), BEAT_MS);
    try {
      const outcome = await this.workers.run({ task, port: port2, cancel: cancel.buffer as SharedArrayBuffer });
      // Closed already, unless its worker died.
      port2.close();
      if (!(await heard.whole())) return;
      if (this.stopping && outcome.kind === 'cancelled') return await this.handBack(job);
      await this.finish(job, task, outcome, heard.done());
    } finally {
      clearInterval(beat);
      port1.close();
    }
  }

  /**
   * Stores and passes on what a worker says of a job. @param stop ends the job
   * @returns the frames that are done, and whether all that was said could be stored, once it is
   */
  private hear(
    job: JobRow,
    task: Task,
    port: MessagePort,
    stop: () => void,
  ): { readonly done: () => number; readonly whole: () => Promise<boolean> } {
    let done = job.framesDone;
    let writes = Promise.resolve();
    // What comes after a batch that could not be stored would leave a hole before it.
    let isBroken = false;
    const allHeard = listen(port, (word) => {
      done = word.done;
      if (word.type === 'points')
        this.c.events.emit('points', { shotId: job.shotId!, frame: word.frame, places: word.places });
      if (word.type !== 'frames') return;
      writes = writes
        .then(() => (isBroken ? undefined : this.store(job, task, word)))
        .catch((e: unknown) => {
          this.log.error(e, 'frames could not be stored; the job goes on from its last checkpoint');
          isBroken = true;
          stop();
        });
    });
    const whole = async (): Promise<boolean> => {
      await allHeard;
      await writes;
      return !isBroken;
    };
    return { done: () => done, whole };
  }

  /** A sign of life under the lease; ends the job where it is wanted no more, or another server has it. */
  private async beat(job: JobRow, done: number, stop: () => void): Promise<void> {
    const { db, events } = this.c;
    const row = await db.one<{ wanted: number }>(jobs.cancelWanted, [job.id, job.token]);
    if (!row || row.wanted) stop();
    const held = await underLease(db, job, async (t) => {
      await t.run(jobs.beat, [done, job.id]);
    });
    if (!held) return;
    events.emit('job', {
      id: job.id,
      kind: job.kind,
      state: 'running',
      framesDone: done,
      framesTotal: job.framesTotal,
      shotId: job.shotId,
      screenId: job.screenId,
      mediaHash: job.mediaHash,
      deliveryId: job.deliveryId,
      message: null,
    });
  }

  /** One batch: frames, the follower's memory and the heartbeat in one transaction, under the job's token. */
  private async store(job: JobRow, task: Task, report: Extract<Word, { type: 'frames' }>): Promise<void> {
    const held = await underLease(this.c.db, job, async (t) => {
      await t.run(jobs.beat, [report.done, job.id]);
      await storeFrames(t, job, report);
      if (report.checkpoint) await t.run(jobs.progressed, [job.id]);
    });
    if (!held) throw new Error(`job ${job.id} lost its lease`);
    const { pin } = (task as { recipe: ScreenFile }).recipe;
    this.c.events.emit('frames', {
      shotId: job.shotId!,
      screenId: job.screenId!,
      solveId: job.solveId!,
      frames: report.results.map(({ frame, homography, sigma, trust, evidence, blur, reason }) => ({
        frame,
        homography,
        sigma,
        trust,
        evidence,
        blur,
        reason,
        corners: homography && mapQuad(homography, pin),
      })),
    });
  }

  /** The next start goes on with it. */
  private async handBack(job: JobRow): Promise<void> {
    await underLease(this.c.db, job, async (t) => {
      await t.run(jobs.handBack, [job.id]);
    });
  }

  private async finish(job: JobRow, task: Task | null, outcome: Outcome, done: number): Promise<void> {
    const state = await storeOutcome(this.c.db, job, task, outcome, done);
    if (!state) return this.log.warn(`job ${job.id} lost its lease; another run of it goes on`);
    if (job.deliveryId && state === 'cancelled')
      await rm(this.c.storage.delivery(job.deliveryId), { recursive: true, force: true });
    kindOf(job).tell?.(this.c, job, outcome);
    await this.tell(job.id);
  }

  /** Asks a run of this server to stop before its next frame; others see the wish in the table. */
  cancelNow(id: number): void {
    const r = this.running.get(id);
    if (r) Atomics.store(r.cancel, 0, 1);
  }

  /** Lets running jobs store what they have; they go on after the next start. */
  async stop(): Promise<void> {
    this.stopping = true;
    if (this.timer) clearInterval(this.timer);
    for (const r of this.running.values()) Atomics.store(r.cancel, 0, 1);
    await Promise.race([
      Promise.all([...this.running.values()].map((r) => r.ended)),
      new Promise((resolve) => setTimeout(resolve, 4000)),
    ]);
    await this.workers.close();
  }
}
