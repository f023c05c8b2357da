/** The thread that renders frames, started by `render-threads.ts`; one delivery after the other. */
import { parentPort } from 'node:worker_threads';
import { OwnThread } from './render-frame';
import type { RenderCall, RenderWord } from './render-threads';

const say = (word: RenderWord, handed: ArrayBuffer[] = []): void => parentPort!.postMessage(word, handed);

let own: Promise<OwnThread> | null = null;

async function heed(call: RenderCall): Promise<void> {
  switch (call.kind) {
    case 'open':
      own = OwnThread.open(call.order);
      // The first frame tells of a fill that cannot be opened.
      own.catch(() => {});
      return;
    case 'frame': {
      const made = await (await own!).render(call.frame, call.picture);
      say({ kind: 'done', picture: made }, [made.data.buffer as ArrayBuffer]);
      return;
    }
    case 'close':
      await own?.then(
        (o) => o.close(),
        () => {},
      );
      own = null;
      say({ kind: 'closed' });
  }
}

// One after the other, in the order in which they were asked for.
let last: Promise<void> = Promise.resolve();
parentPort!.on('message', (call: RenderCall) => {
  last = last.then(() => heed(call)).catch((e: Error) => say({ kind: 'failed', name: e.name, message: e.message }));
});
