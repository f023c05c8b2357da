/** Clips of one kind into one, picture by picture as they are. */
import { mkdtemp, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, extname, join } from 'node:path';
import type { EncodeOptions } from './encode';
import { SOUND } from './encode';
import { INPUT_GUARD, ended, start } from './ffmpeg';
import { MediaError } from './media-error';

/** @param clips paths of our own, in order. @throws MediaError; nothing is left behind then */
export async function joinClips(
  clips: readonly string[],
  path: string,
  o: Pick<EncodeOptions, 'sound' | 'timecode'> = {},
): Promise<void> {
  const folder = await mkdtemp(join(dirname(path), '.yarlop-part-'));
  const type = extname(path).toLowerCase();
  const part = join(folder, `whole${type}`);
  const list = join(folder, 'list.txt');
  try {
    await writeFile(list, clips.map((c) => `file '${c.replaceAll("'", "'\\''")}'\n`).join(''));
    const sound = o.sound
      ? ['-ss', o.sound.from.toFixed(6), '-t', o.sound.seconds.toFixed(6), ...INPUT_GUARD, ...o.sound.input]
      : [];
    const { code, stderr } = await ended(
      start('ffmpeg', [
        '-y',
        '-f',
        'concat',
        '-safe',
        '0',
        '-i',
        list,
        ...sound,
        '-map',
        '0:v:0',
        ...(o.sound ? ['-map', '1:a:0?', ...(SOUND[type] ?? [])] : []),
        '-c:v',
        'copy',
        ...(type === '.mov' || type === '.mp4'
          ? [
              '-movflags',
              type === '.mp4' ? '+faststart' : '+write_colr',
              ...(o.timecode ? ['-timecode', o.timecode] : []),
            ]
          : []),
        '-map_metadata',
        '-1',
        '-fflags',
        '+bitexact',
        part,
      ]),
    );
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
