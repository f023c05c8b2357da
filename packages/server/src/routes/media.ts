import { Router } from 'express';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import { withoutSource } from '../rows';
import * as media from '../sql/media';
import { sendCutOuts } from '../use-cases/cut-outs';
import { findMedia, makeAnew } from '../use-cases/library';
import { proxyFrame } from '../use-cases/proxy-frame';
import { describeFile } from '../use-cases/production-library';
import { takeFill, withUpload } from '../use-cases/take-upload';
import { body, handler, hash, id } from './handler';

const FOREVER = 'private, max-age=31536000, immutable';

async function losslessFrame(c: Context, row: MediaRow, frame: number): Promise<Buffer> {
  const { hash: key } = row;
  const task = {
    kind: 'still' as const,
    media: row,
    original: c.storage.original(key),
    folder: c.storage.derived(key),
  };
  const outcome = await c.desk.ask({ ...task, frame });
  if (outcome.kind !== 'still') throw new ApiError(500, 'unreadable', `Frame ${frame} could not be read.`);
  return Buffer.from(outcome.png.buffer, outcome.png.byteOffset, outcome.png.byteLength);
}

/** @throws ApiError where it is not read in, or has no such frame */
async function readyMedia(c: Context, key: string, frame: number): Promise<MediaRow> {
  const row = await findMedia(c, key);
  if (row.state !== 'ready') throw new ApiError(409, 'not-ready', row.problem ?? 'The file is still being read in.');
  if (frame >= row.frameCount)
    throw new ApiError(
      404,
      'out-of-range',
      `Frame ${frame} lies outside the clip, which has frames 0 to ${row.frameCount - 1}.`,
    );
  return row;
}

export function mediaRoutes(c: Context): Router {
  return Router()
    .get(
      '/',
      handler(() => c.db.all(media.listMedia)),
    )
    .post(
      '/',
      handler(async (req, res) => {
        res.status(201);
        const { production, ...upload } = body(req, 'fill');
        return withoutSource(await withUpload(c, upload, () => takeFill(c, upload, production)));
      }),
    )
    .get(
      '/:hash',
      handler(async (req) => withoutSource(await findMedia(c, hash(req)))),
    )
    .put(
      '/:hash',
      handler(async (req) => withoutSource(await describeFile(c, hash(req), body(req, 'mediaWords')))),
    )
    .post(
      '/:hash/anew',
      handler((req) => makeAnew(c, hash(req))),
    );
}

/** Pictures of clips that are read in. */
export function pictureRoutes(c: Context): Router {
  return Router()
    .get(
      '/:hash/frames/:frame.png',
      handler(async (req, res) => {
        const frame = id(req, 'frame');
        const row = await readyMedia(c, hash(req), frame);
        res
          .set('Cache-Control', FOREVER)
          .type('png')
          .send(await losslessFrame(c, row, frame));
      }),
    )
    .post(
      '/:hash/cut-outs',
      handler(async (req, res) => {
        const wanted = body(req, 'cutOuts');
        const row = await readyMedia(c, hash(req), wanted.from + Math.ceil(wanted.at.length / (wanted.each ?? 1)) - 1);
        await sendCutOuts(c, row, wanted, res);
      }),
    )
    .get(
      '/:hash/proxy/:frame.jpg',
      handler(async (req, res) => {
        const frame = id(req, 'frame');
        const row = await readyMedia(c, hash(req), frame);
        const picture = await proxyFrame(c.storage.derived(row.hash), frame);
        res.set('Cache-Control', FOREVER).type('jpeg').send(picture);
      }),
    );
}
