/** The thread that follows in one direction, started by `threads.ts`. */
import { parentPort, workerData } from 'node:worker_threads';
import { LumaFile } from '@yarlop/media/luma-file';
import { followDirection } from './follow';
import type { ThreadOrder, ThreadWord } from './threads';

const { run, luma: at } = workerData as ThreadOrder;
const say = (w: ThreadWord): void => parentPort!.postMessage(w);
try {
  const luma = await LumaFile.open(at.path, at.width, at.height, at.bitDepth);
  try {
    for await (const { result, again = false, state } of followDirection(run, luma))
      say({ kind: 'step', result, again, state: state() });
  } finally {
    await luma.close();
  }
  say({ kind: 'end' });
} catch (e) {
  const { name, message, code } = e as Error & { code?: string };
  say({ kind: 'failed', name, message, code: code ?? '' });
}
