/** What a plate is, from its container and streams: read by content, never by name. */
import { INPUT_GUARD, run } from './ffmpeg';
import { MediaError } from './media-error';
import type { Source } from './source';

export interface ColourTags {
  readonly transfer: string | null;
  readonly primaries: string | null;
  readonly matrix: string | null;
  readonly range: 'full' | 'limited';
}

export interface Probe {
  readonly name: string;
  /** stored pixels after the rotation tag */
  readonly width: number;
  readonly height: number;
  readonly frameRate: readonly [number, number];
  readonly frameCount: number;
  /** label of frame 0: a sequence's first number, else 0 */
  readonly firstFrame: number;
  readonly timecode: string | null;
  readonly pixelFormat: string;
  readonly bitDepth: number;
  readonly colour: ColourTags;
  readonly pixelAspect: readonly [number, number];
  readonly rotation: number;
  readonly codec: string;
  readonly hasAlpha: boolean;
  /** what the person should know: conformed rate, interlace, rotation, pixel aspect ... */
  readonly notes: readonly string[];
}

/** px of a side that is taken: 8K, and memory for it. */
const LARGEST = 8192;
/** px of a side below which there is nothing to follow. */
const SMALLEST = 16;
/** Bits of a sample that is a float. */
const FLOAT = 32;

interface Stream {
  codec_name?: string;
  width?: number;
  height?: number;
  pix_fmt?: string;
  r_frame_rate?: string;
  avg_frame_rate?: string;
  sample_aspect_ratio?: string;
  field_order?: string;
  color_range?: string;
  color_space?: string;
  color_transfer?: string;
  color_primaries?: string;
  bits_per_raw_sample?: string;
  nb_frames?: string;
  tags?: Record<string, string>;
  side_data_list?: { rotation?: number }[];
}

function fraction(text: string | undefined, separator = '/'): [number, number] | null {
  const [n, d] = (text ?? '').split(separator).map(Number);
  return n! > 0 && d! > 0 ? [n!, d!] : null;
}

function known(tag: string | undefined): string | null {
  return tag && tag !== 'unknown' && tag !== 'unspecified' && tag !== 'reserved' ? tag : null;
}

function depthOf(pixelFormat: string): number {
  if (/f(32|16)/.test(pixelFormat)) return FLOAT;
  return Number(
    /p(9|10|12|14|16)(le|be)?$/.exec(pixelFormat)?.[1] ?? (/(48|64|16)(le|be)$/.test(pixelFormat) ? 16 : 8),
  );
}

/** What the tool's own words mean for the person. */
export function explain(name: string, problem: string): string {
  if (/whitelist/i.test(problem))
    return `"${name}" is not a clip but a list or a description that points at other files; bring in the clip itself.`;
  if (/moov atom not found|End of file|truncat/i.test(problem))
    return `"${name}" is cut off or was not finished; copy or export it again.`;
  if (/Invalid data|Invalid argument|could not find codec|Unknown/i.test(problem))
    return `"${name}" holds no pictures that can be read; bring in a video file or a numbered image sequence.`;
  return `"${name}" cannot be read (${problem.replace(/\/\S*\//g, '').slice(0, 160)}); check the file.`;
}

interface Pictures {
  /** of those that are shown (edit lists applied), seconds, sorted */
  readonly times: readonly number[];
  /** pictures that are there, shown or not */
  readonly present: number;
}

async function picturesIn(source: Source): Promise<Pictures> {
  const text = await run(
    'ffprobe',
    [
      ...INPUT_GUARD,
      '-select_streams',
      'v:0',
      '-show_entries',
      'packet=pts_time,flags',
      '-of',
      'csv=p=0',
      ...source.input,
    ],
    120_000,
  );
  const times: number[] = [];
  let present = 0;
  for (const line of text.split('\n')) {
    const [time, flags] = line.trim().split(',');
    if (!time) continue;
    present++;
    if (!flags?.includes('D')) times.push(Number(time));
  }
  const areTold = times.every(Number.isFinite);
  return { present, times: areTold ? times.sort((a, b) => a - b) : times.map((_, i) => i) };
}

