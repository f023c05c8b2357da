import { basename } from 'node:path';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { parseTrack, readJson } from '@yarlop/pipeline/track-file';

export async function check(path: string): Promise<void> {
  const value = await readJson(path);
  const format = (value as { format?: unknown } | null)?.format;
  if (format === 'yarlop-screen') parseScreen(value, basename(path));
  else if (format === 'yarlop-track') parseTrack(value, basename(path));
  else
    throw new InputError(
      `${basename(path)}: format is ${JSON.stringify(format) ?? 'missing'}; it must be "yarlop-screen" or "yarlop-track".`,
    );
  process.stdout.write(`${basename(path)} is a valid ${format === 'yarlop-screen' ? 'screen' : 'track'} file.\n`);
}
