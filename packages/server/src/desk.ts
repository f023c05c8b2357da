/**
 * Questions that are answered at once, while the person waits: threads of their own are kept for them, so that they
 * neither wait for jobs nor hold up the server's own thread, nor one long answer all the others.
 */
import { MessageChannel } from 'node:worker_threads';
import type { Piscina } from 'piscina';
import type { Logger } from 'pino';
import { ApiError } from './api-error';
import { threadPool } from './thread-pool';
import type { Word } from './worker-line';
import { listen } from './worker-line';
import type { Call, DeskTask, Outcome } from './worker-protocol';

/** Questions that are worked on at once; large pictures take some hundred MB each. By trial. */
const THREADS = 3;
/** Ms after which a thread is let go. */
const IDLE = 30_000;

export class Desk {
  private pool: Piscina<Call, Outcome> | null = null;

  constructor(private readonly log: Logger) {}

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
    const pool = (this.pool ??= threadPool({ program: 'worker', most: THREADS, idle: IDLE }, this.log));
    const { port1, port2 } = new MessageChannel();
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    const allHeard = listen(port1, hear);
    left(() => Atomics.store(cancel, 0, 1));
    try {
      const outcome = await pool.run(
        { task, port: port2, cancel: cancel.buffer as SharedArrayBuffer },
        { transferList: [port2] },
      );
      await allHeard;
      if (outcome.kind === 'failed') throw new ApiError(422, outcome.code ?? 'failed', outcome.message);
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
