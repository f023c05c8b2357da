/** The thread that renders frames, started by `render-threads.ts`. */
import { parentPort, workerData } from 'node:worker_threads';
import type { RenderOrder } from './render-frame';
import { OwnThread } from './render-frame';
import type { FrameOrder, FrameWord } from './render-threads';

const own = OwnThread.open(workerData as RenderOrder);
// One after the other, in the order in which they were asked for.
let last: Promise<void> = Promise.resolve();
parentPort!.on('message', ({ frame, picture }: FrameOrder) => {
  last = last.then(async () => {
    try {
      const made = await (await own).render(frame, picture);
      parentPort!.postMessage({ kind: 'done', picture: made } satisfies FrameWord, [made.data.buffer as ArrayBuffer]);
    } catch (e) {
      parentPort!.postMessage({
        kind: 'failed',
        name: (e as Error).name,
        message: (e as Error).message,
      } satisfies FrameWord);
    }
  });
});
