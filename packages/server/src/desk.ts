/**
 * Questions that are answered at once, while the person waits: threads of their own are kept for them, so that they
 * neither wait for jobs nor hold up the server's own thread, nor one long answer all the others.
 */
import { MessageChannel } from 'node:worker_threads';
import type { Piscina } from 'piscina';
import type { Logger } from 'pino';
import pLimit, { type LimitFunction } from 'p-limit';
import { ApiError } from './api-error';
import { FOR_A_PERSON } from './give-way';
import { threadPool } from './thread-pool';
import { visitorNow } from './visitor-now';
import type { Word } from './worker-line';
import { listen } from './worker-line';
import type { Call, DeskTask, Outcome } from './worker-protocol';

/** Questions that are worked on at once; large pictures take some hundred MB each. By trial. */
const THREADS = 3;
/** Of one visitor's, so that one remains for everybody else. */
const OF_ONE = THREADS - 1;
/** Ms after which a thread is let go. */
const IDLE = 30_000;

/** Of one visitor. */
interface Line {
  readonly inTurn: LimitFunction;
  /** not answered yet */
  asked: number;
}

export class Desk {
  private pool: Piscina<Call, Outcome> | null = null;
  /** by visitor, while something is asked */
  private readonly lines = new Map<string, Line>();

  constructor(private readonly log: Logger) {}

  /** A visitor's questions wait for each other, not for those of others. */
  private async inTurn<T>(work: () => Promise<T>): Promise<T> {
    const visitor = visitorNow();
    const line = this.lines.get(visitor) ?? { inTurn: pLimit(OF_ONE), asked: 0 };
    this.lines.set(visitor, line);
    line.asked++;
    try {
      return await line.inTurn(work);
    } finally {
      line.asked--;
      if (line.asked === 0) this.lines.delete(visitor);
    }
  }

  /**
   * @param hear told what the thread says on the way
   * @param left tells how the person leaves off: called with what ends the work
   * @throws ApiError with the sentence of what went wrong
   */
  async ask(
    task: DeskTask,
    hear: (word: Word) => void = () => {},
    left: (end: () => void) => void = () => {},
  ): Promise<Outcome> {
    const cancel = new SharedArrayBuffer(4);
    const flag = new Int32Array(cancel);
    left(() => Atomics.store(flag, 0, 1));
    const outcome = await this.inTurn(() => {
      const isLeft = Atomics.load(flag, 0) === 1;
      return isLeft ? Promise.resolve({ kind: 'cancelled' } as const) : this.answer(task, cancel, hear);
    });
    if (outcome.kind === 'failed') throw new ApiError(422, outcome.code ?? 'failed', outcome.message);
    return outcome;
  }

  private async answer(task: DeskTask, cancel: SharedArrayBuffer, hear: (word: Word) => void): Promise<Outcome> {
    const threads = { program: 'worker', most: THREADS, givesWay: FOR_A_PERSON, idle: IDLE } as const;
    const pool = (this.pool ??= threadPool(threads, this.log));
    const { port1, port2 } = new MessageChannel();
    const allHeard = listen(port1, hear);
    try {
      const outcome = await pool.run({ task, port: port2, cancel }, { transferList: [port2] });
      await allHeard;
      return outcome;
    } finally {
      port1.close();
    }
  }

  async close(): Promise<void> {
    await this.pool?.destroy();
    this.pool = null;
  }
}
