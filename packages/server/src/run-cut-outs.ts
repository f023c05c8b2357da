/** Rectangles of consecutive frames, in full pixels, in their worker thread: what the view rides on. */
import { join } from 'node:path';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { FrameBuffers } from '@yarlop/media/frame-buffers';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import { openSource } from '@yarlop/media/source';
import { toBytes } from './to-bytes';
import type { CutOutsTask, Line, Outcome } from './worker-protocol';

/** RGB of a rectangle, 8 bit, row-major. */
function cutOut(picture: Raster, left: number, top: number, width: number, height: number): Uint8Array<ArrayBuffer> {
  const codes = picture.data as Uint8Array | Uint16Array;
  const row = 3 * width;
  const out = codes instanceof Uint16Array ? new Uint16Array(row * height) : new Uint8Array(row * height);
  for (let y = 0; y < height; y++) {
    const at = 3 * ((top + y) * picture.width + left);
    out.set(codes.subarray(at, at + row), row * y);
  }
  return out instanceof Uint16Array ? toBytes(out) : out;
}

export async function runCutOuts(task: CutOutsTask, line: Line): Promise<Outcome> {
  const { media, folder, from, each, at, width, height } = task;
  const source = await openSource(join(folder, MEZZANINE));
  const buffers = new FrameBuffers();
  try {
    let done = 0;
    const range = { from, count: at.length / each, seekable: true, buffers };
    for await (const picture of decodeRgb(source, mezzanineProbe(media.probe), range)) {
      for (const { x, y } of at.slice(done, done + each))
        line.say({ type: 'pixels', done: ++done, data: cutOut(picture, x, y, width, height) });
      buffers.give(picture.data);
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'cut-outs' };
  } finally {
    await source.dispose();
  }
}
