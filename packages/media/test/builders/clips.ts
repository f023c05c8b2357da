/** Short clips whose every frame carries its number in a row of black and white blocks, over moving texture. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import type { Raster } from '@yarlop/core/image/image';

export const BITS = 10;
export const BLOCK = 16;

export function drawFrame(n: number, width: number, height: number): Buffer {
  const b = Buffer.alloc(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = Math.floor(x / BLOCK);
      const code = y < BLOCK && bit < BITS;
      let v: number;
      if (code) v = (n >> bit) & 1 ? 235 : 20;
      else v = 90 + 60 * Math.sin((x - 2 * n) / 9) * Math.cos(y / 11) + 30 * Math.sin((x + y) / 4);
      b.fill(Math.max(0, Math.min(255, Math.round(v))), (y * width + x) * 3, (y * width + x) * 3 + 3);
    }
  return b;
}

export function readCode(r: Raster): number {
  const max = r.data instanceof Uint16Array ? 65535 : 255;
  let n = 0;
  for (let i = 0; i < BITS; i++)
    if (r.data[((BLOCK / 2) * r.width + i * BLOCK + BLOCK / 2) * r.channels]! > max / 2) n |= 1 << i;
  return n;
}

export interface ClipOptions {
  readonly frames?: number;
  readonly width?: number;
  readonly height?: number;
  readonly rate?: string;
  /** numbers burnt in, by frame; the frame's own when left out */
  readonly code?: (n: number) => number;
  readonly args: readonly string[];
}

/** Encodes through ffmpeg; `args` ends with the output's path. */
export async function makeClip(o: ClipOptions): Promise<void> {
  const { frames = 30, width = 320, height = 192, rate = '24' } = o;
  const child = spawn(
    'ffmpeg',
    [
      '-hide_banner',
      '-loglevel',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'rgb24',
      '-video_size',
      `${width}x${height}`,
      '-framerate',
      rate,
      '-i',
      'pipe:0',
      ...o.args,
    ],
    { stdio: ['pipe', 'ignore', 'pipe'] },
  );
  let stderr = '';
  child.stderr.on('data', (t: Buffer) => (stderr += t.toString()));
  child.stdin.on('error', () => {});
  const closed = once(child, 'close');
  for (let n = 0; n < frames; n++)
    if (!child.stdin.write(drawFrame(o.code?.(n) ?? n, width, height)))
      await Promise.race([once(child.stdin, 'drain'), closed]);
  child.stdin.end();
  const [code] = (await closed) as [number];
  if (code !== 0) throw new Error(stderr);
}

/** Hz of a clip's first tone, by how often it crosses zero. */
export async function pitch(path: string): Promise<number> {
  const child = spawn('ffmpeg', [
    '-loglevel',
    'error',
    '-i',
    path,
    '-f',
    's16le',
    '-ac',
    '1',
    '-ar',
    '48000',
    'pipe:1',
  ]);
  const parts: Buffer[] = [];
  child.stdout.on('data', (b: Buffer) => parts.push(b));
  await once(child, 'close');
  const all = Buffer.concat(parts);
  const n = all.length >> 1;
  // Near the beginning, past the coder's own delay.
  const [from, to] = [Math.round(0.1 * n), Math.round(0.4 * n)];
  let crossings = 0;
  for (let i = from; i < to; i++) if (all.readInt16LE(2 * i) < 0 !== all.readInt16LE(2 * i + 2) < 0) crossings++;
  return (crossings / 2 / (to - from)) * 48_000;
}

export async function ffmpeg(args: readonly string[]): Promise<void> {
  const child = spawn('ffmpeg', ['-hide_banner', '-loglevel', 'error', '-y', ...args], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let stderr = '';
  child.stderr.on('data', (t: Buffer) => (stderr += t.toString()));
  const [code] = (await once(child, 'close')) as [number];
  if (code !== 0) throw new Error(stderr);
}
