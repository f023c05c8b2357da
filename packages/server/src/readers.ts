/** Threads that read tracks and what follows from them: two thousand frames hold nobody else up. */
import type { Logger } from 'pino';
import type { Piscina } from 'piscina';
import type { TemplateFile } from '@yarlop/contracts/validate';
import type { PlateInfo } from '@yarlop/core/track';
import { ApiError } from './api-error';
import type { ScreenRow, ShotRow } from './rows';
import type { LensOrder } from '@yarlop/pipeline/camera-lens';
import type { ReadImport } from './use-cases/read-import';
import { FOR_A_PERSON } from './give-way';
import { threadPool } from './thread-pool';
import type { TrackView } from './track-view';

/** What of a template has to be in the library before its shot is made. */
export type TemplateMedia = Pick<TemplateFile, 'media' | 'plate'>;

export type Reading =
  | { readonly what: 'track' | 'proof'; readonly screen: ScreenRow; readonly mediaHash: string }
  | { readonly what: 'verdicts'; readonly shot: ShotRow; readonly screens: readonly ScreenRow[] }
  | { readonly what: 'import'; readonly body: Uint8Array; readonly plate: PlateInfo; readonly frameCount: number }
  | { readonly what: 'template'; readonly path: string }
  | { readonly what: 'template-shot'; readonly path: string; readonly productionId: number }
  | { readonly what: 'lens'; readonly order: LensOrder }
  | { readonly what: 'table'; readonly name: string; readonly body: Uint8Array };

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
  if (!('body' in reading)) return [];
  const { buffer, byteLength } = reading.body;
  return buffer instanceof ArrayBuffer && buffer.byteLength === byteLength ? [buffer] : [];
}

export class Readers {
  private readonly pool: Piscina<Reading, Answer>;

  constructor(log: Logger) {
    this.pool = threadPool({ program: 'reader', most: THREADS, givesWay: FOR_A_PERSON, idle: IDLE }, log);
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

  /** What of a template has to be in the library first. @param path of its own file */
  template(path: string): Promise<TemplateMedia> {
    return this.value({ what: 'template', path });
  }

  /** The shot that a template makes; its number. */
  templateShot(path: string, productionId: number): Promise<number> {
    return this.value({ what: 'template-shot', path, productionId });
  }

  /** See `use-cases/take-table.ts`. @param body as UTF-8 */
  takenTable(name: string, body: Uint8Array): Promise<string> {
    return this.value({ what: 'table', name, body });
  }

  /** A map of a camera's lens; where it was written. */
  lens(order: LensOrder): Promise<string> {
    return this.value({ what: 'lens', order });
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
