/** Pictures into files: one encoder process fed over a pipe; the result appears under its name only when whole. */
import { once } from 'node:events';
import { mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import type { Raster } from '@yarlop/core/image/image';
import type { Coded } from './codecs';
import { SOUND, codingOf, packedFormat } from './codecs';
import type { Tool } from './ffmpeg';
import { INPUT_GUARD, ended, start, stop } from './ffmpeg';
import { MediaError } from './media-error';

export interface EncodeOptions extends Coded {
  readonly width: number;
  readonly height: number;
  readonly frameRate: readonly [number, number];
  /** number of the first file of a sequence */
  readonly firstNumber: number;
  /** of the first frame, where the plate has one */
  readonly timecode?: string;
  /** sound that is carried along: what to open, and from where for how long, s */
  readonly sound?: { readonly input: readonly string[]; readonly from: number; readonly seconds: number };
}

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
  if (!codingOf(type, { depth: 8, alpha }))
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
    const args = codingOf(type, o)!.map((a) => (odd && a === 'yuv420p' ? 'yuv444p' : a));
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
