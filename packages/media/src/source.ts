/**
 * Where pictures come from: a file, or a numbered sequence. A sequence is staged as links with names of our own in a
 * temporary folder, so that no character of a person's file name is ever read as a pattern.
 */
import { mkdtemp, readdir, rm, stat, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { MediaError } from './media-error';

export interface Source {
  readonly name: string;
  /** arguments that open it in ffmpeg or ffprobe, `-i` included */
  readonly input: readonly string[];
  /** number of the first file of a sequence; null for a file */
  readonly firstNumber: number | null;
  readonly fileCount: number;
  readonly files: readonly string[];
  dispose(): Promise<void>;
}

export const PICTURE_TYPES = ['.png', '.tif', '.tiff', '.jpg', '.jpeg', '.exr', '.dpx', '.webp', '.bmp'];

export interface NumberedFile {
  readonly name: string;
  readonly number: number;
}

/** Splits names like `plate.1001.png` by their last digits. @throws MediaError for a gap, mixed names or no numbers */
export function numberSequence(names: readonly string[]): NumberedFile[] {
  const pictures = names.filter((n) => PICTURE_TYPES.includes(extname(n).toLowerCase()));
  if (pictures.length === 0)
    throw new MediaError('sequence', `No pictures were found; a sequence takes ${PICTURE_TYPES.join(', ')}.`);
  const parts = pictures.map((name) => {
    const m = /^(.*?)(\d+)(\D*)$/.exec(basename(name));
    if (!m)
      throw new MediaError(
        'sequence',
        `"${basename(name)}" has no number in its name; number the files, for example plate.1001.png.`,
      );
    return { name, number: Number(m[2]), stem: `${m[1]}#${m[3]!.toLowerCase()}` };
  });
  const stems = [...new Set(parts.map((p) => p.stem))];
  if (stems.length > 1)
    throw new MediaError(
      'sequence',
      `The folder holds more than one sequence (${stems.slice(0, 3).join(', ')}); bring in one at a time.`,
    );
  parts.sort((a, b) => a.number - b.number);
  for (let i = 1; i < parts.length; i++) {
    const before = parts[i - 1]!.number;
    const here = parts[i]!.number;
    if (here === before)
      throw new MediaError(
        'sequence',
        `Number ${here} stands twice (${basename(parts[i - 1]!.name)}, ${basename(parts[i]!.name)}); remove one.`,
      );
    if (here !== before + 1)
      throw new MediaError(
        'sequence',
        `The sequence has a gap: ${here - before === 2 ? `frame ${before + 1} is` : `frames ${before + 1} to ${here - 1} are`} missing; add the files or bring in the parts apart.`,
      );
  }
  return parts;
}

/** Makes numbered pictures, which may lie under any name, a sequence that ffmpeg can read. @throws MediaError when numbers are missing */
export async function stageSequence(name: string, files: readonly NumberedFile[]): Promise<Source> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-sequence-'));
  const type = extname(files[0]!.name).toLowerCase();
  for (const [i, f] of files.entries())
    await symlink(resolve(f.name), join(folder, `${String(i).padStart(8, '0')}${type}`));
  return {
    name,
    firstNumber: files[0]!.number,
    fileCount: files.length,
    files: files.map((f) => f.name),
    input: ['-f', 'image2', '-framerate', '24', '-start_number', '0', '-i', join(folder, `%08d${type}`)],
    dispose: () => rm(folder, { recursive: true, force: true }),
  };
}

/** Opens a video file, a `NAME.%04d.png` pattern or a folder of numbered pictures. @throws MediaError */
export async function openSource(path: string): Promise<Source> {
  const pattern = /^(.*)%0?(\d*)d(.*)$/.exec(basename(path));
  const info = await stat(path).catch(() => null);
  if (pattern && !info) {
    const folder = dirname(path);
    const all = await readdir(folder).catch(() => [] as string[]);
    const names = all.filter(
      (n) =>
        n.startsWith(pattern[1]!) &&
        n.endsWith(pattern[3]!) &&
        /^\d+$/.test(n.slice(pattern[1]!.length, n.length - pattern[3]!.length)),
    );
    if (names.length === 0) throw new MediaError('sequence', `No file matches ${path}; check the folder and the name.`);
    return stageSequence(basename(path), numberSequence(names.map((n) => join(folder, n))));
  }
  if (!info) throw new MediaError('unusable', `${path} does not exist; check the path.`);
  if (info.isDirectory())
    return stageSequence(
      basename(resolve(path)),
      numberSequence((await readdir(path)).sort().map((n) => join(path, n))),
    );
  if (info.size === 0)
    throw new MediaError('unusable', `${basename(path)} is empty (0 bytes); copy or export it again.`);
  return {
    name: basename(path),
    input: ['-i', resolve(path)],
    firstNumber: null,
    fileCount: 1,
    files: [resolve(path)],
    dispose: async () => {},
  };
}
