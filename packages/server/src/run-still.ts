/** One picture of a clip, as lossless PNG or for the screens that are seen on it, in its worker thread: a large one takes seconds. */
import { join } from 'node:path';
import sharp from 'sharp';
import { linearToSrgb } from '@yarlop/core/dress/colour/transfer';
import { toCodes } from '@yarlop/core/image/float-raster';
import type { Raster } from '@yarlop/core/image/image';
import { screensSeen } from '@yarlop/core/propose/screens-seen';
import { decodeRgb } from '@yarlop/media/decode';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import { MediaError } from '@yarlop/media/media-error';
import { openSource } from '@yarlop/media/source';
import { openOriginal } from './use-cases/library';
import { toBytes } from './to-bytes';
import type { Outcome, ProposeTask, StillTask } from './worker-protocol';

/** Deep pictures are shown at 8 bit; the files keep their depth. */
function png(r: Raster): Promise<Buffer> {
  const { data } = r.data instanceof Float32Array ? toCodes(r, linearToSrgb, 8) : r;
  const bytes = data instanceof Uint16Array ? toBytes(data) : (data as Uint8Array);
  return sharp(bytes, { raw: { width: r.width, height: r.height, channels: r.channels } })
    .png({ compressionLevel: 1, adaptiveFiltering: false })
    .toBuffer();
}

type OneFrame = Pick<StillTask, 'media' | 'original' | 'folder' | 'frame'>;

/** From the mezzanine; or from the original where there is alpha to keep, or nothing but one picture. */
async function read({ media, original, folder, frame }: OneFrame): Promise<Raster> {
  const alpha = media.probe.hasAlpha;
  const isOriginal = alpha || media.frameCount === 1;
  const source = isOriginal ? await openOriginal(original, media) : await openSource(join(folder, MEZZANINE));
  try {
    const probe = isOriginal ? media.probe : mezzanineProbe(media.probe);
    for await (const picture of decodeRgb(source, probe, { from: frame, count: 1, alpha, seekable: !isOriginal }))
      return picture;
  } finally {
    await source.dispose();
  }
  throw new MediaError('unusable', `Frame ${frame} of "${media.name}" could not be read.`);
}

export async function runStill(task: StillTask): Promise<Outcome> {
  return { kind: 'still', png: await png(await read(task)) };
}

/** Screens that are seen on the picture, the likeliest first. */
export async function runPropose(task: ProposeTask): Promise<Outcome> {
  return { kind: 'propose', proposals: screensSeen(await read(task)).slice(0, task.most) };
}
