/** Frames of a delivery on threads of their own, in turn; pictures are handed over, never copied. */
import type { Worker } from 'node:worker_threads';
import type { Raster } from '@yarlop/core/image/image';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from './pipeline-error';
import type { FrameRenderer, RenderOrder } from './render-frame';
import { waitingThreads } from './waiting-threads';

/** What a thread is told: one `open`, its frames, one `close`; then it may be opened anew. */
export type RenderCall =
  | { readonly kind: 'open'; readonly order: RenderOrder }
  | { readonly kind: 'frame'; readonly frame: number; readonly picture: Raster }
  | { readonly kind: 'close' };

export type RenderWord =
  | { readonly kind: 'done'; readonly picture: Raster }
  | { readonly kind: 'failed'; readonly name: string; readonly message: string }
  | { readonly kind: 'closed' };

interface Waiting {
  readonly resolve: (r: Raster) => void;
  readonly reject: (e: Error) => void;
}

interface Thread {
  readonly worker: Worker;
  readonly waiting: Waiting[];
  /** told when it has closed, or has ended */
  whenOver: (isWell: boolean) => void;
  hasEnded: boolean;
}

/** Ms that a thread has for its last frames and its fills once nobody waits for them; then it is ended by force. */
const CLOSING = 2000;

const say = (worker: Worker, call: RenderCall, handed: ArrayBuffer[] = []): void => worker.postMessage(call, handed);

function started(worker: Worker, order: RenderOrder): Thread {
  const thread: Thread = { worker, waiting: [], whenOver: () => {}, hasEnded: false };
  const { waiting } = thread;
  worker.on('message', (w: RenderWord) => {
    if (w.kind === 'closed') return thread.whenOver(true);
    const next = waiting.shift();
    if (w.kind === 'done') next?.resolve(w.picture);
    else next?.reject(w.name === 'InputError' ? new InputError(w.message) : new MediaError('tool', w.message));
  });
  worker.on('error', (e) => {
    thread.hasEnded = true;
    waiting.splice(0).forEach((p) => p.reject(e as Error));
    thread.whenOver(false);
  });
  say(worker, { kind: 'open', order });
  return thread;
}

/** Whether the thread has closed by itself, and may be opened anew. */
function closes(thread: Thread): Promise<boolean> {
  if (thread.hasEnded) return Promise.resolve(false);
  return new Promise((resolve) => {
    const late = setTimeout(() => resolve(false), CLOSING);
    thread.whenOver = (isWell): void => {
      clearTimeout(late);
      resolve(isWell);
    };
    say(thread.worker, { kind: 'close' });
  });
}

/** Renders frames on several threads; pictures come back in order. */
export class OnThreads implements FrameRenderer {
  private readonly threads: readonly Thread[];
  private turn = 0;

  /** @param program the built `render-thread` */
  constructor(
    private readonly program: URL,
    order: RenderOrder,
    count: number,
  ) {
    this.threads = Array.from({ length: count }, () => started(waitingThreads(program).take(), order));
  }

  render(frame: number, picture: Raster): Promise<Raster> {
    const { worker, waiting } = this.threads[this.turn++ % this.threads.length]!;
    return new Promise((resolve, reject) => {
      waiting.push({ resolve, reject });
      say(worker, { kind: 'frame', frame, picture }, [picture.data.buffer as ArrayBuffer]);
    });
  }

  async close(): Promise<void> {
    await Promise.all(
      this.threads.map(async (t) => {
        if (await closes(t)) waitingThreads(this.program).giveBack(t.worker);
        else await t.worker.terminate();
      }),
    );
  }
}
