/** All frames of a clip as small grey pictures, for telling clips from each other. */
import { join } from 'node:path';
import { MEZZANINE } from './ingest';
import { ended, start } from './ffmpeg';
import { MediaError } from './media-error';

/**
 * @param folder of what was made of a clip when it was read in. @returns bytes, `width * height` a frame. @throws
 * MediaError
 */
export async function smallFrames(folder: string, width: number, height: number): Promise<Buffer> {
  const child = start('ffmpeg', [
    '-i',
    join(folder, MEZZANINE),
    '-map',
    '0:v:0',
    '-vf',
    `scale=${width}:${height}:flags=area`,
    '-vsync',
    'passthrough',
    '-pix_fmt',
    'gray',
    '-f',
    'rawvideo',
    'pipe:1',
  ]);
  const end = ended(child);
  const chunks: Buffer[] = [];
  for await (const c of child.stdout as AsyncIterable<Buffer>) chunks.push(c);
  const { code, stderr } = await end;
  if (code !== 0)
    throw new MediaError(
      'unusable',
      `The plate could not be looked through (${stderr.trim().split('\n').at(-1)?.slice(0, 160) ?? code}).`,
    );
  return Buffer.concat(chunks);
}
