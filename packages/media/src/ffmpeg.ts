/** The one place where ffmpeg and ffprobe are started: no shell, files only, no playlists, a time limit. */
import type { ChildProcessByStdio } from 'node:child_process';
import { spawn } from 'node:child_process';
import { dirname } from 'node:path';
import type { Readable, Writable } from 'node:stream';
import { confined, isMissing } from './confinement';
import { MediaError } from './media-error';

/**
 * Containers and picture formats that are opened; everything that can point at other files or addresses is left out.
 */
const DEMUXERS = [
  'mov',
  'mp4',
  'matroska',
  'webm',
  'avi',
  'mxf',
  'mpegts',
  'mpeg',
  'nut',
  'ogg',
  'yuv4mpegpipe',
  'image2',
  'gif',
  'apng',
  'dv',
  'm4v',
  'h264',
  'hevc',
  'asf',
  'flv',
  'png_pipe',
  'jpeg_pipe',
  'tiff_pipe',
  'exr_pipe',
  'webp_pipe',
  'dpx_pipe',
  'bmp_pipe',
  'rawvideo',
].join(',');

export const INPUT_GUARD = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', DEMUXERS];

export type Tool = ChildProcessByStdio<Writable | null, Readable, Readable>;

const MISSING = 'ffmpeg is not installed; run npm start once, or install the Debian package ffmpeg';

export interface StartOptions {
  /** something will be written to its standard input */
  readonly input?: boolean;
  /** the one folder that it may change something in; none when left out */
  readonly writes?: string;
}

/** Starts ffmpeg or ffprobe confined; see `confinement.ts`. */
export function start(
  tool: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  { input = false, writes }: StartOptions = {},
): Tool {
  const all =
    tool === 'ffmpeg' ? ['-hide_banner', '-nostdin', '-loglevel', 'error', ...args] : ['-loglevel', 'error', ...args];
  const [program, ...line] = confined([tool, ...all], writes);
  // A group of its own, so that it can be ended with all that it started; see {@link stop}.
  return spawn(program!, line, { stdio: [input ? 'pipe' : 'ignore', 'pipe', 'pipe'], detached: true }) as Tool;
}

/**
 * Ends a tool at once, with all that it started: what is killed while it sets up its room would leave a child behind that
 * waits for it, and holds its pipes open.
 */
export function stop({ pid, exitCode, signalCode }: Tool): void {
  const isGone = exitCode !== null || signalCode !== null;
  if (pid === undefined || isGone) return;
  try {
    process.kill(-pid, 'SIGKILL');
  } catch (e) {
    if ((e as NodeJS.ErrnoException).code !== 'ESRCH') throw e;
  }
}

/** The end of a process: its standard error when it failed. Never rejects. */
export function ended(child: Tool): Promise<{ code: number | null; stderr: string }> {
  let stderr = '';
  child.stderr.setEncoding('utf8').on('data', (t: string) => (stderr = (stderr + t).slice(-4000)));
  return new Promise((resolve) => {
    child.on('error', (e) =>
      resolve({ code: -1, stderr: (e as NodeJS.ErrnoException).code === 'ENOENT' ? MISSING : e.message }),
    );
    child.on('close', (code) => resolve({ code, stderr: isMissing(code, stderr) ? MISSING : stderr }));
  });
}

/** How often it is asked whether a run is still wanted, ms. By trial. */
const ASKED_EVERY = 50;

/**
 * The end of a process that may no longer be wanted.
 * @param cancelled polled; true ends it
 * @throws MediaError `cancelled` once it was
 */
export async function endedUnless(
  cancelled: () => boolean,
  child: Tool,
): Promise<{ code: number | null; stderr: string }> {
  const watch = setInterval(() => cancelled() && stop(child), ASKED_EVERY);
  const end = await ended(child);
  clearInterval(watch);
  if (cancelled()) throw new MediaError('cancelled', 'Cancelled.');
  return end;
}

/**
 * @param cancelled see {@link endedUnless}
 * @param hear what it says on its standard error, as it comes
 * @returns what it wrote to its standard output
 */
export async function run(
  tool: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  limitMs = 60_000,
  cancelled: () => boolean = () => false,
  hear: (text: string) => void = () => {},
): Promise<string> {
  const child = start(tool, args);
  const chunks: Buffer[] = [];
  child.stdout.on('data', (b: Buffer) => chunks.push(b));
  child.stderr.on('data', (b: Buffer | string) => hear(String(b)));
  const timer = setTimeout(() => stop(child), limitMs);
  const { code, stderr } = await endedUnless(cancelled, child).finally(() => clearTimeout(timer));
  if (code !== 0)
    throw new MediaError('tool', stderr.trim().split('\n').at(-1) || `${tool} ended with ${code ?? 'a signal'}`);
  return Buffer.concat(chunks).toString('utf8');
}

/** Reads a source and writes a file, or the files of a pattern. @throws MediaError when that fails */
export async function ffmpegWrites(
  source: { readonly name: string; readonly input: readonly string[] },
  args: readonly string[],
  path: string,
): Promise<void> {
  const line = ['-y', ...INPUT_GUARD, ...source.input, ...args, path];
  const { code, stderr } = await ended(start('ffmpeg', line, { writes: dirname(path) }));
  if (code !== 0)
    throw new MediaError(
      'tool',
      `"${source.name}" could not be converted (${
        stderr
          .trim()
          .split('\n')
          .at(-1)
          ?.replace(/\/\S*\//g, '')
          .slice(0, 160) ?? code
      }).`,
    );
}
