/** Pictures into files: one encoder process fed over a pipe; the result appears under its name only when whole. */
import { once } from 'node:events';
import { mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import type { Raster } from '@yarlop/core/image/image';
import type { Tool } from './ffmpeg';
import { INPUT_GUARD, ended, start, stop } from './ffmpeg';
import type { ColourTags } from './probe';
import { MediaError } from './media-error';

export interface EncodeOptions {
  readonly width: number;
  readonly height: number;
  readonly frameRate: readonly [number, number];
  /** number of the first file of a sequence */
  readonly firstNumber: number;
  /** bits a channel of the pictures that will be written: 8, 16, or 32 for floats */
  readonly depth: 8 | 16 | 32;
  readonly alpha: boolean;
  /** constant rate factor of H.264, smaller is finer; 14 when left out */
  readonly rateFactor?: number;
  /** OpenEXR with 32 bits a channel instead of 16 */
  readonly fullFloat?: boolean;
  /** HEVC instead of H.264 in an .mp4 */
  readonly hevc?: boolean;
  /** of the plate, written as the file's tags; Rec.709 where they are not known */
  readonly colour?: ColourTags;
  /** of the first frame, where the plate has one */
  readonly timecode?: string;
  /** sound that is carried along: what to open, and from where for how long, s */
  readonly sound?: { readonly input: readonly string[]; readonly from: number; readonly seconds: number };
}

/** Words that files take; a curve or primaries set by hand that no file has a word for go out as Rec.709. */
const FILE_PRIMARIES = ['bt709', 'bt470bg', 'smpte170m', 'smpte240m', 'bt2020', 'smpte431', 'smpte432'];
const FILE_TRANSFERS = ['bt709', 'smpte170m', 'iec61966-2-1', 'bt2020-10', 'bt2020-12', 'smpte2084', 'arib-std-b67'];
/** Primaries, curve and matrix as tags, and the filter that makes pictures of that matrix. */
function colourOf(c: ColourTags | undefined): { readonly tags: string[]; readonly toYuv: string } {
  const wide = c?.primaries === 'bt2020';
  const matrix = wide ? 'bt2020nc' : 'bt709';
  const primaries = FILE_PRIMARIES.includes(c?.primaries ?? '') ? c!.primaries! : 'bt709';
  const transfer = FILE_TRANSFERS.includes(c?.transfer ?? '') ? c!.transfer! : 'bt709';
  // Some encoders take the tags of the frames and not those that they are told.
  return {
    tags: ['-color_primaries', primaries, '-color_trc', transfer, '-colorspace', matrix],
    toYuv: `scale=out_color_matrix=${wide ? 'bt2020' : 'bt709'}:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int,setparams=color_primaries=${primaries}:color_trc=${transfer}:colorspace=${matrix}`,
  };
}

type Samples = Pick<EncodeOptions, 'depth' | 'alpha'>;

/** ffmpeg's name of planar RGB, as FFV1 takes it. */
function planarFormat({ depth, alpha }: Samples): string {
  if (depth > 8) return alpha ? 'gbrap16le' : 'gbrp16le';
  return alpha ? 'bgra' : 'bgr0';
}

/** ffmpeg's name of interleaved RGB; 16-bit samples in the byte order that the file type holds them in. */
function packedFormat({ depth, alpha }: Samples, order: 'le' | 'be'): string {
  if (depth === 16) return `${alpha ? 'rgba64' : 'rgb48'}${order}`;
  return alpha ? 'rgba' : 'rgb24';
}

/** Codec arguments by file type; `null` where the type is not one of the deliveries. */
function codec(type: string, o: EncodeOptions): string[] | null {
  const { tags: TAGS, toYuv: TO_709 } = colourOf(o.colour);
  switch (type) {
    // Measured at 1080p on two cores: two thirds of the time of "veryfast"; with this factor as near to the picture, in
    // files half as large again to twice as large.
    case '.mp4':
      return o.hevc
        ? [
            '-vf',
            TO_709,
            '-c:v',
            'libx265',
            '-preset',
            'veryfast',
            '-crf',
            String(o.rateFactor ?? 14),
            '-tag:v',
            'hvc1',
            '-x265-params',
            'log-level=error',
            '-pix_fmt',
            o.depth > 8 ? 'yuv420p10le' : 'yuv420p',
            ...TAGS,
            '-movflags',
            '+faststart',
          ]
        : [
            '-vf',
            TO_709,
            '-c:v',
            'libx264',
            '-preset',
            'superfast',
            '-crf',
            String(o.rateFactor ?? 14),
            '-pix_fmt',
            'yuv420p',
            ...TAGS,
            '-movflags',
            '+faststart',
          ];
    case '.mov':
      return [
        '-vf',
        TO_709,
        '-c:v',
        'prores_ks',
        '-profile:v',
        o.alpha ? '4444' : '3',
        '-pix_fmt',
        o.alpha ? 'yuva444p10le' : 'yuv422p10le',
        ...TAGS,
        '-movflags',
        '+write_colr',
      ];
    case '.webm':
      return [
        '-vf',
        TO_709,
        '-c:v',
        'libvpx-vp9',
        '-crf',
        '20',
        '-b:v',
        '0',
        '-row-mt',
        '1',
        '-pix_fmt',
        o.alpha ? 'yuva420p' : 'yuv420p',
        ...TAGS,
      ];
    case '.mkv':
      return ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-pix_fmt', planarFormat(o)];
    case '.png':
      return ['-c:v', 'png', '-pix_fmt', packedFormat(o, 'be'), '-f', 'image2'];
    case '.tif':
    case '.tiff':
      return ['-c:v', 'tiff', '-compression_algo', 'deflate', '-pix_fmt', packedFormat(o, 'le'), '-f', 'image2'];
    // 32 bits hardly become smaller: run lengths are three times as fast as deflate there.
    case '.exr':
      return [
        '-c:v',
        'exr',
        '-compression',
        o.fullFloat ? 'rle' : 'zip16',
        '-format',
        o.fullFloat ? 'float' : 'half',
        '-pix_fmt',
        o.alpha ? 'gbrapf32le' : 'gbrpf32le',
        '-f',
        'image2',
      ];
    default:
      return null;
  }
}

/** How sound is coded beside the pictures, by file type. */
export const SOUND: Readonly<Record<string, readonly string[]>> = {
  '.mp4': ['-c:a', 'aac', '-b:a', '256k'],
  '.mov': ['-c:a', 'pcm_s24le'],
  '.webm': ['-c:a', 'libopus', '-b:a', '160k'],
  '.mkv': ['-c:a', 'flac'],
};
const SEQUENCES = ['.png', '.tif', '.tiff', '.exr'];

/** Whether a file type holds floats. */
export function holdsFloats(path: string): boolean {
  return extname(path).toLowerCase() === '.exr';
}

/** Planes of green, blue, red and alpha, as the float formats lie in memory. */
function planar(picture: Raster, alpha: boolean): Float32Array {
  const { width, height, channels, data } = picture;
  const n = width * height;
  const out = new Float32Array(n * (alpha ? 4 : 3));
  for (let i = 0, k = 0; i < n; i++, k += channels) {
    out[i] = data[k + 1]!;
    out[n + i] = data[k + 2]!;
    out[2 * n + i] = data[k]!;
  }
  if (alpha) for (let i = 0, k = 3; i < n; i++, k += channels) out[3 * n + i] = channels === 4 ? data[k]! : 1;
  return out;
}

/** Whether a path names a numbered sequence, such as `a.%04d.png`. */
export function isSequencePattern(path: string): boolean {
  return /%0?\d*d/.test(basename(path));
}

/** @throws MediaError for a name whose type is not delivered, before anything is written */
export function assertOutput(path: string, alpha: boolean): void {
  const type = extname(path).toLowerCase();
  const options: EncodeOptions = { width: 2, height: 2, frameRate: [1, 1], firstNumber: 0, depth: 8, alpha };
  if (!codec(type, options))
    throw new MediaError(
      'unusable',
      `"${basename(path)}" does not end in a type that can be written; use .mp4, .mov, .webm, .mkv, or NAME.%04d.png, .tiff or .exr.`,
    );
  if (SEQUENCES.includes(type) && !isSequencePattern(path))
    throw new MediaError('unusable', `"${basename(path)}" names one picture; give a pattern such as NAME.%04d${type}.`);
  if (['.mp4'].includes(type) && alpha)
    throw new MediaError('unusable', 'MP4 carries no alpha; write the element as .mov, .webm or a PNG sequence.');
}

/** Writes pictures into a file or a sequence through ffmpeg, frame by frame. @throws MediaError when ffmpeg fails */
export class Encoder {
  private readonly finished: Promise<{ code: number | null; stderr: string }>;

  private constructor(
    private readonly child: Tool,
    private readonly folder: string,
    private readonly path: string,
    private readonly options: EncodeOptions,
  ) {
    this.finished = ended(child);
    child.stdin!.on('error', () => {});
  }

  static async open(path: string, o: EncodeOptions): Promise<Encoder> {
    assertOutput(path, o.alpha);
    await mkdir(dirname(path), { recursive: true });
    const folder = await mkdtemp(join(dirname(path), '.yarlop-part-'));
    const type = extname(path).toLowerCase();
    const odd = type === '.mp4' && (o.width % 2 || o.height % 2);
    const floats = o.alpha ? 'gbrapf32le' : 'gbrpf32le';
    const input = o.depth === 32 ? floats : packedFormat(o, 'le');
    const args = codec(type, o)!.map((a) => (odd && a === 'yuv420p' ? 'yuv444p' : a));
    const sound =
      o.sound && !isSequencePattern(path)
        ? ['-ss', o.sound.from.toFixed(6), '-t', o.sound.seconds.toFixed(6), ...INPUT_GUARD, ...o.sound.input]
        : [];
    const voice = sound.length > 0 ? ['-map', '0:v:0', '-map', '1:a:0?', ...(SOUND[type] ?? [])] : [];
    const name = isSequencePattern(path) ? `%08d${type}` : `whole${type}`;
    const child = start(
      'ffmpeg',
      [
        '-y',
        '-f',
        'rawvideo',
        '-pix_fmt',
        input,
        '-video_size',
        `${o.width}x${o.height}`,
        '-framerate',
        `${o.frameRate[0]}/${o.frameRate[1]}`,
        '-color_range',
        'pc',
        '-i',
        'pipe:0',
        ...sound,
        ...args,
        ...voice,
        ...(o.timecode && (type === '.mov' || type === '.mp4') ? ['-timecode', o.timecode] : []),
        '-map_metadata',
        '-1',
        '-fflags',
        '+bitexact',
        '-flags:v',
        '+bitexact',
        ...(isSequencePattern(path) ? ['-start_number', String(o.firstNumber)] : []),
        join(folder, name),
      ].filter((a) => a !== '-nostdin'),
      { input: true, writes: folder },
    );
    return new Encoder(child, folder, path, o);
  }

  async write(picture: Raster): Promise<void> {
    const data = this.options.depth === 32 ? planar(picture, this.options.alpha) : picture.data;
    const stdin = this.child.stdin!;
    if (this.child.exitCode !== null) return this.fail();
    if (!stdin.write(Buffer.from(data.buffer, data.byteOffset, data.byteLength)))
      await Promise.race([once(stdin, 'drain'), this.finished]);
  }

  private async fail(): Promise<never> {
    const { code, stderr } = await this.finished;
    await rm(this.folder, { recursive: true, force: true });
    const why = /No space left/.test(stderr)
      ? 'the disk is full; free some space and deliver again'
      : stderr.trim().split('\n').at(-1)?.slice(0, 160) || `the encoder ended with ${code}`;
    throw new MediaError('tool', `${basename(this.path)} could not be written: ${why}.`);
  }

  /** Ends the encoder and puts the files in place. @returns the paths written */
  async close(): Promise<string[]> {
    this.child.stdin!.end();
    const { code } = await this.finished;
    if (code !== 0) return this.fail();
    const names = (await readdir(this.folder)).sort();
    const out: string[] = [];
    for (const name of names) {
      const number = Number(/^(\d+)/.exec(name)?.[1] ?? NaN);
      const final = Number.isNaN(number) ? this.path : join(dirname(this.path), numbered(basename(this.path), number));
      await rename(join(this.folder, name), final);
      out.push(final);
    }
    await rm(this.folder, { recursive: true, force: true });
    return out;
  }

  /** Ends the encoder and leaves nothing behind. */
  async abort(): Promise<void> {
    stop(this.child);
    await this.finished;
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** `NAME.%04d.png` with a number filled in. */
export function numbered(pattern: string, n: number): string {
  return pattern.replace(/%0?(\d*)d/, (_, width: string) => String(n).padStart(Number(width) || 1, '0'));
}
