/**
 * A spot's own run: short and looked at while it goes, so that it is answered as it is worked, a line a frame, and ends
 * when nobody listens any more. The places belong to the recipe, which the person's page saves.
 */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { MessageChannel } from 'node:worker_threads';
import type { Response } from 'express';
import { Piscina } from 'piscina';
import type { Requests } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import * as media from '../sql/media';
import type { Call, Outcome, Report } from '../worker-protocol';
import { findShot } from './create-shot';
import { findScreen } from './save-screen';

let pool: Piscina<Call, Outcome> | null = null;

/** Ends the thread of such runs, if there is one. */
export async function endSpotRuns(): Promise<void> {
  await pool?.destroy();
  pool = null;
}

/** Writes one JSON line a frame to `res`. @throws ApiError before the first line */
export async function runSpot(c: Context, screenId: number, { spot, start, end }: NonNullable<Requests['spotRun']>, res: Response): Promise<void> {
  const screen = await findScreen(c, screenId), shot = await findShot(c, screen.shotId), row = await c.db.one<MediaRow>(media.findMedia, [shot.mediaHash]);
  if (shot.mediaState !== 'ready' || !row) throw new ApiError(409, 'not-ready', 'The plate is still being read in; follow when it is done.');
  if (!screen.recipe.spots?.[spot]) throw new ApiError(422, 'out-of-range', `The Screen has no spot ${spot + 1}; it may not be saved yet.`);
  if (Math.max(start, end) >= shot.frameCount) throw new ApiError(422, 'out-of-range', `Frames ${start} to ${end} do not lie within the plate's frames 0 to ${shot.frameCount - 1}.`);
  pool ??= new Piscina({ filename: join(fileURLToPath(new URL('.', import.meta.url)), 'worker.mjs'), maxThreads: 1, minThreads: 0, idleTimeout: 10_000 });
  const { port1, port2 } = new MessageChannel(), cancel = new Int32Array(new SharedArrayBuffer(4));
  const begin = (): void => {
    if (!res.headersSent) res.writeHead(200, { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' });
  };
  port1.on('message', (report: Report) => {
    if (report.type !== 'spot') return;
    begin();
    res.write(`${JSON.stringify(report.word)}\n`);
  });
  res.on('close', () => Atomics.store(cancel, 0, 1));
  try {
    const outcome = await pool.run({ task: { kind: 'spot', media: row, folder: c.storage.derived(row.hash), recipe: screen.recipe, spot, start, end }, port: port2, cancel: cancel.buffer as SharedArrayBuffer }, { transferList: [port2] });
    await new Promise((resolve) => setImmediate(resolve));
    if (outcome.kind === 'failed') throw new ApiError(422, 'failed', outcome.message);
    begin();
    res.end();
  } finally {
    port1.close();
  }
}
