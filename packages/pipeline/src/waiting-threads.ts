/** Threads that have done their work and wait for more of the same. */
import { Worker } from 'node:worker_threads';

/** Ms for which a thread waits for more work before it is let go. */
const IDLE = 30_000;

/** Without whom it spoke to; its other listeners are Node's own. */
const unheard = (worker: Worker): Worker => worker.removeAllListeners('message').removeAllListeners('error');

/**
 * The threads of one program. One that has worked before has its code loaded and compiled, which is half of what a
 * short run takes. Those that wait keep no process alive.
 */
export class WaitingThreads {
  private readonly waiting: { readonly worker: Worker; readonly letGo: NodeJS.Timeout }[] = [];

  constructor(private readonly program: URL) {}

  /** One that waits, or a new one; nobody listens to it. */
  take(): Worker {
    const kept = this.waiting.pop();
    if (!kept) return new Worker(this.program);
    clearTimeout(kept.letGo);
    unheard(kept.worker).ref();
    return kept.worker;
  }

  /** @param worker has said its last word */
  giveBack(worker: Worker): void {
    const drop = (): void => {
      const at = this.waiting.findIndex((w) => w.worker === worker);
      if (at >= 0) clearTimeout(this.waiting.splice(at, 1)[0]!.letGo);
      void worker.terminate();
    };
    unheard(worker).on('error', drop).unref();
    this.waiting.push({ worker, letGo: setTimeout(drop, IDLE).unref() });
  }
}

/** By the address of their program. */
const threadsOf = new Map<string, WaitingThreads>();

/** The threads of a built program; the same ones for everybody in this process. */
export function waitingThreads({ href }: URL): WaitingThreads {
  const known = threadsOf.get(href) ?? new WaitingThreads(new URL(href));
  threadsOf.set(href, known);
  return known;
}
