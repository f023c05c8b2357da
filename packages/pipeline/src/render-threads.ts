/** Frames of a delivery on threads of their own, in turn; pictures are handed over, never copied. */
import { Worker } from 'node:worker_threads';
import type { Raster } from '@yarlop/core/image/image';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from './pipeline-error';
import type { FrameRenderer, RenderOrder } from './render-frame';

export interface FrameOrder {
  readonly frame: number;
  readonly picture: Raster;
}

export type FrameWord =
  | { readonly kind: 'done'; readonly picture: Raster }
  | { readonly kind: 'failed'; readonly name: string; readonly message: string };

interface Waiting {
  readonly resolve: (r: Raster) => void;
  readonly reject: (e: Error) => void;
}

interface Thread {
  readonly worker: Worker;
  readonly waiting: Waiting[];
}

function started(program: URL, order: RenderOrder): Thread {
  const worker = new Worker(program, { workerData: order });
  const waiting: Waiting[] = [];
  worker.on('message', (w: FrameWord) => {
    const next = waiting.shift();
    if (w.kind === 'done') next?.resolve(w.picture);
    else next?.reject(w.name === 'InputError' ? new InputError(w.message) : new MediaError('tool', w.message));
  });
  worker.on('error', (e) => waiting.splice(0).forEach((p) => p.reject(e as Error)));
  return { worker, waiting };
}

/** Renders frames on several threads; pictures come back in order. */
export class OnThreads implements FrameRenderer {
  private readonly threads: readonly Thread[];
  private turn = 0;

  /** @param program the built `render-thread` */
  constructor(program: URL, order: RenderOrder, count: number) {
    this.threads = Array.from({ length: count }, () => started(program, order));
  }

  render(frame: number, picture: Raster): Promise<Raster> {
    const { worker, waiting } = this.threads[this.turn++ % this.threads.length]!;
    return new Promise((resolve, reject) => {
      waiting.push({ resolve, reject });
      worker.postMessage({ frame, picture } satisfies FrameOrder, [picture.data.buffer as ArrayBuffer]);
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.threads.map((t) => t.worker.terminate()));
  }
}
