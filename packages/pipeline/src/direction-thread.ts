/** The thread that follows in one direction, and then in another, started by `threads.ts`. */
import { parentPort } from 'node:worker_threads';
import { LumaFile } from '@yarlop/media/luma-file';
import { followDirection } from './follow';
import type { FramePort } from './frame-port';
import type { LumaPlace, ThreadOrder, ThreadWord } from './threads';

const say = (w: ThreadWord): void => parentPort!.postMessage(w);

/** Frames of all readings, open while `work` is at it. */
async function withFrames(
  { path, others = {}, width, height, bitDepth }: LumaPlace,
  work: (f: FramePort) => Promise<void>,
) {
  const open = async (p: string): Promise<LumaFile> => LumaFile.open(p, width, height, bitDepth);
  const files = new Map<string, LumaFile>();
  try {
    for (const p of new Set([path, ...Object.values(others)])) files.set(p, await open(p));
    const luma = files.get(path)!;
    await work({
      width: luma.width,
      frameCount: luma.frameCount,
      read: (frame) => luma.read(frame),
      as: (reading) => files.get(others[reading] ?? path)!,
    });
  } finally {
    for (const f of files.values()) await f.close();
  }
}

async function follow({ run, luma, stop }: ThreadOrder): Promise<void> {
  try {
    await withFrames(luma, async (frames) => {
      for await (const { result, again = false, state } of followDirection(run, frames)) {
        say({ kind: 'step', result, again, state: state() });
        if (Atomics.load(stop, 0) !== 0) break;
      }
    });
    say({ kind: 'end' });
  } catch (e) {
    const { name, message, code } = e as Error & { code?: string };
    say({ kind: 'failed', name, message, code: code ?? '' });
  }
}

// One order after the other: the next comes when the one before has ended.
parentPort!.on('message', (order: ThreadOrder) => void follow(order));
