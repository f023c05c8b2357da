/** How fast deliveries go, as their jobs tell it. */
import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { effectScope, watchEffect } from 'vue';
import { usePace } from '../src/hand-over/use-pace';
import { useLive } from '../src/stores/live';

/** The server's stream as the page sees it; `tell` sends an event of a job. */
const heard = new Map<string, (e: { data: string }) => void>();
class Stream {
  static readonly CLOSED = 2;
  readonly readyState = 1;
  addEventListener(event: string, listener: (e: { data: string }) => void): void {
    heard.set(event, listener);
  }
  close(): void {}
}
const tell = (job: object): void => heard.get('job')!({ data: JSON.stringify({ id: 5, ...job }) });

let scope = effectScope();
const ended: [number, number][] = [];
const pace = (): ReturnType<typeof usePace> => scope.run(() => usePace((job, each) => ended.push([job, each])))!;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('EventSource', Stream);
  setActivePinia(createPinia());
  ended.length = 0;
  scope = effectScope();
  useLive().connect(null);
});
afterEach(() => {
  scope.stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('the pace of a delivery', () => {
  it('is not known before some frames were done since it was first seen', () => {
    const { paceOf } = pace();
    tell({ state: 'running', framesDone: 40 });
    vi.advanceTimersByTime(1000);
    tell({ state: 'running', framesDone: 42 });
    expect(paceOf(5)).toBeNull();
    vi.advanceTimersByTime(1000);
    tell({ state: 'running', framesDone: 44 });
    expect(paceOf(5)).toBe(0.5);
  });

  it('is told once, when a run ends that was seen for long enough', () => {
    const { paceOf } = pace();
    tell({ state: 'running', framesDone: 0 });
    for (let k = 1; k <= 20; k++) {
      vi.advanceTimersByTime(250);
      tell({ state: 'running', framesDone: k });
    }
    expect(ended).toEqual([]);
    tell({ state: 'done', framesDone: 20 });
    expect(ended).toEqual([[5, 0.25]]);
    expect(paceOf(5)).toBeNull();
  });

  it('is not told of a run that was paused after a few frames', () => {
    pace();
    tell({ state: 'running', framesDone: 0 });
    vi.advanceTimersByTime(900);
    tell({ state: 'running', framesDone: 5 });
    tell({ state: 'paused', framesDone: 5 });
    expect(ended).toEqual([]);
  });

  it('is drawn anew when a job tells of progress, and by nothing else', () => {
    const { paceOf } = pace();
    tell({ state: 'running', framesDone: 0 });
    let drawn = 0;
    scope.run(() => watchEffect(() => void (paceOf(5), drawn++), { flush: 'sync' }));
    vi.advanceTimersByTime(5000);
    expect(drawn).toBe(1);
    tell({ state: 'running', framesDone: 10 });
    expect(drawn).toBe(2);
    expect(paceOf(5)).toBe(0.5);
  });
});
