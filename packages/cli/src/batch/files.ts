/** Files that describe whole jobs: a project is one shot, a batch is shots by fills by formats. Either is YAML or JSON. */
import type { BatchFile, ProjectFile } from '@yarlop/contracts/validate';
import { checkBatch, checkProject } from '@yarlop/contracts/validate';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { readText } from '@yarlop/pipeline/track-file';
import yaml from 'js-yaml';
import { basename, extname } from 'node:path';

/** Bytes; a longer file is no description of jobs. */
const MOST_BYTES = 4 * 1024 * 1024;

/** The name that files of a project without fills of their own go by. */
export const ONLY_FILL = 'fill';

/** @throws InputError for what is neither YAML nor JSON */
export async function readAny(path: string): Promise<unknown> {
  const text = await readText(path);
  if (text.length > MOST_BYTES) throw new InputError(`${basename(path)} is longer than 4 MB; it describes no jobs.`);
  try {
    // JSON is YAML as well.
    return yaml.load(text, { schema: yaml.JSON_SCHEMA, filename: basename(path) });
  } catch (e) {
    throw new InputError(`${basename(path)} is neither YAML nor JSON: ${(e as Error).message.split('\n')[0]}.`);
  }
}

export async function readBatch(path: string): Promise<BatchFile> {
  return checkBatch(await readAny(path), basename(path));
}

/** A project as the batch of one shot that it is. */
export async function readProject(path: string): Promise<BatchFile> {
  return asBatch(checkProject(await readAny(path), basename(path)), basename(path, extname(path)));
}

function asBatch(
  { name, plate, screens, from, to, fills, format: _format, ...rest }: ProjectFile,
  file: string,
): BatchFile {
  const shot = {
    name: name ?? file,
    plate,
    screens,
    ...(from === undefined ? {} : { from }),
    ...(to === undefined ? {} : { to }),
  };
  return {
    ...rest,
    format: 'yarlop-batch',
    shots: [shot],
    ...(fills === undefined ? {} : { fills: [{ name: ONLY_FILL, by: fills }] }),
  };
}
