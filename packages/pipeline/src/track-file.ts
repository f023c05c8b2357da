/** Track files in and out, by format name. */
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { TrackFile } from '@yarlop/core/formats/track-json';
import { fromTrackFile, toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import { readCsv, writeCsv } from '@yarlop/core/formats/csv';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { describe } from '@yarlop/core/formats/conventions';
import type { Track } from '@yarlop/core/track';
import { checkTrack } from '@yarlop/contracts/validate';
import { InputError } from './pipeline-error';

/** @throws InputError when the file is missing, too large or no JSON */
export async function readJson(path: string): Promise<unknown> {
  const text = await readFile(path, 'utf8').catch((e: NodeJS.ErrnoException) => {
    throw new InputError(e.code === 'ENOENT' ? `${path} does not exist; check the path.` : `${path} cannot be read (${e.code}).`);
  });
  try {
    return JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (e) {
    throw new InputError(`${basename(path)} is not valid JSON: ${(e as Error).message}.`);
  }
}

export async function readTrack(path: string): Promise<Track> {
  return parseTrack(await readJson(path), basename(path));
}

/** @throws ContractError or InputError: doubled or missing frames, a reference frame without a row */
export function parseTrack(value: unknown, what: string): Track {
  const file = checkTrack(value, what) as unknown as TrackFile;
  for (const s of file.screens) {
    for (const [i, f] of s.frames.entries()) {
      const expected = s.frames[0]!.frame + i;
      if (f.frame !== expected) throw new InputError(`${what}: screens "${s.name}", row ${i + 1}: frame ${f.frame} stands where ${expected} belongs; frames must rise by one.`);
    }
    if (!s.frames.some((f) => f.frame === s.referenceFrame)) throw new InputError(`${what}: screen "${s.name}" has no row for its reference frame ${s.referenceFrame}.`);
  }
  return fromTrackFile(file);
}

export const TEXT_FORMATS = ['csv', 'json'] as const;
export type TextFormat = (typeof TEXT_FORMATS)[number];

export function writeTrack(track: Track, format: TextFormat, conventions?: Conventions): string {
  return format === 'csv' ? writeCsv(track, conventions) : writeTrackJson(toTrackFile(track, conventions, describe));
}

export async function importTrack(path: string, format: TextFormat): Promise<Track> {
  if (format === 'json') return readTrack(path);
  const text = await readFile(path, 'utf8').catch((e: NodeJS.ErrnoException) => {
    throw new InputError(e.code === 'ENOENT' ? `${path} does not exist; check the path.` : `${path} cannot be read (${e.code}).`);
  });
  try {
    return readCsv(text);
  } catch (e) {
    throw new InputError(`${basename(path)}: ${(e as Error).message}`);
  }
}
