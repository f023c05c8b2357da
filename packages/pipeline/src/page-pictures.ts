/** Pictures of the plate within texts: pages, scenes and reports that need no other file. */
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, extname, join } from 'node:path';
import { ffmpegWrites } from '@yarlop/media/ffmpeg';
import type { Source } from '@yarlop/media/source';
import { InputError } from './pipeline-error';

const PICTURES: Readonly<Record<string, string>> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.webp': 'image/webp',
  '.svg': 'image/svg+xml',
};
const CLIPS: Readonly<Record<string, string>> = { '.mp4': 'video/mp4', '.webm': 'video/webm' };

/**
 * A picture or clip as a data address, so that a page needs nothing else. @throws InputError for types that browsers do
 * not show
 */
export async function dataAddress(path: string): Promise<{ readonly url: string; readonly kind: 'video' | 'picture' }> {
  const type = extname(path).toLowerCase();
  const picture = PICTURES[type];
  const clip = CLIPS[type];
  if (!picture && !clip)
    throw new InputError(
      `${basename(path)} is not of a type that every browser shows; use ${[...Object.keys(PICTURES), ...Object.keys(CLIPS)].join(', ')}.`,
    );
  const bytes = await readFile(path).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(
      e.code === 'ENOENT' ? `${path} does not exist; check the path.` : `${path} cannot be read (${e.code}).`,
    );
  });
  return { url: `data:${picture ?? clip};base64,${bytes.toString('base64')}`, kind: picture ? 'picture' : 'video' };
}

/**
 * The plate as a clip for a page: every frame a key frame, so that a page can show each one exactly. @param width px at
 * the most
 */
export async function pagePlate(
  source: Source,
  width = 1920,
): Promise<{ readonly url: string; readonly kind: 'video' }> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-page-'));
  const path = join(folder, 'plate.mp4');
  try {
    await ffmpegWrites(
      source,
      [
        '-vf',
        `scale='min(${width},trunc(iw/2)*2)':-2`,
        '-c:v',
        'libx264',
        '-preset',
        'veryfast',
        '-crf',
        '18',
        '-g',
        '1',
        '-pix_fmt',
        'yuv420p',
        '-an',
        '-movflags',
        '+faststart',
        '-map_metadata',
        '-1',
        '-fflags',
        '+bitexact',
      ],
      path,
    );
    return { url: `data:video/mp4;base64,${(await readFile(path)).toString('base64')}`, kind: 'video' };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Small pictures of frames as data addresses. */
export async function thumbnails(
  source: Source,
  frames: readonly number[],
  width = 352,
): Promise<{ readonly frame: number; readonly url: string }[]> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-thumbs-'));
  const sorted = [...new Set(frames)].sort((a, b) => a - b);
  try {
    await ffmpegWrites(
      source,
      [
        '-vf',
        `select='${sorted.map((n) => `eq(n,${n})`).join('+')}',scale=w='min(${width},iw)':h=-2`,
        '-vsync',
        'passthrough',
        '-q:v',
        '4',
      ],
      join(folder, '%04d.jpg'),
    );
    const names = (await readdir(folder)).sort();
    return await Promise.all(
      names.map(async (name, i) => ({
        frame: sorted[i]!,
        url: `data:image/jpeg;base64,${(await readFile(join(folder, name))).toString('base64')}`,
      })),
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Pictures behind a scene, spread over the shot. */
const BACKDROPS = 60;
/** px of their width. */
const BACKDROP_WIDTH = 960;

/** Frames whose pictures stand behind a scene. */
export function backdropFrames(frameCount: number): number[] {
  const step = Math.max(1, Math.ceil(frameCount / BACKDROPS));
  return Array.from({ length: Math.ceil(frameCount / step) }, (_, i) => i * step);
}

/** Pictures of a plate for a scene that has it behind. */
export function backdropsOf(source: Source, frameCount: number): ReturnType<typeof thumbnails> {
  return thumbnails(source, backdropFrames(frameCount), BACKDROP_WIDTH);
}
