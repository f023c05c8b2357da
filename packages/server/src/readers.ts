/** Threads that read tracks and what follows from them: two thousand frames hold nobody else up. */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Logger } from 'pino';
import { Piscina } from 'piscina';
import type { ScreenRow, ShotRow } from './rows';
import type { TrackView } from './use-cases/solve';

export type Reading =
  | { readonly what: 'track' | 'proof'; readonly screen: ScreenRow; readonly mediaHash: string }
  | { readonly what: 'verdicts'; readonly shot: ShotRow; readonly screens: readonly ScreenRow[] };

/** JSON as UTF-8, or why there is none. */
export type Answer = { readonly json: Uint8Array } | { readonly failed: string; readonly code: string | null };

/** Tracks that are read at once. By trial. */
const THREADS = 2;
/** Ms after which a thread is let go; opening one takes about 200 ms. By trial. */
const IDLE = 120_000;

export class Readers {
  private readonly pool: Piscina<Reading, Answer>;

  constructor(log: Logger) {
    this.pool = new Piscina<Reading, Answer>({
      filename: join(fileURLToPath(new URL('.', import.meta.url)), 'reader.mjs'),
      maxThreads: THREADS,
      minThreads: 0,
      idleTimeout: IDLE,
    });
    // One that ended between two questions is replaced; the server must not end with it.
    this.pool.on('error', (e: unknown) => log.error(e, 'a reader ended'));
  }

  /** @returns JSON as UTF-8, to be sent as it is */
  async json(reading: Reading): Promise<Buffer> {
    const answer = await this.pool.run(reading);
    if ('failed' in answer) throw Object.assign(new Error(answer.failed), { code: answer.code });
    const { buffer, byteOffset, byteLength } = answer.json;
    return Buffer.from(buffer, byteOffset, byteLength);
  }

  /** See {@link TrackView}. */
  async track(screen: ScreenRow, mediaHash: string): Promise<TrackView> {
    return JSON.parse((await this.json({ what: 'track', screen, mediaHash })).toString('utf8')) as TrackView;
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
