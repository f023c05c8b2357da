/** Threads that read tracks and what follows from them: two thousand frames hold nobody else up. */
import type { Logger } from 'pino';
import type { Piscina } from 'piscina';
import type { PlateInfo } from '@yarlop/core/track';
import { ApiError } from './api-error';
import type { ScreenRow, ShotRow } from './rows';
import type { ReadImport } from './use-cases/read-import';
import { threadPool } from './thread-pool';
import type { TrackView } from './track-view';

export type Reading =
  | { readonly what: 'track' | 'proof'; readonly screen: ScreenRow; readonly mediaHash: string }
  | { readonly what: 'verdicts'; readonly shot: ShotRow; readonly screens: readonly ScreenRow[] }
  | { readonly what: 'import'; readonly body: Uint8Array; readonly plate: PlateInfo; readonly frameCount: number }
  | { readonly what: 'cube'; readonly text: string };

/** JSON as UTF-8, or why there is none: what the person is told, or what broke. */
export type Answer =
  | { readonly json: Uint8Array }
  | { readonly refused: Pick<ApiError, 'status' | 'code' | 'message' | 'details'> }
  | { readonly failed: string; readonly code: string | null };

/** Tracks that are read at once. By trial. */
const THREADS = 2;
/** Ms after which a thread is let go: longer than people pause between two looks. By trial. */
const IDLE = 120_000;

/** Bytes that a thread may have as they are, without a copy: those that share their memory with nothing else. */
function ownBytes(reading: Reading): ArrayBuffer[] {
  if (reading.what !== 'import') return [];
  const { buffer, byteLength } = reading.body;
  return buffer instanceof ArrayBuffer && buffer.byteLength === byteLength ? [buffer] : [];
}

export class Readers {
  private readonly pool: Piscina<Reading, Answer>;

  constructor(log: Logger) {
    this.pool = threadPool({ program: 'reader', most: THREADS, idle: IDLE }, log);
  }

  /** @returns JSON as UTF-8, to be sent as it is */
  async json(reading: Reading): Promise<Buffer> {
    const answer = await this.pool.run(reading, { transferList: ownBytes(reading) });
    if ('refused' in answer) {
      const { status, code, message, details } = answer.refused;
      throw new ApiError(status, code, message, details);
    }
    if ('failed' in answer) throw Object.assign(new Error(answer.failed), { code: answer.code });
    const { buffer, byteOffset, byteLength } = answer.json;
    return Buffer.from(buffer, byteOffset, byteLength);
  }

  private async value<T>(reading: Reading): Promise<T> {
    return JSON.parse((await this.json(reading)).toString('utf8')) as T;
  }

  /** See {@link TrackView}. */
  track(screen: ScreenRow, mediaHash: string): Promise<TrackView> {
    return this.value({ what: 'track', screen, mediaHash });
  }

  /** See `use-cases/read-import.ts`. */
  imported(body: Uint8Array, plate: PlateInfo, frameCount: number): Promise<ReadImport> {
    return this.value({ what: 'import', body, plate, frameCount });
  }

  /** @returns what a colour table is known by. @throws ApiError where the text is none */
  cube(text: string): Promise<string> {
    return this.value({ what: 'cube', text });
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
