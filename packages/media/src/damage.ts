/**
 * What of a file could not be read as it was written. A decoder fills in what it cannot read and goes on, and pictures
 * that are predicted from such a one carry its damage along to the next picture that stands by itself.
 */
import { basename } from 'node:path';
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import { rangesOf } from '@yarlop/core/frame-ranges';
import { INPUT_GUARD, run } from './ffmpeg';
import { MediaError } from './media-error';
import type { Probe } from './probe';
import type { Source } from './source';

/** Frames `from` to `to`, both counted. */
export type FrameRange = FrameSpan;

/** A shown picture: whether it stands by itself, its number in the order of decoding, and what the decoder said. */
export interface DecodedPicture {
  readonly stands: boolean;
  readonly coded: number;
  readonly isComplaint: boolean;
}

/** Time for looking at one file, ms: a clip as long as is taken, decoded by one thread. */
const LIMIT = 30 * 60_000;

/**
 * Which of the pictures, in the order in which they are shown, are damaged or predicted from a damaged one.
 *
 * A complaint comes with the picture that is handed out next, while the data it is about may belong to one that is shown
 * later: as many later as pictures are held back to be put in order.
 * @param isFirst whether there was a complaint before any was handed out
 */
export function damagedPictures(pictures: readonly DecodedPicture[], isFirst = false): number[] {
  const held = Math.max(0, ...pictures.map((p, i) => p.coded - i));
  const byCoded = new Map(pictures.map((p, i) => [p.coded, i] as const));
  const damaged = new Set(isFirst && pictures.length > 0 ? carriedFrom(pictures, 0) : []);
  for (const [i, p] of pictures.entries()) {
    if (!p.isComplaint) continue;
    for (const k of carriedFrom(pictures, byCoded.get(i + held) ?? i)) damaged.add(k);
  }
  return [...damaged].sort((a, b) => a - b);
}

/**
 * A picture and all that may be predicted from it: what is decoded after it before the next that stands by itself. Where
 * the order of decoding is not told, that is what is shown after it.
 */
function carriedFrom(pictures: readonly DecodedPicture[], at: number): number[] {
  let first = at;
  while (first > 0 && !pictures[first]!.stands) first--;
  const isTold = pictures.some((p) => p.coded !== pictures[0]!.coded);
  const out: number[] = [];
  for (let k = first; k < pictures.length && (k === first || !pictures[k]!.stands); k++) {
    const isAfter = isTold ? pictures[k]!.coded >= pictures[at]!.coded : k >= at;
    if (isAfter) out.push(k);
  }
  return out;
}

/** Each shown picture with the errors that came with it. */
const LOOK = [
  ...INPUT_GUARD,
  '-loglevel',
  'repeat+error',
  '-threads',
  '1',
  '-select_streams',
  'v:0',
  '-show_frames',
  '-show_log',
  '16',
  '-show_entries',
  'frame=key_frame,coded_picture_number:log=message',
  '-of',
  'json=compact=1',
];

interface ProbedFrame {
  key_frame?: number;
  coded_picture_number?: number;
  /** errors only, as asked for */
  logs?: unknown[];
}

/**
 * Decodes a file once more, by one thread, and tells which frames are damaged.
 * @param cancelled polled
 * @throws MediaError when that fails, or is cancelled
 */
export async function damagedFrames(source: Source, cancelled: () => boolean): Promise<FrameRange[]> {
  let said = 0;
  const text = await run('ffprobe', [...LOOK, ...source.input], LIMIT, cancelled, (told) => {
    said += told.split('\n').length - 1;
  });
  const { frames = [] } = JSON.parse(text) as { frames?: ProbedFrame[] };
  const complaints = frames.map((f) => f.logs?.length ?? 0);
  // What is complained of before the first picture is handed out is told with none of them.
  const before = said - complaints.reduce((s, n) => s + n, 0);
  return rangesOf(
    damagedPictures(
      frames.map((f, i) => ({
        stands: f.key_frame === 1,
        coded: f.coded_picture_number ?? 0,
        isComplaint: complaints[i]! > 0,
      })),
      before > 0,
    ),
  );
}

const named = ({ from, to }: FrameRange): string => (from === to ? String(from) : `${from} to ${to}`);
/** Ranges that are named one by one; the strip shows them all. */
const MOST_NAMED = 6;

/** What the person is told of damaged frames. @param firstFrame label of frame 0 */
export function damageNote(ranges: readonly FrameRange[], firstFrame: number): string | null {
  if (ranges.length === 0) return null;
  const count = ranges.reduce((s, r) => s + r.to - r.from + 1, 0);
  const labelled = ranges.map((r) => named({ from: r.from + firstFrame, to: r.to + firstFrame }));
  const more = labelled.length > MOST_NAMED ? ', …' : '';
  const list = labelled.slice(0, MOST_NAMED).join(', ') + more;
  return `${count} ${count === 1 ? 'frame is' : 'frames are'} damaged in the file (${list}): what could not be read was filled in. Copy or export it again, or keep an eye on them.`;
}

/**
 * Pictures of a sequence that cannot be read at all. The decoder leaves them out, and every later frame would have
 * another number.
 */
async function unreadable(source: Source, cancelled: () => boolean): Promise<string[]> {
  const out: string[] = [];
  for (const file of source.files) {
    const args = [...INPUT_GUARD, '-i', file, '-frames:v', '1', '-f', 'framecrc', 'pipe:1'];
    const isRead = await run('ffmpeg', args, LIMIT, cancelled)
      .then((text) => text.split('\n').some((line) => line !== '' && !line.startsWith('#')))
      .catch(notCancelled);
    if (!isRead) out.push(basename(file));
  }
  return out;
}

function notCancelled(e: unknown): false {
  if (e instanceof MediaError && e.code === 'cancelled') throw e;
  return false;
}

/** Unreadable pictures of a sequence that are named. */
const MOST_NAMES = 5;

/** @throws MediaError naming the pictures of a sequence that the decoder left out: all after them would be misnumbered */
export async function assertNoneLeftOut(
  source: Source,
  p: Pick<Probe, 'frameCount'>,
  frameCount: number,
  cancelled: () => boolean,
): Promise<void> {
  if (source.firstNumber === null || frameCount >= p.frameCount) return;
  const names = await unreadable(source, cancelled);
  if (names.length === 0) return;
  const list = names.slice(0, MOST_NAMES).join(', ') + (names.length > MOST_NAMES ? ', …' : '');
  throw new MediaError(
    'sequence',
    `${names.length} of ${source.fileCount} pictures cannot be read (${list}); export them again, and bring in the whole sequence.`,
  );
}
