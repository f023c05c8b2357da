/**
 * Everything that was chosen in one zip: the files, a manifest with the checksum of each, and a text that explains
 * them. Reading one refuses what climbs out of its folder, is too large, is missing or was changed.
 */
import { createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, readFile, readdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, posix, relative, sep } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Readable } from 'node:stream';
import yauzl from 'yauzl';
import yazl from 'yazl';
import type { Track } from '@yarlop/core/track';
import { checksum } from './checksum';
import { InputError } from './pipeline-error';

export const MANIFEST = 'manifest.json';
/** Bytes beyond which a package is not opened. */
const MOST_BYTES = 200e9;
/** Files beyond which it is not opened. */
const MOST_ENTRIES = 200_000;

export interface PackagedFile {
  readonly path: string;
  readonly what: string;
}

export interface Manifest {
  readonly format: 'yarlop-package';
  readonly version: 1;
  readonly plate: Track['plate'];
  readonly screens: readonly string[];
  readonly files: readonly {
    readonly path: string;
    readonly what: string;
    readonly bytes: number;
    readonly sha256: string;
  }[];
}

/** What each file is and how its numbers count. */
function readme(track: Track, files: readonly PackagedFile[], conventions: string): string {
  const { plate } = track;
  return `Package of ${plate.name}\n\nPlate: ${plate.width}x${plate.height}, ${plate.frameCount} frames at ${plate.frameRate.join('/')} a second; frame 0 is labelled ${plate.firstFrame}.\nScreens: ${track.screens.map((s) => s.name).join(', ')}.\nCoordinates: ${conventions}.\nPictures of a sequence are numbered by the shot's own labels.\n\n${files.map((f) => `${f.path}\n    ${f.what}`).join('\n')}\n\n${MANIFEST} lists every file with its size and SHA-256 checksum.\n`;
}

/**
 * @param folder holds the files already; what it says of each in `files`
 * @param path of the zip, written whole
 */
export async function writePackage(
  track: Track,
  folder: string,
  files: readonly PackagedFile[],
  conventions: string,
  path: string,
): Promise<void> {
  await writeFile(join(folder, 'README.txt'), readme(track, files, conventions));
  const all = [{ path: 'README.txt', what: 'explains every file' }, ...files];
  const manifest: Manifest = {
    format: 'yarlop-package',
    version: 1,
    plate: track.plate,
    screens: track.screens.map((s) => s.name),
    files: await Promise.all(
      all.map(async (f) => ({
        ...f,
        bytes: (await stat(join(folder, f.path))).size,
        sha256: await checksum(join(folder, f.path)),
      })),
    ),
  };
  await writeFile(join(folder, MANIFEST), `${JSON.stringify(manifest, null, 1)}\n`);
  const zip = new yazl.ZipFile();
  const mtime = new Date(Date.UTC(2000, 0, 1));
  const part = `${path}.part`;
  for (const f of [MANIFEST, ...all.map((x) => x.path)])
    zip.addFile(join(folder, f), f, { mtime, compress: !/\.(png|exr|mp4|mov|webm|jpg)$/.test(f) });
  zip.end();
  await mkdir(dirname(path), { recursive: true });
  try {
    await pipeline(zip.outputStream, createWriteStream(part));
    await rename(part, path);
  } catch (e) {
    await rm(part, { force: true });
    throw e;
  }
}

/** All files under a folder, with paths as zips write them. */
export async function filesUnder(folder: string): Promise<string[]> {
  const names = await readdir(folder, { recursive: true, withFileTypes: true });
  return names
    .filter((e) => e.isFile())
    .map((e) => relative(folder, join(e.parentPath, e.name)).split(sep).join(posix.sep))
    .sort();
}

function openZip(path: string): Promise<yauzl.ZipFile> {
  return new Promise((resolve, reject) =>
    yauzl.open(path, { lazyEntries: true, decodeStrings: true, validateEntrySizes: true }, (e, zip) =>
      e ? reject(new InputError(`The package cannot be opened: ${e.message}.`)) : resolve(zip),
    ),
  );
}

/**
 * Unpacks and checks a package. @param into must not exist yet; left out again when anything is wrong. @throws
 * InputError
 */
export async function readPackage(path: string, into: string): Promise<Manifest> {
  const zip = await openZip(path);
  const part = await mkdtemp(`${into}.part-`);
  try {
    if (zip.entryCount > MOST_ENTRIES)
      throw new InputError(`The package lists ${zip.entryCount} files; at most ${MOST_ENTRIES} are taken.`);
    let bytes = 0;
    await new Promise<void>((resolve, reject) => {
      zip.on('error', (e: Error) =>
        reject(new InputError(`The package is damaged, or names a path outside of itself: ${e.message}.`)),
      );
      zip.on('end', resolve);
      zip.on('entry', (entry: yauzl.Entry) => {
        const safe = posix.normalize(entry.fileName);
        if (safe.startsWith('..') || posix.isAbsolute(safe) || safe.includes('\\'))
          return reject(
            new InputError(
              `The package names "${entry.fileName.slice(0, 80)}", a path outside of itself; nothing was unpacked.`,
            ),
          );
        bytes += entry.uncompressedSize;
        if (bytes > MOST_BYTES || entry.uncompressedSize > 1000 * Math.max(1e6, entry.compressedSize))
          return reject(
            new InputError(
              `"${safe.slice(0, 80)}" would unpack to ${entry.uncompressedSize} bytes from ${entry.compressedSize}; this is refused.`,
            ),
          );
        if (safe.endsWith('/')) return zip.readEntry();
        zip.openReadStream(entry, (e, stream: Readable) => {
          if (e) return reject(new InputError(`"${safe}" cannot be unpacked: ${e.message}.`));
          const target = join(part, safe);
          mkdir(dirname(target), { recursive: true })
            .then(() => pipeline(stream, createWriteStream(target)))
            .then(
              () => zip.readEntry(),
              (x: Error) => reject(new InputError(`"${safe}" cannot be unpacked: ${x.message}.`)),
            );
        });
      });
      zip.readEntry();
    });
    const manifest = JSON.parse(await readFile(join(part, MANIFEST), 'utf8').catch(() => 'null')) as Manifest | null;
    if (manifest?.format !== 'yarlop-package' || !Array.isArray(manifest.files))
      throw new InputError(`The package has no ${MANIFEST} of Yarlop's.`);
    for (const f of manifest.files) {
      const here = join(part, posix.normalize(f.path));
      const info = relative(part, here).startsWith('..') ? null : await stat(here).catch(() => null);
      if (!info) throw new InputError(`The package lacks "${f.path}", which its manifest lists.`);
      if (info.size !== f.bytes || (await checksum(here)) !== f.sha256)
        throw new InputError(`"${f.path}" of the package was changed after it was made: its checksum differs.`);
    }
    await rename(part, into);
    return manifest;
  } finally {
    zip.close();
    await rm(part, { recursive: true, force: true });
  }
}
