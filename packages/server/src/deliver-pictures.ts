/** Pictures of a delivery: rendered in segments, taken up after those that an attempt before has left. */
import { clamp } from '@yarlop/core/clamp';
import { can, isOf } from '@yarlop/contracts/formats';
import { mkdir, readdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { extname, join } from 'node:path';
import { parseCube } from '@yarlop/core/dress/colour/cube-table';
import type { Show } from '@yarlop/core/dress/render';
import { timecodeAfter } from '@yarlop/core/formats/timecode';
import { isFloat } from '@yarlop/media/decode';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import { joinClips } from '@yarlop/media/join';
import { openSource } from '@yarlop/media/source';
import { deliverFlat } from '@yarlop/pipeline/deliver-flat';
import type { DressWork, ScreenLayer } from '@yarlop/pipeline/dress';
import { dressPieces } from '@yarlop/pipeline/dress';
import type { SourcePlace } from '@yarlop/pipeline/fill';
import { placeOf } from '@yarlop/pipeline/fill';
import type { FoundMedia } from './found-fill';
import type { Open } from '@yarlop/pipeline/opened-sources';
import { withSources } from '@yarlop/pipeline/opened-sources';
import { openOriginal } from './use-cases/library';
import type { DeliverTask, Line } from './worker-protocol';

/** Threads that a delivery renders on: one core is left to the person at work. */
const RENDER_THREADS = clamp(availableParallelism() - 1, 1, 4);

/** Frames that are rendered at once, the first ones short: what a kill or a pause loses at the most. */
const FIRST_SEGMENTS = [12, 24, 48] as const;
const SEGMENT = 96;
/** Folder of what is rendered of a delivery that is not whole yet. */
export const PARTS = '.pieces';

/** What lies there whole, in the order of its frames. */
export async function piecesIn(folder: string): Promise<string[]> {
  return (await readdir(folder)).filter((n) => !n.startsWith('.')).sort();
}

interface Segment {
  /** from the first frame of the delivery on */
  readonly at: number;
  readonly count: number;
}

function segmentsOf(frames: number): Segment[] {
  const all: Segment[] = [];
  for (let at = 0; at < frames; at += all.at(-1)!.count)
    all.push({ at, count: Math.min(frames - at, FIRST_SEGMENTS[all.length] ?? SEGMENT) });
  return all;
}

/** How a delivery is put together: in one go, of pictures by themselves, or of clips that are joined. */
type Pieces = 'whole' | 'sequence' | 'joined';

function piecesOf({ settings: { as } }: DeliverTask, frames: number): Pieces {
  if (isOf(as, 'sequence')) return 'sequence';
  return can(as, 'joined') && frames > FIRST_SEGMENTS[0] ? 'joined' : 'whole';
}

/** What is left to render: an attempt before has kept whole pictures of a sequence, or whole segments of a clip. */
async function segmentsLeft(folder: string, frames: number, kind: Pieces): Promise<Segment[]> {
  if (kind === 'whole') return [{ at: 0, count: frames }];
  const kept = (await piecesIn(folder)).length;
  if (kind === 'joined') return segmentsOf(frames).slice(kept);
  return segmentsOf(frames - kept).map(({ at, count }) => ({ at: kept + at, count }));
}

/** The Screens that were followed, with what shows on them. */
async function layersOf(task: DeliverTask, open: Open): Promise<ScreenLayer[]> {
  const place = async (m: FoundMedia | null): Promise<SourcePlace | null> =>
    m && placeOf(await open(openOriginal(m.original, m.media)));
  const layers: ScreenLayer[] = [];
  for (const { screen, shutter, lens, media, foreground, layers: pictures, table } of task.fills) {
    const track = task.track.screens.find((s) => s.name === screen.name);
    if (!track) continue;
    const fill = {
      media: await place(media),
      foreground: await place(foreground),
      layers: await Promise.all(pictures.map(place)),
      table: table === null ? null : parseCube(table),
    };
    layers.push({ screen, places: new Map(track.frames.map((f) => [f.frame, f])), fill, shutter, lens });
  }
  return layers;
}

/** Where the original's sound is read; null where none goes along. */
async function soundOf({ settings, original, media }: DeliverTask, open: Open): Promise<readonly string[] | null> {
  return settings.sound ? (await open(openOriginal(original, media))).input : null;
}

/** The clips of all segments as one, with the range's own timecode and sound. */
async function joined(
  { media: { probe }, range: [from, to] }: DeliverTask,
  folder: string,
  target: string,
  sound: readonly string[] | null,
): Promise<void> {
  const rate = probe.frameRate[0] / probe.frameRate[1];
  const names = await piecesIn(folder);
  const timecode = probe.timecode && timecodeAfter(probe.timecode, from, probe.frameRate);
  await joinClips(
    names.map((n) => join(folder, n)),
    target,
    {
      ...(timecode ? { timecode } : {}),
      ...(sound ? { sound: { input: sound, from: from / rate, seconds: (to - from + 1) / rate } } : {}),
    },
  );
}

/** What holds of every segment of a delivery that is rendered. */
async function jobOf(task: DeliverTask, show: Show, open: Open): Promise<DressWork> {
  const {
    settings,
    media: { probe },
    range: [from, to],
  } = task;
  // Floats are delivered from the original, whose light the mezzanine does not hold.
  const float = isFloat(probe);
  const plate = float ? openOriginal(task.original, task.media) : openSource(join(task.folder, MEZZANINE));
  return {
    plate: await open(plate),
    probe: { ...probe, firstFrame: task.track.plate.firstFrame },
    seekable: !float,
    layers: await layersOf(task, open),
    planes: task.planes,
    show,
    premultiplied: settings.premultiplied ?? false,
    ...(settings.fullFloat ? { fullFloat: true } : {}),
    hevc: settings.as === 'hevc',
    ...(settings.loop === undefined ? {} : { loop: { from, to, dissolve: settings.loop } }),
    threads: { program: new URL('./render-thread.mjs', import.meta.url), count: RENDER_THREADS },
  };
}

/**
 * Renders in segments, and goes on after those that are there from an attempt before.
 * @param target the clip, or the pattern within the folder of parts
 * @returns false when it was stopped
 */
export function renderPictures(task: DeliverTask, target: string, line: Line): Promise<boolean> {
  const { show = 'dressed' } = task.settings;
  if (show === 'stabilised' || show === 'flat') return renderFlat(task, show, target, line);
  return withSources(async (open) => {
    const [from, to] = task.range;
    const frames = to - from + 1;
    const folder = join(task.out, PARTS);
    const pieces = piecesOf(task, frames);
    const common = await jobOf(task, show, open);
    const sound = await soundOf(task, open);
    await mkdir(folder, { recursive: true });
    const left = (await segmentsLeft(folder, frames, pieces)).map(({ at, count }) => {
      const own = join(folder, `${String(at).padStart(8, '0')}${extname(target)}`);
      return { out: pieces === 'joined' ? own : target, from: from + at, count };
    });
    const work = { ...common, ...(sound && pieces === 'whole' ? { sound } : {}) };
    for await (const frame of dressPieces(work, left)) {
      line.say({ type: 'progress', done: frame - from + 1 });
      if (line.cancelled()) return false;
    }
    if (pieces === 'joined') await joined(task, folder, target, sound);
    return true;
  });
}

/** The first Screen of the delivery, or the one that was asked for, holds the plate still or is laid flat. */
function renderFlat(
  { folder, track, media, range: [from, to] }: DeliverTask,
  show: 'stabilised' | 'flat',
  target: string,
  line: Line,
): Promise<boolean> {
  return withSources(async (open) => {
    const plate = await open(openSource(join(folder, MEZZANINE)));
    for await (const frame of deliverFlat({
      plate,
      probe: { ...mezzanineProbe(media.probe), firstFrame: track.plate.firstFrame },
      seekable: true,
      screen: track.screens[0]!,
      show,
      out: target,
      from,
      count: to - from + 1,
    })) {
      line.say({ type: 'progress', done: frame - from + 1 });
      if (line.cancelled()) return false;
    }
    return true;
  });
}
