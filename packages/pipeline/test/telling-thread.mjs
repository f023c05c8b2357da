/** In the place of the thread that follows: tells its own number in each run, fails or keeps waiting when told to. */
import { parentPort, threadId } from 'node:worker_threads';

parentPort.on('message', ({ run }) => {
  if (run.end === 'never') return;
  if (run.end === 'fails') {
    parentPort.postMessage({ kind: 'failed', name: 'CoreError', message: 'spoilt', code: 'singular' });
    return;
  }
  parentPort.postMessage({ kind: 'step', result: threadId, again: false, state: null });
  parentPort.postMessage({ kind: 'end' });
});