/** What is said of a file whose index promises more pictures than are there; null where it keeps its promise. */
function cutOff(stream: Stream, present: number): string | null {
  const promised = Number(stream.nb_frames);
  if (!(promised > present)) return null;
  return `The file promises ${promised} frames, and ${present} are there: it is cut off or was not copied whole. Copy or export it again.`;
}

const COMMON_RATES: readonly [number, number][] = [
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [48, 1],
  [50, 1],
  [60000, 1001],
  [60, 1],
];

function nearestCommon(rate: number): [number, number] {
  const best = COMMON_RATES.reduce((a, b) => (Math.abs(b[0] / b[1] - rate) < Math.abs(a[0] / a[1] - rate) ? b : a));
  return Math.abs(best[0] / best[1] - rate) < 0.02 * rate
    ? [best[0], best[1]]
    : [Math.max(1, Math.round(rate * 1000)), 1000];
}

function timing(
  stream: Stream,
  times: readonly number[],
  sequence: boolean,
): { rate: [number, number]; note: string | null } {
  const tagged = fraction(stream.avg_frame_rate) ?? fraction(stream.r_frame_rate) ?? [24, 1];
  if (sequence || times.length < 3) return { rate: sequence ? [24, 1] : tagged, note: null };
  const gaps = times
    .slice(1)
    .map((t, i) => t - times[i]!)
    .sort((a, b) => a - b);
  const typical = gaps[gaps.length >> 1]!;
  if (gaps.at(-1)! - gaps[0]! < 0.3 * typical || !(typical > 0)) {
    const r = fraction(stream.r_frame_rate);
    const rate = r && Math.abs(r[1] / r[0] - typical) < 0.02 * typical ? r : tagged;
    return { rate, note: null };
  }
  const rate = nearestCommon(1 / typical);
  return {
    rate,
    note: `Variable frame rate: conformed to ${(rate[0] / rate[1]).toFixed(3)} frames a second; every decoded picture is one frame, none dropped or repeated.`,
  };
}

interface Info {
  readonly streams?: (Stream & { codec_type?: string; disposition?: { attached_pic?: number } })[];
  readonly format?: { format_name?: string; tags?: Record<string, string> };
}

/** The stream of pictures. @throws MediaError for a file that has none */
function picturesOf({ streams = [] }: Info, name: string): Stream {
  const stream = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  if (!stream && streams.some((s) => s.codec_type === 'audio'))
    throw new MediaError('unusable', `"${name}" holds sound but no picture; bring in a clip with pictures.`);
  if (!stream || (!stream.pix_fmt && !stream.width)) throw new MediaError('unusable', explain(name, 'Invalid data'));
  return stream;
}

/** Degrees by which players turn it, 0 to 359. */
function rotationOf({ side_data_list: data = [] }: Stream): number {
  const told = data.find((d) => d.rotation !== undefined)?.rotation ?? 0;
  return ((Math.round(told) % 360) + 360) % 360;
}

/** Px after the rotation tag. @throws MediaError for what is too small or too large for a plate */
function sizeOf(stream: Stream, rotation: number, name: string): { readonly width: number; readonly height: number } {
  const stored = [stream.width ?? 0, stream.height ?? 0] as const;
  const [width, height] = rotation % 180 === 90 ? [stored[1], stored[0]] : stored;
  if (width < SMALLEST || height < SMALLEST)
    throw new MediaError(
      'unusable',
      `"${name}" is ${width}x${height} px; a plate needs at least ${SMALLEST}x${SMALLEST}.`,
    );
  if (width > LARGEST || height > LARGEST)
    throw new MediaError(
      'unusable',
      `"${name}" is ${width}x${height} px; the largest plate is ${LARGEST}x${LARGEST}. Scale it down first.`,
    );
  return { width, height };
}

