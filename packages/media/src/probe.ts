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
  if (/f(32|16)/.test(pixelFormat)) return 32;
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
  const json = await run('ffprobe', [
    ...INPUT_GUARD,
    '-show_streams',
    '-show_format',
    '-of',
    'json',
    ...source.input,
  ]).catch(fail);
  const info = JSON.parse(json) as {
    streams?: (Stream & { codec_type?: string; disposition?: { attached_pic?: number } })[];
    format?: { format_name?: string; tags?: Record<string, string> };
  };
  const streams = info.streams ?? [];
  const stream = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  if (!stream && streams.some((s) => s.codec_type === 'audio'))
    throw new MediaError('unusable', `"${source.name}" holds sound but no picture; bring in a clip with pictures.`);
  if (!stream || (!stream.pix_fmt && !stream.width))
    throw new MediaError('unusable', explain(source.name, 'Invalid data'));
  const rotation =
    ((Math.round(stream.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0) % 360) + 360) % 360;
  const turned = rotation % 180 === 90;
  const sw = stream.width ?? 0;
  const sh = stream.height ?? 0;
  const width = turned ? sh : sw;
  const height = turned ? sw : sh;
  if (width < 16 || height < 16)
    throw new MediaError('unusable', `"${source.name}" is ${width}x${height} px; a plate needs at least 16x16.`);
  if (width > LARGEST || height > LARGEST)
    throw new MediaError(
      'unusable',
      `"${source.name}" is ${width}x${height} px; the largest plate is ${LARGEST}x${LARGEST}. Scale it down first.`,
    );
  const { times, present } =
    source.firstNumber === null ? await picturesIn(source).catch(fail) : { times: [], present: Infinity };
  const frameCount = source.firstNumber === null ? times.length : source.fileCount;
  if (frameCount === 0)
    throw new MediaError('unusable', `"${source.name}" holds no complete picture; copy or export it again.`);
  const { rate, note } = timing(stream, times, source.firstNumber !== null);
  const aspect = fraction(stream.sample_aspect_ratio, ':') ?? [1, 1];
  const pixelFormat = stream.pix_fmt ?? 'unknown';
  const depth = Number(stream.bits_per_raw_sample) || depthOf(pixelFormat);
  const cut = cutOff(stream, present);
  const notes = [
    // Where pictures are missing, the times between those that are there tell of no rate.
    cut ?? note,
    rotation ? `Rotation tag of ${rotation} degrees applied.` : null,
    aspect[0] !== aspect[1]
      ? `Pixels are not square (${aspect[0]}:${aspect[1]}); coordinates are in stored pixels.`
      : null,
    stream.field_order && !['progressive', 'unknown'].includes(stream.field_order)
      ? 'Interlaced: each frame holds two fields of different moments; deinterlace first for sub-pixel work.'
      : null,
    depth === 32 ? 'Float pictures: seen through the sRGB curve, dressed and delivered as scene-linear light.' : null,
  ].filter((n): n is string => n !== null);
  const tags = { ...info.format?.tags, ...stream.tags };
  const timecode = tags['timecode'] ?? streams.map((s) => s.tags?.['timecode']).find(Boolean) ?? null;
  return {
    name: source.name,
    width,
    height,
    frameRate: rate,
    frameCount,
    firstFrame: source.firstNumber ?? 0,
    timecode,
    pixelFormat,
    bitDepth: depth,
    rotation,
    pixelAspect: aspect,
    codec: stream.codec_name ?? 'unknown',
    hasAlpha: /^(rgba|bgra|argb|abgr|yuva|gbrap|ya|rgba64|pal8)/.test(pixelFormat) && pixelFormat !== 'pal8',
    colour: {
      transfer: known(stream.color_transfer) ?? (depth === 32 ? 'linear' : null),
      primaries: known(stream.color_primaries),
      matrix: known(stream.color_space),
      range: stream.color_range === 'pc' || /^(yuvj|rgb|gbr|bgr|gray)/.test(pixelFormat) ? 'full' : 'limited',
    },
    notes,
  };
}
