/**
 * Pictures out of a source as raw planes, one after the other, over a pipe; back-pressure keeps memory to a few frames.
 */
import type { Raster } from '@yarlop/core/image/image';
import type { Readable } from 'node:stream';
import { INPUT_GUARD, ended, start, stop } from './ffmpeg';
import { FrameBuffers } from './frame-buffers';
import { MediaError } from './media-error';
import type { ColourTags, Probe } from './probe';
import type { Source } from './source';

/** Cuts a byte stream into frames of `size` bytes. */
async function* frames(stream: Readable, size: number, buffers: FrameBuffers): AsyncGenerator<Buffer> {
  let frame = buffers.take(size);
  let filled = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    let at = 0;
    while (at < chunk.length) {
      const n = Math.min(size - filled, chunk.length - at);
      chunk.copy(frame, filled, at, at + n);
      filled += n;
      at += n;
      if (filled === size) {
        yield frame;
        frame = buffers.take(size);
        filled = 0;
      }
    }
  }
}

/**
 * The matrix by tag, else by size: HD is Rec.709, smaller is Rec.601 (ITU-R BT.709-6 and BT.601-7; use by size is
 * common practice, no source).
 */
export function matrixOf(colour: ColourTags, height: number): string {
  const m = colour.matrix;
  if (m === 'smpte170m' || m === 'bt470bg') return 'bt601';
  if (m === 'bt2020nc') return 'bt2020';
  return m === 'bt709' || height > 576 ? 'bt709' : 'bt601';
}

/** Formats that zscale takes as they are: planes of luma and chroma without alpha. */
const PLANAR = /^yuvj?4(20|22|44)p(10le|12le|14le|16le)?$/;
const ZSCALE_MATRIX: Readonly<Record<string, string>> = { bt709: '709', bt601: '170m', bt2020: '2020_ncl' };

/**
 * The filter that makes full-range RGB. Both ways are off by no more than rounding (see the tests); zscale takes a
 * tenth of the time, but takes only some formats, of even sizes.
 */
export function toRgbFilter(p: Pick<Probe, 'colour' | 'pixelFormat' | 'width' | 'height' | 'bitDepth'>): string {
  const matrix = matrixOf(p.colour, p.height);
  const full = p.colour.range === 'full';
  if (PLANAR.test(p.pixelFormat) && p.width % 2 === 0 && p.height % 2 === 0)
    return `zscale=matrixin=${ZSCALE_MATRIX[matrix]}:matrix=gbr:rangein=${full ? 'full' : 'limited'}:range=full,format=${p.bitDepth > 8 ? 'gbrp16le' : 'gbrp'}`;
  return `scale=in_color_matrix=${matrix}:in_range=${full ? 'pc' : 'tv'}:out_range=pc:flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp`;
}

export interface DecodeOptions {
  /** rgb or rgba at the source's depth (8 or 16) */
  readonly alpha?: boolean;
  readonly from?: number;
  readonly count?: number;
  /** seeking by time is exact only in constant-rate all-intra files */
  readonly seekable?: boolean;
  /** where pictures that are no longer needed are given back, if they are */
  readonly buffers?: FrameBuffers;
}

/** Which channel each plane of a float format holds; everything else goes through 16 bit. */
const FLOAT_PLANES: Readonly<Record<string, readonly number[]>> = {
  gbrpf32le: [1, 2, 0],
  gbrapf32le: [1, 2, 0, 3],
  grayf32le: [0, 0, 0],
};

/** Whether pictures of a source keep their floats. */
export function isFloat(p: Probe): boolean {
  return p.pixelFormat in FLOAT_PLANES;
}

/** Interleaves planes of floats, which come in the order green, blue, red, alpha. */
function interleaved(bytes: Buffer, pixels: number, pixelFormat: string, channels: 3 | 4): Float32Array {
  const planes = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 4);
  const order = FLOAT_PLANES[pixelFormat]!;
  const grey = pixelFormat.startsWith('gray');
  const out = new Float32Array(pixels * channels);
  for (let plane = 0; plane < (grey ? 1 : order.length); plane++)
    for (const c of grey ? [0, 1, 2] : [order[plane]!])
      if (c < channels) for (let i = 0, at = plane * pixels; i < pixels; i++) out[i * channels + c] = planes[at + i]!;
  if (channels === 4 && order.length < 4) for (let i = 3; i < out.length; i += 4) out[i] = 1;
  return out;
}

/** How pictures of a source come over the pipe. */
interface Layout {
  readonly pixelFormat: string;
  readonly channels: 3 | 4;
  /** bytes of one picture */
  readonly size: number;
  /** the bytes of one picture as samples of `channels` */
  readonly samples: (bytes: Buffer) => Raster['data'];
}

function layoutOf(p: Probe, alpha: boolean): Layout {
  const channels = alpha ? 4 : 3;
  const pixels = p.width * p.height;
  if (isFloat(p)) {
    const planes = p.pixelFormat.startsWith('gray') ? 1 : FLOAT_PLANES[p.pixelFormat]!.length;
    const samples = (b: Buffer): Float32Array => interleaved(b, pixels, p.pixelFormat, channels);
    return { pixelFormat: p.pixelFormat, channels, size: pixels * planes * 4, samples };
  }
  if (p.bitDepth > 8)
    return {
      pixelFormat: alpha ? 'rgba64le' : 'rgb48le',
      channels,
      size: pixels * channels * 2,
      samples: (b) => new Uint16Array(b.buffer, b.byteOffset, b.byteLength / 2),
    };
  return { pixelFormat: alpha ? 'rgba' : 'rgb24', channels, size: pixels * channels, samples: (b) => b };
}

function decodeArguments(source: Source, p: Probe, pixelFormat: string, o: DecodeOptions): string[] {
  const { from = 0, seekable = false } = o;
  const seconds = ((from - 0.5) * p.frameRate[1]) / p.frameRate[0];
  const seek = seekable && from > 0 ? ['-ss', seconds.toFixed(6)] : [];
  const select = !seekable && from > 0 ? `select=gte(n\\,${from}),` : '';
  return [
    ...INPUT_GUARD,
    ...seek,
    ...source.input,
    '-map',
    '0:v:0',
    '-vf',
    `${select}${isFloat(p) ? 'null' : toRgbFilter(p)}`,
    ...(o.count ? ['-frames:v', String(o.count)] : []),
    '-vsync',
    'passthrough',
    '-pix_fmt',
    pixelFormat,
    '-f',
    'rawvideo',
    'pipe:1',
  ];
}

/**
 * RGB or RGBA pictures, full range; 16-bit for sources deeper than 8, floats for float sources. @throws MediaError when
 * decoding fails
 */
export async function* decodeRgb(source: Source, p: Probe, o: DecodeOptions = {}): AsyncGenerator<Raster> {
  const { pixelFormat, channels, size, samples } = layoutOf(p, o.alpha ?? false);
  const child = start('ffmpeg', decodeArguments(source, p, pixelFormat, o));
  const end = ended(child);
  try {
    for await (const b of frames(child.stdout, size, o.buffers ?? new FrameBuffers()))
      yield { width: p.width, height: p.height, channels, data: samples(b) };
    const { code, stderr } = await end;
    if (code !== 0)
      throw new MediaError(
        'unusable',
        `"${source.name}" could not be decoded to its end (${stderr.trim().split('\n').at(-1)?.slice(0, 160) ?? code}).`,
      );
  } finally {
    stop(child);
  }
}
