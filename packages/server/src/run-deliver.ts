/** The job of a delivery in its worker thread: pictures, track data or a package, as one file with its checksum. */
import { clamp } from '@yarlop/core/clamp';
import { can, formatOf, isOf } from '@yarlop/contracts/formats';
import { createWriteStream } from 'node:fs';
import { copyFile, link, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { parseCube } from '@yarlop/core/dress/cube-table';
import { roughBytes } from '@yarlop/core/formats/rough-size';
import { describe } from '@yarlop/core/formats/conventions';
import { fillTemplate } from '@yarlop/core/formats/table-template';
import { timecodeAfter } from '@yarlop/core/formats/timecode';
import { isFloat } from '@yarlop/media/decode';
import { joinClips } from '@yarlop/media/join';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import type { Source } from '@yarlop/media/source';
import { openSource } from '@yarlop/media/source';
import type { DataFormat } from '@yarlop/pipeline/deliver-job';
import { deliverData } from '@yarlop/pipeline/deliver-job';
import { writeText } from '@yarlop/pipeline/text-writers';
import { deliverFlat } from '@yarlop/pipeline/deliver-flat';
import type { ScreenLayer } from '@yarlop/pipeline/dress';
import { dress } from '@yarlop/pipeline/dress';
import { placeOf } from '@yarlop/pipeline/fill';
import { checksum } from '@yarlop/pipeline/checksum';
import type { PackagedFile } from '@yarlop/pipeline/package';
import { writePackage } from '@yarlop/pipeline/package';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import type { FoundMedia } from './found-fill';
import { TEMPLATE } from './template-name';
import { freeBytes } from './free-bytes';
import { openOriginal } from './use-cases/library';
import type { DeliverTask, Line, Outcome } from './worker-protocol';

/** Threads that a delivery renders on: one core is left to the person at work. */
const RENDER_THREADS = clamp(availableParallelism() - 1, 1, 4);

async function zip(folder: string, path: string): Promise<void> {
  const file = new yazl.ZipFile();
  for (const name of (await readdir(folder)).filter((n) => !n.startsWith('.')).sort())
    file.addFile(join(folder, name), name, { compress: false, mtime: new Date(Date.UTC(2000, 0, 1)) });
  file.end();
  await pipeline(file.outputStream, createWriteStream(`${path}.part`));
  await rename(`${path}.part`, path);
}

/** Lets go of what a task opened, whatever happens. */
async function withSources<T>(work: (open: (make: Promise<Source>) => Promise<Source>) => Promise<T>): Promise<T> {
  const opened: Source[] = [];
  try {
    return await work(async (make) => {
      const source = await make;
      opened.push(source);
      return source;
    });
  } finally {
    for (const s of opened) await s.dispose();
  }
}

/** Frames that are rendered at once, the first ones short: what a kill or a pause loses at the most. */
const FIRST_SEGMENTS = [12, 24, 48] as const;
const SEGMENT = 96;
const PARTS = '.pieces';

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

/** What is left to render: an attempt before has kept whole pictures of a sequence, or whole segments of a clip. */
async function segmentsLeft(folder: string, frames: number, kind: 'whole' | 'sequence' | 'joined'): Promise<Segment[]> {
  if (kind === 'whole') return [{ at: 0, count: frames }];
  const kept = (await readdir(folder)).filter((n) => !n.startsWith('.')).length;
  if (kind === 'joined') return segmentsOf(frames).slice(kept);
  return segmentsOf(frames - kept).map(({ at, count }) => ({ at: kept + at, count }));
}

/**
 * Renders in segments, and goes on after those that are there from an attempt before.
 * @param target the clip, or the pattern within the folder of parts
 * @returns false when it was stopped
 */
function renderPictures(task: DeliverTask, target: string, line: Line): Promise<boolean> {
  // Floats are delivered from the original, whose light the mezzanine does not hold.
  const {
    settings,
    media: { probe },
    range: [from, to],
  } = task;
  const float = isFloat(probe);
  const { show = 'dressed', as } = settings;
  const sequence = isOf(as, 'sequence');
  const rate = probe.frameRate[0] / probe.frameRate[1];
  if (show === 'stabilised' || show === 'flat') return renderFlat(task, show, target, line);
  return withSources(async (open) => {
    const plate = await open(
      float ? openOriginal(task.original, task.media) : openSource(join(task.folder, MEZZANINE)),
    );
    const layers: ScreenLayer[] = [];
    const place = async (m: FoundMedia | null) => m && placeOf(await open(openOriginal(m.original, m.media)));
    for (const { screen, shutter, lens, media, foreground, table } of task.fills) {
      const track = task.track.screens.find((s) => s.name === screen.name);
      if (track)
        layers.push({
          screen,
          places: new Map(track.frames.map((f) => [f.frame, f])),
          fill: {
            media: await place(media),
            foreground: await place(foreground),
            table: table === null ? null : parseCube(table),
          },
          shutter,
          lens,
        });
    }
    const sound = settings.sound ? (await open(openOriginal(task.original, task.media))).input : null;
    const folder = join(task.out, PARTS);
    const loop = settings.loop === undefined ? null : { from, to, dissolve: settings.loop };
    const frames = to - from + 1;
    const isWhole = !sequence && (!can(as, 'joined') || frames <= FIRST_SEGMENTS[0]);
    const pieces = sequence ? 'sequence' : 'joined';
    await mkdir(folder, { recursive: true });
    for (const { at, count } of await segmentsLeft(folder, frames, isWhole ? 'whole' : pieces)) {
      const own = join(folder, `${String(at).padStart(8, '0')}${extname(target)}`);
      const out = sequence || isWhole ? target : own;
      const job = dress({
        plate,
        probe: { ...probe, firstFrame: task.track.plate.firstFrame },
        seekable: !float,
        layers,
        planes: task.planes,
        out,
        show,
        premultiplied: settings.premultiplied ?? false,
        ...(settings.fullFloat ? { fullFloat: true } : {}),
        hevc: as === 'hevc',
        ...(sound && isWhole ? { sound } : {}),
        from: from + at,
        count,
        ...(loop ? { loop } : {}),
        threads: { program: new URL('./render-thread.mjs', import.meta.url), count: RENDER_THREADS },
      });
      for await (const frame of job) {
        line.say({ type: 'progress', done: frame - from + 1 });
        if (line.cancelled()) return false;
      }
    }
    if (!sequence && !isWhole) {
      const timecode = probe.timecode && timecodeAfter(probe.timecode, from, probe.frameRate);
      await joinClips(
        (await readdir(folder))
          .filter((n) => !n.startsWith('.'))
          .sort()
          .map((n) => join(folder, n)),
        target,
        {
          ...(timecode ? { timecode } : {}),
          ...(sound ? { sound: { input: sound, from: from / rate, seconds: (to - from + 1) / rate } } : {}),
        },
      );
    }
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

function writeData(task: DeliverTask, as: DataFormat, out: string, line: Line): Promise<boolean> {
  const { settings, track, recipes, conventions } = task;
  const names = track.screens.map((s) => s.name);
  return withSources(async (open) => {
    const job = deliverData({
      track,
      as,
      out,
      plate: {
        source: await open(openSource(join(task.folder, MEZZANINE))),
        probe: mezzanineProbe(task.media.probe),
        seekable: true,
      },
      ...(settings.parts ? { parts: settings.parts } : {}),
      plateBehind: settings.plateBehind ?? false,
      text: {
        conventions,
        invert: settings.invert ?? false,
        ...(settings.points ? { points: settings.points as [number, number][] } : {}),
        screens: new Map(recipes.map((r) => [r.name, r])),
        page: { plate: null, fills: new Map() },
        report: task.report,
        scene: {
          ...(settings.focal === undefined ? {} : { focal: settings.focal }),
          ...(settings.deviceHeight === undefined
            ? {}
            : { heights: new Map(names.map((n) => [n, settings.deviceHeight!])) }),
        },
      },
      maps: {
        ...(settings.overscan ? { overscan: settings.overscan } : {}),
        ...(settings.crop === undefined ? {} : { crop: settings.crop }),
        fullFloat: settings.fullFloat ?? true,
      },
    });
    let done = 0;
    for await (const frame of job) {
      void frame;
      line.say({ type: 'progress', done: ++done });
      if (line.cancelled()) return false;
    }
    return true;
  });
}

/**
 * Pictures of a sequence, as one zip; a single one as itself. @param make writes them under a pattern, and says whether it was let finish; what
 * it wrote is kept where it was not
 */
async function zipped(
  task: DeliverTask,
  path: string,
  type: string,
  make: (pattern: string) => Promise<boolean>,
): Promise<boolean> {
  const folder = join(task.out, PARTS);
  await mkdir(folder, { recursive: true });
  const whole = await make(join(folder, `${task.fileName.replace(/(\.\w+)?\.zip$/, '')}.%04d.${type}`));
  if (!whole) return false;
  const written = (await readdir(folder)).filter((n) => !n.startsWith('.'));
  if (path.endsWith('.zip')) await zip(folder, path);
  else await rename(join(folder, written[0]!), path);
  return true;
}

async function write(task: DeliverTask, path: string, line: Line): Promise<boolean> {
  const { as, template = '' } = task.settings;
  if (isOf(as, 'clip')) return renderPictures(task, path, line);
  if (isOf(as, 'sequence')) return zipped(task, path, as, (pattern) => renderPictures(task, pattern, line));
  await rm(join(task.out, PARTS), { recursive: true, force: true });
  if (isOf(as, 'maps'))
    return zipped(task, path, task.settings.mapType ?? 'exr', (pattern) => writeData(task, as, pattern, line));
  if (task.template) return writeTemplate(task, task.template, path, line);
  if (isOf(as, 'text') || as === 'package') return writeData(task, as, path, line);
  await writeWhole(
    path,
    task.track.screens
      .map((s) =>
        fillTemplate(template, task.track, s, { conventions: task.conventions, timecode: task.media.probe.timecode }),
      )
      .join('\n'),
  );
  return true;
}

/**
 * The shot for another installation: its Screens with what was followed, the originals that they are made from, and the
 * track for whoever else reads it.
 */
async function writeTemplate(
  { out, track, conventions }: DeliverTask,
  { file, originals }: NonNullable<DeliverTask['template']>,
  path: string,
  line: Line,
): Promise<boolean> {
  const folder = join(out, PARTS);
  const files: PackagedFile[] = [{ path: TEMPLATE, what: 'the shot: Screens, what was followed, dress and slots' }];
  await mkdir(join(folder, 'track'), { recursive: true });
  for (const { hash, folder: from } of originals) {
    const media = file.media.find((m) => m.hash === hash)!;
    await mkdir(join(folder, 'originals', hash), { recursive: true });
    for (const name of media.files) {
      if (line.cancelled()) return false;
      // The same bytes under another name where the disk can, else a copy.
      await link(join(from, name), join(folder, 'originals', hash, name)).catch(() =>
        copyFile(join(from, name), join(folder, 'originals', hash, name)),
      );
      files.push({ path: `originals/${hash}/${name}`, what: media.name });
    }
  }
  await writeWhole(join(folder, TEMPLATE), JSON.stringify(file));
  for (const as of ['json', 'csv'] as const) {
    await writeWhole(join(folder, 'track', `track.${as}`), writeText(track, as, { conventions }));
    files.push({ path: `track/track.${as}`, what: formatOf(as).packaged! });
  }
  await writePackage(track, folder, files, describe(conventions), path);
  line.say({ type: 'progress', done: 1 });
  return true;
}

export async function runDeliver(task: DeliverTask, line: Line): Promise<Outcome> {
  await mkdir(task.out, { recursive: true });
  for (const left of await readdir(task.out))
    if (left !== PARTS) await rm(join(task.out, left), { recursive: true, force: true });
  const path = join(task.out, task.fileName);
  const pictures = isOf(task.settings.as, 'clip', 'sequence');
  const { width, height, bitDepth } = task.media.probe;
  const needed = pictures
    ? roughBytes(task.settings.as, width, height, task.range[1] - task.range[0] + 1, bitDepth > 8)
    : 0;
  const free = await freeBytes(task.out);
  if (free < needed)
    return {
      kind: 'failed',
      message: `The disk has ${Math.round(free / 1e6)} MB left, and this delivery takes about ${Math.round(needed / 1e6)} MB; free some space, or deliver a shorter range.`,
    };
  let last = 0;
  const counted: Line = {
    ...line,
    say(report) {
      if (report.type === 'progress') last = report.done;
      line.say(report);
    },
  };
  if (!(await write(task, path, counted))) return { kind: 'cancelled' };
  await rm(join(task.out, PARTS), { recursive: true, force: true });
  return { kind: 'deliver', bytes: (await stat(path)).size, sha256: await checksum(path), done: Math.max(1, last) };
}
