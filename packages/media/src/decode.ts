/** Pictures out of a source as raw planes, one after the other, over a pipe; back-pressure keeps memory to a few frames. */
import type { Raster } from '@yarlop/core/image/image';
import type { Readable } from 'node:stream';
import { INPUT_GUARD, ended, start } from './ffmpeg';
import { MediaError } from './media-error';
import type { ColourTags, Probe } from './probe';
import type { Source } from './source';

/** Cuts a byte stream into frames of `size` bytes. */
async function* frames(stream: Readable, size: number): AsyncGenerator<Buffer> {
  let frame = Buffer.allocUnsafe(size), filled = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    let at = 0;
    while (at < chunk.length) {
      const n = Math.min(size - filled, chunk.length - at);
      chunk.copy(frame, filled, at, at + n);
      filled += n;
      at += n;
      if (filled === size) {
        yield frame;
        frame = Buffer.allocUnsafe(size);
        filled = 0;
      }
    }
  }
}

/** The matrix by tag, else by size: HD is Rec.709, smaller is Rec.601 (ITU-R BT.709-6 and BT.601-7; use by size is common practice, no source). */
export function matrixOf(colour: ColourTags, height: number): string {
  const m = colour.matrix;
  if (m === 'smpte170m' || m === 'bt470bg') return 'bt601';
  if (m === 'bt2020nc') return 'bt2020';
  return m === 'bt709' || height > 576 ? 'bt709' : 'bt601';
}

export function toRgbFilter(colour: ColourTags, height: number): string {
  return `scale=in_color_matrix=${matrixOf(colour, height)}:in_range=${colour.range === 'full' ? 'pc' : 'tv'}:out_range=pc:flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp`;
}

export interface DecodeOptions {
  /** rgb or rgba at the source's depth (8 or 16) */
  readonly alpha?: boolean;
  readonly from?: number;
  readonly count?: number;
  /** seeking by time is exact only in constant-rate all-intra files */
  readonly seekable?: boolean;
}

/** RGB or RGBA pictures, full range; 16-bit for sources deeper than 8. @throws MediaError when decoding fails */
export async function* decodeRgb(source: Source, p: Probe, o: DecodeOptions = {}): AsyncGenerator<Raster> {
  const deep = p.bitDepth > 8, channels = o.alpha ? 4 : 3, from = o.from ?? 0;
  const format = o.alpha ? (deep ? 'rgba64le' : 'rgba') : deep ? 'rgb48le' : 'rgb24';
  const seek = o.seekable && from > 0 ? ['-ss', (((from - 0.5) * p.frameRate[1]) / p.frameRate[0]).toFixed(6)] : [];
  const select = !o.seekable && from > 0 ? `select=gte(n\\,${from}),` : '';
  const child = start('ffmpeg', [
    ...INPUT_GUARD, ...seek, ...source.input, '-map', '0:v:0', '-vf', `${select}${toRgbFilter(p.colour, p.height)}`,
    ...(o.count ? ['-frames:v', String(o.count)] : []), '-vsync', 'passthrough', '-pix_fmt', format, '-f', 'rawvideo', 'pipe:1',
  ]);
  const end = ended(child);
  try {
    for await (const b of frames(child.stdout, p.width * p.height * channels * (deep ? 2 : 1))) {
      const data = deep ? new Uint16Array(b.buffer, b.byteOffset, b.byteLength / 2) : b;
      yield { width: p.width, height: p.height, channels, data };
    }
    const { code, stderr } = await end;
    if (code !== 0) throw new MediaError('unusable', `"${source.name}" could not be decoded to its end (${stderr.trim().split('\n').at(-1)?.slice(0, 160) ?? code}).`);
  } finally {
    child.kill('SIGKILL');
  }
}
