/** Clips of one kind into one, picture by picture as they are. */
import { mkdtemp, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, extname, join } from 'node:path';
import type { EncodeOptions } from './encode';
import { SOUND } from './codecs';
import { INPUT_GUARD, ended, start } from './ffmpeg';
import { MediaError } from './media-error';

type Joined = Pick<EncodeOptions, 'sound' | 'timecode'>;

/** How the clip is written, with sound and timecode. */
function writtenAs(type: string, { sound, timecode }: Joined): string[] {
  const heard = sound
    ? ['-ss', sound.from.toFixed(6), '-t', sound.seconds.toFixed(6), ...INPUT_GUARD, ...sound.input]
    : [];
  const isMov = type === '.mov' || type === '.mp4';
  return [
    ...heard,
    ...['-map', '0:v:0'],
    ...(sound ? ['-map', '1:a:0?', ...(SOUND[type] ?? [])] : []),
    ...['-c:v', 'copy'],
    ...(isMov ? ['-movflags', type === '.mp4' ? '+faststart' : '+write_colr'] : []),
    ...(isMov && timecode ? ['-timecode', timecode] : []),
    ...['-map_metadata', '-1', '-fflags', '+bitexact'],
  ];
}

/** @param clips paths of our own, in order. @throws MediaError; nothing is left behind then */
export async function joinClips(clips: readonly string[], path: string, o: Joined = {}): Promise<void> {
  const folder = await mkdtemp(join(dirname(path), '.yarlop-part-'));
  const type = extname(path).toLowerCase();
  const part = join(folder, `whole${type}`);
  const list = join(folder, 'list.txt');
  try {
    await writeFile(list, clips.map((c) => `file '${c.replaceAll("'", "'\\''")}'\n`).join(''));
    const line = [...['-y', '-f', 'concat', '-safe', '0', '-i', list], ...writtenAs(type, o), part];
    const { code, stderr } = await ended(start('ffmpeg', line, { writes: folder }));
    if (code !== 0)
      throw new MediaError(
        'tool',
        `The parts of the clip could not be joined (${
          stderr
            .trim()
            .split('\n')
            .at(-1)
            ?.replace(/\/\S*\//g, '')
            .slice(0, 160) ?? code
        }).`,
      );
    await rename(part, path);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
