/**
 * Both directions of a run at once, each on a thread of its own. The luma file is read by each; nothing else is shared.
 */
import { Worker } from 'node:worker_threads';
import type { ErrorCode } from '@yarlop/core/errors';
import { CoreError } from '@yarlop/core/errors';
import type { FollowerState } from '@yarlop/core/follow/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { MediaError } from '@yarlop/media/media-error';
import type { DirectionRun, RunDirection, Step } from './follow';

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
 * A thread's steps. Leaving off ends the thread at once, even while its next step is waited for: a person who stops a
 * run waits for no frame.
 * @param program the built `direction-thread`
 */
export function onThreads(program: URL, luma: LumaPlace): RunDirection {
  return (run) => ({
    [Symbol.asyncIterator](): AsyncIterator<Step> {
      const words: ThreadWord[] = [];
      const worker = new Worker(program, { workerData: { run, luma } satisfies ThreadOrder });
      let wake = (): void => {};
      const hear = (w: ThreadWord): void => {
        words.push(w);
        wake();
      };
      worker
        .on('message', hear)
        .on('error', (e: Error) => hear({ kind: 'failed', name: e.name, message: e.message, code: '' }));
      const end = async (): Promise<IteratorResult<Step>> => {
        hear({ kind: 'end' });
        await worker.terminate();
        return { done: true, value: undefined };
      };
      return {
        return: end,
        async next(): Promise<IteratorResult<Step>> {
          while (words.length === 0) await new Promise<void>((resolve) => (wake = resolve));
          const w = words.shift()!;
          if (w.kind === 'step')
            return { done: false, value: { result: w.result, again: w.again, state: () => w.state } };
          await end();
          if (w.kind === 'failed') throw asError(w);
          return { done: true, value: undefined };
        },
      };
    },
  });
}
