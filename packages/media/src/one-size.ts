/** Whether the pictures of a sequence are all of one size: each has to be asked. */
import { basename } from 'node:path';
import pLimit from 'p-limit';
import { INPUT_GUARD, run } from './ffmpeg';
import { MediaError } from './media-error';
import { explain } from './probe';
import type { Source } from './source';

/** Pictures whose sizes are asked for at once. By trial. */
const AT_ONCE = 4;

/**
 * That the pictures of a sequence are all of one size: each is asked.
 * @param cancelled polled; true ends the work with a MediaError `cancelled`
 * @throws MediaError that names the first one that differs
 */
export async function assertOneSize(source: Source, cancelled: () => boolean = () => false): Promise<void> {
  if (source.firstNumber === null) return;
  const [first, ...others] = source.files;
  const size = await dimensions(first!);
  const limited = pLimit(AT_ONCE);
  const ask = async (file: string): Promise<void> => {
    if (cancelled()) throw new MediaError('cancelled', 'Cancelled.');
    const d = await dimensions(file);
    if (d === size) return;
    throw new MediaError(
      'sequence',
      `The pictures have mixed sizes: ${basename(first!)} is ${size}, ${basename(file)} is ${d}; bring in one size.`,
    );
  };
  try {
    await Promise.all(others.map((file) => limited(ask, file)));
  } finally {
    limited.clearQueue();
  }
}

async function dimensions(file: string): Promise<string> {
  const name = basename(file);
  const text = await run('ffprobe', [
    ...INPUT_GUARD,
    '-select_streams',
    'v:0',
    '-show_entries',
    'stream=width,height',
    '-of',
    'csv=p=0:s=x',
    file,
  ]).catch((e: Error) => {
    throw new MediaError('unusable', explain(name, e.message));
  });
  return text.trim().split('\n')[0]!;
}
