import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { Router } from 'express';
import sharp from 'sharp';
import { linearToSrgb } from '@yarlop/core/dress/transfer';
import { toCodes } from '@yarlop/core/image/float-raster';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { MEZZANINE, PROXY, mezzanineProbe, readProxyIndex } from '@yarlop/media/ingest';
import { openSource } from '@yarlop/media/source';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { MediaRow } from '../rows';
import * as media from '../sql/media';
import { openOriginal, takeUpload } from '../use-cases/take-upload';
import { body, handler, hash, id } from './handler';

const FOREVER = 'private, max-age=31536000, immutable';

/** Lossless PNG; deep pictures are shown at 8 bit, the files keep their depth. */
function png(r: Raster): Promise<Buffer> {
  const { data } = r.data instanceof Float32Array ? toCodes(r, linearToSrgb, 8) : r;
  const bytes = data instanceof Uint16Array ? Uint8Array.from(data, (v) => Math.round(v / 257)) : (data as Uint8Array);
  return sharp(bytes, { raw: { width: r.width, height: r.height, channels: r.channels } })
    .png({ compressionLevel: 1, adaptiveFiltering: false })
    .toBuffer();
}

/** One picture, from the mezzanine; or from the original where there is alpha to keep. */
async function losslessFrame(c: Context, row: MediaRow, frame: number): Promise<Buffer> {
  const alpha = row.probe.hasAlpha;
  const original = alpha || row.frameCount === 1;
  const source = original
    ? await openOriginal(c.storage.original(row.hash), row)
    : await openSource(join(c.storage.derived(row.hash), MEZZANINE));
  try {
    for await (const picture of decodeRgb(source, original ? row.probe : mezzanineProbe(row.probe), {
      from: frame,
      count: 1,
      alpha,
      seekable: !original,
    }))
      return await png(picture);
  } finally {
    await source.dispose();
  }
  throw new ApiError(500, 'unreadable', `Frame ${frame} could not be read.`);
}

export function mediaRoutes(c: Context): Router {
  const ready = async (h: string, frame: number): Promise<MediaRow> => {
    const row = await c.db.one<MediaRow>(media.findMedia, [h]);
    if (!row) throw notFound('The media file');
    if (row.state !== 'ready') throw new ApiError(409, 'not-ready', row.problem ?? 'The file is still being read in.');
    if (frame >= row.frameCount)
      throw new ApiError(
        404,
        'out-of-range',
        `Frame ${frame} lies outside the clip, which has frames 0 to ${row.frameCount - 1}.`,
      );
    return row;
  };
  return Router()
    .get(
      '/',
      handler(() => c.db.all(media.listMedia)),
    )
    .post(
      '/',
      handler((req, res) => {
        res.status(201);
        return takeUpload(c, body(req, 'fill'));
      }),
    )
    .get(
      '/:hash',
      handler(
        async (req) => (await c.db.one(media.findMedia, [hash(req)])) ?? Promise.reject(notFound('The media file')),
      ),
    )
    .get(
      '/:hash/frames/:frame.png',
      handler(async (req, res) => {
        const frame = id(req, 'frame');
        const row = await ready(hash(req), frame);
        res
          .set('Cache-Control', FOREVER)
          .type('png')
          .send(await losslessFrame(c, row, frame));
      }),
    )
    .get(
      '/:hash/proxy/:frame.jpg',
      handler(async (req, res) => {
        const frame = id(req, 'frame');
        const row = await ready(hash(req), frame);
        const folder = c.storage.derived(row.hash);
        const { offsets } = await readProxyIndex(folder);
        const at = offsets[frame]!;
        const size = offsets[frame + 1]! - at;
        const file = await open(join(folder, PROXY), 'r');
        try {
          const { buffer } = await file.read(Buffer.alloc(size), 0, size, at);
          res.set('Cache-Control', FOREVER).type('jpeg').send(buffer);
        } finally {
          await file.close();
        }
      }),
    );
}
