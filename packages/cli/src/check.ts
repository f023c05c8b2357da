import { checkBatch, checkCamera, checkProject } from '@yarlop/contracts/validate';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { parseTrack, readJson } from '@yarlop/pipeline/track-file';
import { basename, extname } from 'node:path';
import { readAny } from './batch/files';

const CHECKS: Readonly<
  Record<string, { readonly what: string; readonly check: (value: unknown, name: string) => unknown }>
> = {
  'yarlop-screen': { what: 'screen', check: parseScreen },
  'yarlop-track': { what: 'track', check: parseTrack },
  'yarlop-camera': { what: 'camera', check: checkCamera },
  'yarlop-project': { what: 'project', check: checkProject },
  'yarlop-batch': { what: 'batch', check: checkBatch },
};

export async function check(path: string): Promise<void> {
  const isYaml = ['.yaml', '.yml'].includes(extname(path).toLowerCase());
  const value = await (isYaml ? readAny(path) : readJson(path));
  const format = (value as { format?: unknown } | null)?.format;
  const known = typeof format === 'string' ? CHECKS[format] : undefined;
  if (!known)
    throw new InputError(
      `${basename(path)}: format is ${JSON.stringify(format) ?? 'missing'}; it must be one of ${Object.keys(CHECKS)
        .map((f) => `"${f}"`)
        .join(', ')}.`,
    );
  known.check(value, basename(path));
  process.stdout.write(`${basename(path)} is a valid ${known.what} file.\n`);
}
