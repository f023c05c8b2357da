/**
 * Both directions of a run at once, each on a thread of its own. The luma file is read by each; nothing else is shared.
 */
import type { Worker } from 'node:worker_threads';
import type { ErrorCode } from '@yarlop/core/errors';
import { CoreError } from '@yarlop/core/errors';
import type { FollowerState } from '@yarlop/core/follow/memory/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { MediaError } from '@yarlop/media/media-error';
import type { DirectionRun, RunDirection, Step } from './follow';
import { waitingThreads } from './waiting-threads';

export interface LumaPlace {
  readonly path: string;
  /** the same frames for sections of other readings, by reading */
  readonly others?: Readonly<Record<string, string>>;
  readonly width: number;
  readonly height: number;
  readonly bitDepth: number;
}

export interface ThreadOrder {
  readonly run: DirectionRun;
  readonly luma: LumaPlace;
  /** one number, shared; the thread leaves off between two frames once it is not 0 */
  readonly stop: Int32Array;
}

export type ThreadWord =
  | { readonly kind: 'step'; readonly result: FrameResult; readonly again: boolean; readonly state: FollowerState }
  | { readonly kind: 'end' }
  | { readonly kind: 'failed'; readonly name: string; readonly message: string; readonly code: string };

function asError(w: Extract<ThreadWord, { kind: 'failed' }>): Error {
  if (w.name === 'CoreError') return new CoreError(w.code as ErrorCode, w.message);
  if (w.name === 'MediaError') return new MediaError(w.code as 'unusable', w.message);
  return new Error(w.message);
}

/**
 * Ms that a thread has for leaving off by itself between two frames. A person who stops a run waits a second at most;
 * a thread that is ended by force while it starts can take the whole process along.
 */
const LEAVING = 600;

/** Whether `worker`, told to stop, says its last word in time. */
function leavesOff(worker: Worker): Promise<boolean> {
  return new Promise((resolve) => {
    const late = setTimeout(() => resolve(false), LEAVING);
    worker.on('message', (w: ThreadWord) => {
      if (w.kind === 'step') return;
      clearTimeout(late);
      resolve(true);
    });
  });
}

/**
 * A thread's steps. Leaving off stops the thread between two frames, or ends it where its frame takes too long: a
 * person who stops a run waits for no frame.
 * @param program the built `direction-thread`
 */
export function onThreads(program: URL, luma: LumaPlace): RunDirection {
  return (run) => ({
    [Symbol.asyncIterator](): AsyncIterator<Step> {
      const words: ThreadWord[] = [];
      const threads = waitingThreads(program);
      const worker = threads.take();
      const stop = new Int32Array(new SharedArrayBuffer(Int32Array.BYTES_PER_ELEMENT));
      let wake = (): void => {};
      const hear = (w: ThreadWord): void => {
        words.push(w);
        wake();
      };
      worker
        .on('message', hear)
        .on('error', (e: Error) => hear({ kind: 'failed', name: e.name, message: e.message, code: '' }))
        .postMessage({ run, luma, stop } satisfies ThreadOrder);
      let isOver = false;
      /** @param part what becomes of the thread; once */
      const over = async (part: (w: Worker) => unknown): Promise<IteratorResult<Step>> => {
        hear({ kind: 'end' });
        const isFirst = !isOver;
        isOver = true;
        if (isFirst) await part(worker);
        return { done: true, value: undefined };
      };
      const end = (w: Worker): Promise<number> => w.terminate();
      const leave = async (w: Worker): Promise<unknown> => {
        Atomics.store(stop, 0, 1);
        return (await leavesOff(w)) ? threads.giveBack(w) : end(w);
      };
      const isThrough = (): boolean => words.some((w) => w.kind !== 'step');
      return {
        return: () => over(isThrough() ? (w) => threads.giveBack(w) : leave),
        async next(): Promise<IteratorResult<Step>> {
          while (words.length === 0) await new Promise<void>((resolve) => (wake = resolve));
          const w = words.shift()!;
          if (w.kind === 'step')
            return { done: false, value: { result: w.result, again: w.again, state: () => w.state } };
          if (w.kind === 'end') return over((done) => threads.giveBack(done));
          await over(end);
          throw asError(w);
        },
      };
    },
  });
}