/** What the person should know of a stream, beside how its frames are timed. */
function notesOf(
  stream: Stream,
  known: { readonly rotation: number; readonly aspect: readonly [number, number]; readonly depth: number },
): string[] {
  const { rotation, aspect, depth } = known;
  const isInterlaced = stream.field_order && !['progressive', 'unknown'].includes(stream.field_order);
  const notes: string[] = [];
  if (rotation) notes.push(`Rotation tag of ${rotation} degrees applied.`);
  if (aspect[0] !== aspect[1])
    notes.push(`Pixels are not square (${aspect[0]}:${aspect[1]}); coordinates are in stored pixels.`);
  if (isInterlaced)
    notes.push('Interlaced: each frame holds two fields of different moments; deinterlace first for sub-pixel work.');
  if (depth === FLOAT)
    notes.push('Float pictures: seen through the sRGB curve, dressed and delivered as scene-linear light.');
  return notes;
}

function coloursOf(stream: Stream, pixelFormat: string, depth: number): ColourTags {
  const isFull = stream.color_range === 'pc' || /^(yuvj|rgb|gbr|bgr|gray)/.test(pixelFormat);
  return {
    transfer: known(stream.color_transfer) ?? (depth === FLOAT ? 'linear' : null),
    primaries: known(stream.color_primaries),
    matrix: known(stream.color_space),
    range: isFull ? 'full' : 'limited',
  };
}

/** How the frames of a source are timed, and how many there are; of a sequence, one a file. */
async function framesOf(
  source: Source,
  stream: Stream,
): Promise<{ readonly rate: [number, number]; readonly count: number; readonly note: string | null }> {
  if (source.firstNumber !== null) return { ...timing(stream, [], true), count: source.fileCount };
  const { times, present } = await picturesIn(source);
  const { rate, note } = timing(stream, times, false);
  // Where pictures are missing, the times between those that are there tell of no rate.
  return { rate, count: times.length, note: cutOff(stream, present) ?? note };
}

function timecodeOf({ streams = [], format }: Info, stream: Stream): string | null {
  const tags = { ...format?.tags, ...stream.tags };
  return tags['timecode'] ?? streams.map((s) => s.tags?.['timecode']).find(Boolean) ?? null;
}

/**
 * What a plate is; of a sequence, what its first picture is (see `one-size.ts`).
 * @throws MediaError with a sentence for files that are no plate
 */
export async function probe(source: Source): Promise<Probe> {
  const fail = (e: Error): never => {
    throw e instanceof MediaError && e.code !== 'tool'
      ? e
      : new MediaError('unusable', explain(source.name, e.message));
  };
  const asked = [...INPUT_GUARD, '-show_streams', '-show_format', '-of', 'json', ...source.input];
  const info = JSON.parse(await run('ffprobe', asked).catch(fail)) as Info;
  const stream = picturesOf(info, source.name);
  const rotation = rotationOf(stream);
  const { width, height } = sizeOf(stream, rotation, source.name);
  const { rate, count, note } = await framesOf(source, stream).catch(fail);
  if (count === 0)
    throw new MediaError('unusable', `"${source.name}" holds no complete picture; copy or export it again.`);
  const aspect = fraction(stream.sample_aspect_ratio, ':') ?? [1, 1];
  const pixelFormat = stream.pix_fmt ?? 'unknown';
  const depth = Number(stream.bits_per_raw_sample) || depthOf(pixelFormat);
  return {
    name: source.name,
    width,
    height,
    frameRate: rate,
    frameCount: count,
    firstFrame: source.firstNumber ?? 0,
    timecode: timecodeOf(info, stream),
    pixelFormat,
    bitDepth: depth,
    rotation,
    pixelAspect: aspect,
    codec: stream.codec_name ?? 'unknown',
    hasAlpha: /^(rgba|bgra|argb|abgr|yuva|gbrap|ya|rgba64)/.test(pixelFormat),
    colour: coloursOf(stream, pixelFormat, depth),
    notes: [...(note === null ? [] : [note]), ...notesOf(stream, { rotation, aspect, depth })],
  };
}
