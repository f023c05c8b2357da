import type AsyncLock from 'async-lock';
import type { Config } from './config';
import type { Database } from './database';
import type { Desk } from './desk';
import type { EventHub } from './events';
import type { Readers } from './readers';
import type { Storage } from './storage';

/** What every use case works with. */
export interface Context {
  readonly config: Config;
  readonly db: Database;
  readonly storage: Storage;
  readonly desk: Desk;
  readonly readers: Readers;
  readonly events: EventHub;
  /** work that must not run twice at once, by name */
  readonly alone: AsyncLock;
  /** tells the runner that a job waits */
  readonly wake: () => void;
}
