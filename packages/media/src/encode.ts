/** Pictures into files: one encoder process fed over a pipe; the result appears under its name only when whole. */
import { once } from 'node:events';
import { mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import type { Raster } from '@yarlop/core/image/image';
import type { Tool } from './ffmpeg';
import { ended, start } from './ffmpeg';
import { MediaError } from './media-error';

export interface EncodeOptions {
  readonly width: number;
  readonly height: number;
  readonly frameRate: readonly [number, number];
  /** number of the first file of a sequence */
  readonly firstNumber: number;
  /** bits a channel of the pictures that will be written, 8 or 16 */
  readonly depth: 8 | 16;
  readonly alpha: boolean;
  /** constant rate factor of H.264, smaller is finer; 14 when left out */
  readonly rateFactor?: number;
}

const TAGS = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709'];
const TO_709 = 'scale=out_color_matrix=bt709:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int';

/** Codec arguments by file type; `null` where the type is not one of the deliveries. */
function codec(type: string, o: EncodeOptions): string[] | null {
  switch (type) {
    case '.mp4': return ['-vf', TO_709, '-c:v', 'libx264', '-preset', 'medium', '-crf', String(o.rateFactor ?? 14), '-pix_fmt', 'yuv420p', ...TAGS, '-movflags', '+faststart'];
    case '.mov': return ['-vf', TO_709, '-c:v', 'prores_ks', '-profile:v', o.alpha ? '4444' : '3', '-pix_fmt', o.alpha ? 'yuva444p10le' : 'yuv422p10le', ...TAGS];
    case '.webm': return ['-vf', TO_709, '-c:v', 'libvpx-vp9', '-crf', '20', '-b:v', '0', '-row-mt', '1', '-pix_fmt', o.alpha ? 'yuva420p' : 'yuv420p', ...TAGS];
    case '.png': return ['-c:v', 'png', '-pix_fmt', o.depth === 16 ? (o.alpha ? 'rgba64be' : 'rgb48be') : o.alpha ? 'rgba' : 'rgb24', '-f', 'image2'];
    case '.tif':
    case '.tiff': return ['-c:v', 'tiff', '-compression_algo', 'deflate', '-pix_fmt', o.depth === 16 ? (o.alpha ? 'rgba64le' : 'rgb48le') : o.alpha ? 'rgba' : 'rgb24', '-f', 'image2'];
    default: return null;
  }
}

export function isSequencePattern(path: string): boolean {
  return /%0?\d*d/.test(basename(path));
}

/** @throws MediaError for a name whose type is not delivered, before anything is written */
export function assertOutput(path: string, alpha: boolean): void {
  const type = extname(path).toLowerCase(), options: EncodeOptions = { width: 2, height: 2, frameRate: [1, 1], firstNumber: 0, depth: 8, alpha };
  if (!codec(type, options)) throw new MediaError('unusable', `"${basename(path)}" does not end in a type that can be written; use .mp4, .mov, .webm, or NAME.%04d.png or .tiff.`);
  if (['.png', '.tif', '.tiff'].includes(type) && !isSequencePattern(path)) throw new MediaError('unusable', `"${basename(path)}" names one picture; give a pattern such as NAME.%04d${type}.`);
  if (['.mp4'].includes(type) && alpha) throw new MediaError('unusable', 'MP4 carries no alpha; write the element as .mov, .webm or a PNG sequence.');
}

export class Encoder {
  private readonly finished: Promise<{ code: number | null; stderr: string }>;

  private constructor(private readonly child: Tool, private readonly folder: string, private readonly path: string) {
    this.finished = ended(child);
    child.stdin!.on('error', () => {});
  }

  static async open(path: string, o: EncodeOptions): Promise<Encoder> {
    assertOutput(path, o.alpha);
    await mkdir(dirname(path), { recursive: true });
    const folder = await mkdtemp(join(dirname(path), '.yarlop-part-'));
    const type = extname(path).toLowerCase(), odd = type === '.mp4' && (o.width % 2 || o.height % 2);
    const input = o.depth === 16 ? (o.alpha ? 'rgba64le' : 'rgb48le') : o.alpha ? 'rgba' : 'rgb24';
    const args = codec(type, o)!.map((a) => (odd && a === 'yuv420p' ? 'yuv444p' : a));
    const name = isSequencePattern(path) ? `%08d${type}` : `whole${type}`;
    const child = start('ffmpeg', [
      '-y', '-f', 'rawvideo', '-pix_fmt', input, '-video_size', `${o.width}x${o.height}`, '-framerate', `${o.frameRate[0]}/${o.frameRate[1]}`, '-color_range', 'pc', '-i', 'pipe:0',
      ...args, '-map_metadata', '-1', '-fflags', '+bitexact', '-flags:v', '+bitexact', ...(isSequencePattern(path) ? ['-start_number', String(o.firstNumber)] : []), join(folder, name),
    ].filter((a) => a !== '-nostdin'), true);
    return new Encoder(child, folder, path);
  }

  async write(picture: Raster): Promise<void> {
    const { data } = picture, stdin = this.child.stdin!;
    if (this.child.exitCode !== null) return this.fail();
    if (!stdin.write(Buffer.from(data.buffer, data.byteOffset, data.byteLength))) await Promise.race([once(stdin, 'drain'), this.finished]);
  }

  private async fail(): Promise<never> {
    const { code, stderr } = await this.finished;
    await rm(this.folder, { recursive: true, force: true });
    const why = /No space left/.test(stderr) ? 'the disk is full; free some space and deliver again' : stderr.trim().split('\n').at(-1)?.slice(0, 160) || `the encoder ended with ${code}`;
    throw new MediaError('tool', `${basename(this.path)} could not be written: ${why}.`);
  }

  /** Ends the encoder and puts the files in place. @returns the paths written */
  async close(): Promise<string[]> {
    this.child.stdin!.end();
    const { code } = await this.finished;
    if (code !== 0) return this.fail();
    const names = (await readdir(this.folder)).sort(), out: string[] = [];
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
    this.child.kill('SIGKILL');
    await this.finished;
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** `NAME.%04d.png` with a number filled in. */
export function numbered(pattern: string, n: number): string {
  return pattern.replace(/%0?(\d*)d/, (_, width: string) => String(n).padStart(Number(width) || 1, '0'));
}
