/** Published photographs of Debian's OpenCV documentation package; the test set-up fetches them. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import type { RawLuma } from '../../src/image/image';

const FOLDER = join(fileURLToPath(new URL('../../../../', import.meta.url)), '.cache', 'samples');

function place(name: string): string {
  const path = join(FOLDER, name);
  if (!existsSync(path))
    throw new Error(
      `The published photograph ${name} is missing: the test set-up could not fetch Debian's opencv-doc package; see its output.`,
    );
  return path;
}

export async function photograph(name: string): Promise<RawLuma> {
  const { data, info } = await sharp(place(name)).greyscale().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
}

/** The nine numbers of a matrix in OpenCV's XML storage. */
export function publishedMatrix(name: string): number[] {
  return /<data>([^<]*)<\/data>/
    .exec(readFileSync(place(name), 'utf8'))![1]!
    .trim()
    .split(/\s+/)
    .map(Number);
}

/** The numbers of a named matrix in OpenCV's YAML storage. */
export function publishedMatrices(name: string, matrix: string): number[] {
  return new RegExp(`${matrix}:[^\\[]*\\[([^\\]]*)\\]`)
    .exec(readFileSync(place(name), 'utf8'))![1]!
    .split(',')
    .map(Number);
}
