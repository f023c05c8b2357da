/** Threads that directions are followed on: which are used again, and which are not. */
import { describe, expect, it } from 'vitest';
import type { DirectionRun, Step } from '../src/follow';
import { onThreads } from '../src/threads';

const follow = onThreads(new URL('./telling-thread.mjs', import.meta.url), {
  path: '',
  width: 1,
  height: 1,
  bitDepth: 8,
});
const runTo = (end: unknown): AsyncIterator<Step> => follow({ end } as DirectionRun)[Symbol.asyncIterator]();

/** Follows to the end as the run's driver does, which leaves off what has ended too. @returns the thread's number */
async function followed(): Promise<number> {
  const steps = runTo(1);
  const first = await steps.next();
  expect((await steps.next()).done).toBe(true);
  await steps.return!();
  return first.value.result as number;
}

describe('a thread', () => {
  it('that has done its run does the next', async () => {
    const first = await followed();
    expect(await followed()).toBe(first);
    expect(await followed()).toBe(first);
  });

  it('is not shared by two runs at once', async () => {
    const [one, other] = await Promise.all([followed(), followed()]);
    expect(one).not.toBe(other);
  });

  it('that was left off, or whose run failed, is ended and not used again', async () => {
    const last = await followed();
    const left = runTo('never');
    const waiting = left.next();
    await left.return!();
    expect((await waiting).done).toBe(true);
    const failing = runTo('fails');
    await expect(failing.next()).rejects.toThrow('spoilt');
    expect(await followed()).not.toBe(last);
  });
});
