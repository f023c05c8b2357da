/** Track files in and out, by format name. */
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { TrackFile } from '@yarlop/core/formats/track-json';
import { fromTrackFile } from '@yarlop/core/formats/track-json';
import yaml from 'js-yaml';
import { readCsv } from '@yarlop/core/formats/csv';
import { readHomographyCsv, readHomographyJson, readOpenCvYaml } from '@yarlop/core/formats/homographies';
import type { Track } from '@yarlop/core/track';
import type { ReadId } from '@yarlop/contracts/formats';
import { FORMATS, can } from '@yarlop/contracts/formats';
import { checkTrack } from '@yarlop/contracts/validate';
import { InputError } from './pipeline-error';
import { readStMaps } from './read-st-maps';

/** @throws InputError when the file is missing, too large or no JSON */
export async function readJson(path: string): Promise<unknown> {
  const text = await readText(path);
  try {
    return JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (e) {
    throw new InputError(`${basename(path)} is not valid JSON: ${(e as Error).message}.`);
  }
}

/** Reads a track in any format that can be read back. @throws InputError, with what is wrong and where */
export async function readTrack(path: string): Promise<Track> {
  return parseTrack(await readJson(path), basename(path));
}

/** @throws ContractError or InputError: doubled or missing frames, a reference frame without a row */
export function parseTrack(value: unknown, what: string): Track {
  const file = checkTrack(value, what) as unknown as TrackFile;
  for (const s of file.screens) {
    for (const [i, f] of s.frames.entries()) {
      const expected = s.frames[0]!.frame + i;
      if (f.frame !== expected)
        throw new InputError(
          `${what}: screens "${s.name}", row ${i + 1}: frame ${f.frame} stands where ${expected} belongs; frames must rise by one.`,
        );
    }
    if (!s.frames.some((f) => f.frame === s.referenceFrame))
      throw new InputError(`${what}: screen "${s.name}" has no row for its reference frame ${s.referenceFrame}.`);
  }
  return fromTrackFile(file);
}

/** Formats that tracks are read back from. */
export type ImportFormat = ReadId | 'stmap';
export const IMPORT_FORMATS = FORMATS.filter((f) => can(f.id, 'read') || can(f.id, 'readPictures')).map(
  (f) => f.id as ImportFormat,
);

/** @throws InputError when the file is missing or cannot be read */
export async function readText(path: string): Promise<string> {
  return readFile(path, 'utf8').catch((e: NodeJS.ErrnoException) => {
    throw new InputError(
      e.code === 'ENOENT' ? `${path} does not exist; check the path.` : `${path} cannot be read (${e.code}).`,
    );
  });
}

/** OpenCV's YAML: its own tag for matrices, and a first line that other parsers do not know. */
function parseOpenCv(text: string): unknown {
  const matrix = new yaml.Type('tag:yaml.org,2002:opencv-matrix', { kind: 'mapping', construct: (m: unknown) => m });
  return yaml.load(text.replace(/^\uFEFF?%YAML:1\.0\s*\n/, ''), { schema: yaml.DEFAULT_SCHEMA.extend([matrix]) });
}

/** @throws InputError with the file's name, the line where there is one, and the reason */
export async function importTrack(path: string, format: ImportFormat): Promise<Track> {
  if (format === 'json') return readTrack(path);
  if (format === 'stmap') return readStMaps(path);
  return parseTrackText(await readText(path), format, basename(path));
}

const READERS: Readonly<Record<ReadId, (text: string, name: string) => Track>> = {
  csv: readCsv,
  tsv: readCsv,
  json: (text, name) => parseTrack(JSON.parse(text.replace(/^\uFEFF/, '')), name),
  'homography-csv': readHomographyCsv,
  'homography-json': (text) => readHomographyJson(JSON.parse(text)),
  'opencv-yaml': (text) => readOpenCvYaml(parseOpenCv(text)),
};

/** @throws InputError with the file's name, the line where there is one, and the reason */
export function parseTrackText(text: string, format: ReadId, name: string): Track {
  try {
    return READERS[format](text, name);
  } catch (e) {
    throw new InputError(`${name}: ${(e as Error).message.split('\n')[0]}`);
  }
}
