/**
 * Ingest decodes a plate once and writes, in the same pass: a lossless all-intra mezzanine (FFVHUFF in Matroska) for
 * exact random access, the raw luma for the follower, and small JPEG frames for playback, packed in one file.
 */
import { open, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import type { Mix } from '@yarlop/core/follow/picture/reading';
import type { FrameRange } from './damage';
import { assertNoneLeftOut, damageNote, damagedFrames } from './damage';
import { isFloat, toRgbFilter } from './decode';
import { INPUT_GUARD, endedUnless, start } from './ffmpeg';
import { MediaError } from './media-error';
import type { Probe } from './probe';
import { assertOneSize } from './one-size';
import type { Source } from './source';

export const MEZZANINE = 'mezzanine.mkv';
export const LUMA = 'luma.raw';
export const PROXY = 'proxy.mjpeg';
export const PROXY_INDEX = 'proxy.json';
/** All that reading in leaves. */
const FILES = [MEZZANINE, LUMA, PROXY, PROXY_INDEX] as const;
/** px of the playback proxy: as wide as the page. By trial. */
const PROXY_WIDTH = 1280;

export interface ProxyIndex {
  readonly width: number;
  readonly height: number;
  /** byte offsets of the frames, and the file's end */
  readonly offsets: readonly number[];
}

export interface IngestResult {
  readonly frameCount: number;
  /** frames whose data could not be read as it was written */
  readonly damaged: readonly FrameRange[];
  readonly notes: readonly string[];
}

/**
 * Float pictures are kept in the mezzanine as they are seen: through the sRGB curve, in 16 bits. The light itself stays
 * in the original.
 */
function seenInput(source: Source, p: Probe): readonly string[] {
  return p.codec === 'exr' ? ['-apply_trc', 'iec61966_2_1', ...source.input] : source.input;
}

/** What the mezzanine's pictures are, where the original's are floats. */
export function mezzanineProbe(p: Probe): Probe {
  return isFloat(p)
    ? { ...p, pixelFormat: 'gbrp16le', bitDepth: 16, colour: { ...p.colour, transfer: 'iec61966-2-1' } }
    : p;
}

/** Pixel formats that FFVHUFF keeps as they are; anything else goes to the nearest of them without losing bits. */
function mezzanineFormat(p: Probe): string {
  if (/^yuvj?4(20|22|44)p$/.test(p.pixelFormat)) return p.pixelFormat.replace('yuvj', 'yuv');
  if (/^yuv4(20|22|44)p(10|12|14|16)le$/.test(p.pixelFormat)) return p.pixelFormat;
  if (/^yuva4(20|22|44)p/.test(p.pixelFormat)) return p.bitDepth > 8 ? 'yuv444p16le' : 'yuv444p';
  return p.bitDepth > 8 ? 'gbrp16le' : 'gbrp';
}

/** @param mix of the channels whose grey is wanted instead of luma */
export function lumaArguments(p: Probe, mix?: Mix): string[] {
  const weights = mix && ['rr', 'rg', 'rb'].map((k, i) => `${k}=${mix[i]!.toFixed(3)}`).join(':');
  return [
    ...(weights
      ? [
          '-vf',
          `${toRgbFilter(p)},format=${p.bitDepth > 8 ? 'gbrp16le' : 'gbrp'},colorchannelmixer=${weights},extractplanes=r`,
        ]
      : []),
    '-vsync',
    'passthrough',
    '-pix_fmt',
    p.bitDepth > 8 ? 'gray16le' : 'gray',
    '-f',
    'rawvideo',
  ];
}

/**
 * Starts of the JPEG pictures in a byte run: FF D8 FF; inside a picture's data FF is always followed by 00 or a
 * restart.
 */
async function indexJpegs(path: string): Promise<number[]> {
  const file = await open(path, 'r');
  const offsets: number[] = [];
  const block = Buffer.alloc(1 << 20);
  let position = 0;
  let carry = Buffer.alloc(0);
  for (;;) {
    const { bytesRead } = await file.read(block, 0, block.length, position);
    if (bytesRead === 0) break;
    const text = Buffer.concat([carry, block.subarray(0, bytesRead)]);
    for (let i = text.indexOf(0xff); i >= 0 && i + 2 < text.length; i = text.indexOf(0xff, i + 1))
      if (text[i + 1] === 0xd8 && text[i + 2] === 0xff) offsets.push(position - carry.length + i);
    position += bytesRead;
    carry = Buffer.from(text.subarray(Math.max(0, text.length - 2)));
  }
  await file.close();
  return [...offsets, position];
}

/** Frames that equal the one before, byte for byte. */
async function countRepeats(path: string, frameBytes: number, frames: number): Promise<number> {
  const file = await open(path, 'r');
  let a = Buffer.alloc(frameBytes);
  let b = Buffer.alloc(frameBytes);
  let repeats = 0;
  for (let n = 0; n < frames; n++) {
    await file.read(b, 0, frameBytes, n * frameBytes);
    if (n > 0 && a.equals(b)) repeats++;
    [a, b] = [b, a];
  }
  await file.close();
  return repeats;
}

/** Of the luma's bytes; what mezzanine and proxies take beside it, seldom more. By trial. */
const BESIDE_LUMA = 1.8;

/** Bytes of disk that reading in will about need. */
export function ingestNeeds(p: Pick<Probe, 'width' | 'height' | 'frameCount' | 'bitDepth'>): number {
  const luma = p.width * p.height * p.frameCount * (p.bitDepth > 8 ? 2 : 1);
  return luma * (1 + BESIDE_LUMA);
}

/** A file of an ingest that is under way. */
const partOf = (folder: string, name: string): string => join(folder, `${name}.part`);

/** Px of the playback proxy; both even. */
function proxySize(p: Probe): Pick<ProxyIndex, 'width' | 'height'> {
  const scale = Math.min(1, PROXY_WIDTH / p.width);
  const even = (v: number): number => Math.max(2, 2 * Math.round((v * scale) / 2));
  return { width: even(p.width), height: even(p.height) };
}

/** One decode, three files: the mezzanine, the luma and the playback proxy. */
function ingestArguments(source: Source, p: Probe, folder: string): string[] {
  const proxy = proxySize(p);
  const toFull = /^yuvj/.test(p.pixelFormat) ? ',scale=in_range=pc:out_range=pc' : '';
  const mezzanine = [
    ...['-vf', `setpts=N/(${p.frameRate[0]}/${p.frameRate[1]})/TB${toFull}`, '-vsync', 'passthrough'],
    ...['-pix_fmt', mezzanineFormat(p), '-c:v', 'ffvhuff', '-enc_time_base', `${p.frameRate[1]}/${p.frameRate[0]}`],
    ...['-an', '-f', 'matroska', partOf(folder, MEZZANINE)],
  ];
  const playback = [
    ...['-vf', `scale=${proxy.width}:${proxy.height}:flags=area:out_range=pc`, '-vsync', 'passthrough'],
    ...['-pix_fmt', 'yuvj420p', '-c:v', 'mjpeg', '-q:v', '3', '-f', 'mjpeg', partOf(folder, PROXY)],
  ];
  return [
    ...[...INPUT_GUARD, '-y', ...seenInput(source, p), '-progress', 'pipe:1'],
    ...['-map', '0:v:0', ...mezzanine],
    ...['-map', '0:v:0', ...lumaArguments(p), partOf(folder, LUMA)],
    ...['-map', '0:v:0', ...playback],
  ];
}

/** @throws MediaError where the decoder failed, or the disk was full for it */
function assertDecoded({ name }: Source, code: number | null, stderr: string): void {
  // The last pictures can be lost to a full disk without the decoder's exit telling it.
  const isFull = /No space left/.test(stderr);
  if (code === 0 && !isFull) return;
  const last = stderr
    .trim()
    .split('\n')
    .at(-1)!
    .replace(/\/\S*\//g, '')
    .slice(0, 160);
  const why = isFull ? 'the disk is full; free some space and bring it in again' : last || 'the decoder stopped';
  throw new MediaError('unusable', `"${name}" could not be decoded: ${why}.`);
}

/** Frames that were read in. @throws MediaError where there is none */
async function framesIn(source: Source, p: Probe, folder: string): Promise<{ frames: number; bytesOfOne: number }> {
  const bytesOfOne = p.width * p.height * (p.bitDepth > 8 ? 2 : 1);
  const frames = Math.floor((await stat(partOf(folder, LUMA))).size / bytesOfOne);
  if (frames === 0)
    throw new MediaError('unusable', `"${source.name}" holds no complete picture; copy or export it again.`);
  return { frames, bytesOfOne };
}

/** Where the proxy's frames lie. @throws MediaError where some are missing */
async function indexProxy(source: Source, folder: string, frames: number): Promise<number[]> {
  const offsets = await indexJpegs(partOf(folder, PROXY));
  if (offsets.length !== frames + 1)
    throw new MediaError(
      'tool',
      `The playback proxy of "${source.name}" has ${offsets.length - 1} frames instead of ${frames}.`,
    );
  return offsets;
}

/** What the person should know of what was read in. */
function notesOfFrames(p: Probe, frames: number, repeats: number): string[] {
  const notes: string[] = [];
  if (repeats > 0)
    notes.push(`${repeats} repeated ${repeats === 1 ? 'frame' : 'frames'}: equal to the one before, byte for byte.`);
  if (frames !== p.frameCount) notes.push(`The container promised ${p.frameCount} frames; ${frames} could be decoded.`);
  return notes;
}

/**
 * @param folder receives the files, whole or not at all
 * @param onProgress frames done so far
 * @param cancelled polled; true ends the work with a MediaError `cancelled`
 */
export async function ingest(
  source: Source,
  p: Probe,
  folder: string,
  onProgress: (frames: number) => void,
  cancelled: () => boolean,
): Promise<IngestResult> {
  await assertOneSize(source, cancelled);
  const child = start('ffmpeg', ingestArguments(source, p, folder), { writes: folder });
  createInterface({ input: child.stdout }).on(
    'line',
    (line) => line.startsWith('frame=') && onProgress(Number(line.slice(6))),
  );
  try {
    const { code, stderr } = await endedUnless(cancelled, child);
    assertDecoded(source, code, stderr);
    const { frames, bytesOfOne } = await framesIn(source, p, folder);
    await assertNoneLeftOut(source, p, frames, cancelled);
    const damaged = stderr.trim() === '' ? [] : await damagedFrames(source, cancelled);
    const offsets = await indexProxy(source, folder, frames);
    const repeats = await countRepeats(partOf(folder, LUMA), bytesOfOne, frames);
    const index: ProxyIndex = { ...proxySize(p), offsets };
    await writeFile(partOf(folder, PROXY_INDEX), JSON.stringify(index));
    for (const name of FILES) await rename(partOf(folder, name), join(folder, name));
    const damage = damageNote(damaged, p.firstFrame);
    const notes = [...notesOfFrames(p, frames, repeats), ...(damage === null ? [] : [damage])];
    return { frameCount: frames, damaged, notes };
  } catch (e) {
    for (const name of FILES) await rm(partOf(folder, name), { force: true });
    throw e;
  }
}

/** Reads where the frames lie in the proxy that was made in `folder`. @throws when it is missing or spoilt */
export async function readProxyIndex(folder: string): Promise<ProxyIndex> {
  return JSON.parse(await readFile(join(folder, PROXY_INDEX), 'utf8')) as ProxyIndex;
}

/** Single frames wanted beside the luma: RGB, 8 or 16 bit as the plate, raw. */
export interface Still {
  readonly frame: number;
  readonly path: string;
}

/** Writes only the luma (or a channel mix), for work without an ingest. @returns the number of frames */
export async function extractLuma(
  source: Source,
  p: Probe,
  path: string,
  cancelled: () => boolean,
  o: { readonly mix?: Mix; readonly stills?: readonly Still[] } = {},
): Promise<number> {
  const stills = (o.stills ?? []).flatMap((s) => [
    '-map',
    '0:v:0',
    '-vf',
    `select=eq(n\\,${s.frame}),${toRgbFilter(p)}`,
    '-frames:v',
    '1',
    '-vsync',
    'passthrough',
    '-pix_fmt',
    p.bitDepth > 8 ? 'rgb48le' : 'rgb24',
    '-f',
    'rawvideo',
    s.path,
  ]);
  const child = start(
    'ffmpeg',
    [...INPUT_GUARD, '-y', ...seenInput(source, p), '-map', '0:v:0', ...lumaArguments(p, o.mix), path, ...stills],
    { writes: dirname(path) },
  );
  const { code, stderr } = await endedUnless(cancelled, child);
  if (code !== 0)
    throw new MediaError(
      'unusable',
      `"${source.name}" could not be decoded (${
        stderr
          .trim()
          .split('\n')
          .at(-1)
          ?.replace(/\/\S*\//g, '')
          .slice(0, 160) ?? code
      }).`,
    );
  return Math.floor((await stat(path)).size / (p.width * p.height * (p.bitDepth > 8 ? 2 : 1)));
}
