/** Whom the work at hand is for, wherever it was passed on to. */
import { AsyncLocalStorage } from 'node:async_hooks';

const asked = new AsyncLocalStorage<string>();

/** Nobody's where no request asked for it. */
export function visitorNow(): string {
  return asked.getStore() ?? '';
}

export function onBehalfOf(visitor: string, work: () => void): void {
  asked.run(visitor, work);
}
