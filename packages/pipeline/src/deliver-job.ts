/** One delivery of track data of whatever format, to a file, a pattern or a package. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, ownConventions } from '@yarlop/core/formats/conventions';
import type { Track } from '@yarlop/core/track';
import { assertOutput, isSequencePattern } from '@yarlop/media/encode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import type { Format, TextFormat, TextOptions } from './deliver';
import { ENDINGS, MAP_FORMATS, TEXT_FORMATS, pagePlate, thumbnails, writeText } from './deliver';
import type { MapOptions } from './deliver-maps';
import { patternFor, whiteFill, writeCoverage, writeLensMap, writeMaps } from './deliver-maps';
import { deliverFlat } from './deliver-flat';
import { dress } from './dress';
import { filesUnder, writePackage } from './package';
import type { PackagedFile } from './package';
import { InputError } from './pipeline-error';
import { writeWhole } from './write-whole';

export interface DataJob {
  readonly track: Track;
  readonly as: Format;
  /** file, or pattern for a picture a frame */
  readonly out: string;
  readonly text: TextOptions;
  readonly maps: Omit<MapOptions, 'size' | 'inverse'>;
  /** the plate, for what needs its pictures; null where there is none */
  readonly plate: { readonly source: Source; readonly probe: Probe; readonly seekable: boolean } | null;
  /** what a package holds; all that is possible when left out */
  readonly parts?: readonly Format[];
  /** a glTF scene gets pictures of the plate behind it */
  readonly plateBehind?: boolean;
}

/** What is told of each format in a package's README. */
export const WHAT: Readonly<Record<Exclude<Format, 'package'>, string>> = {
  csv: 'corners per frame as comma-separated values; the header says the convention',
  tsv: 'corners per frame, separated by tabs',
  json: 'the track: corners, homographies, sigma, trust and evidence per frame',
  'homography-csv': 'homographies per frame, row by row',
  'homography-json': 'homographies per frame',
  'opencv-yaml': 'homographies as the matrices that OpenCV reads',
  'shapes-svg': 'outlines as an animated SVG',
  'shapes-json': 'outlines per frame',
  'transform-csv': 'position, scale, rotation and affine part per frame',
  'transform-json': 'position, scale, rotation and affine part per frame',
  gltf: 'fitted rigid pose of each Screen and the camera, glTF 2.0',
  usda: 'the same as OpenUSD text',
  html: 'a page that plays the track in any browser',
  css: 'the track as CSS keyframes',
  otio: 'an edit, OpenTimelineIO',
  report: 'the report of the shot',
  stabilised: 'the plate held still by the Screen’s plane',
  flat: 'the Screen laid flat',
  stmap: 'ST maps: red from the content’s left, green from its bottom, alpha is coverage, not premultiplied',
  'stmap-inverse': 'inverse ST maps: where in the plate each place of the content lies',
  matte: 'how much of the fill shows',
  'lens-undistort':
    'ST map of the lens: where in the plate each place of the picture without its bow lies; the same for every frame',
  'lens-distort': 'ST map of the lens, the other way: where in the picture without bow each place of the plate lies',
};

/** Thumbnails of a report, spread over the shot. */
const THUMBNAILS = 6;
/** Pictures behind a scene, spread over the shot. */
const BACKDROPS = 60;
/** px of their width. */
const BACKDROP_WIDTH = 960;
const isText = (f: Format): f is TextFormat => (TEXT_FORMATS as readonly string[]).includes(f);

/** @throws InputError for a name that does not fit the format, before anything is written */
export function assertDataOutput(as: Format, out: string): void {
  if (as === 'stabilised' || as === 'flat') return assertOutput(out, false);
  if (!(MAP_FORMATS as readonly string[]).includes(as)) return;
  if (!isSequencePattern(out) || !/\.(png|tiff?|exr)$/i.test(out))
    throw new InputError(`${as} is a picture a frame; give a pattern such as NAME.%04d.exr (or .png, .tiff).`);
}

async function textOf(job: DataJob, as: TextFormat): Promise<string> {
  const { track, text, plate } = job;
  if (as === 'html' && plate && !text.page?.plate)
    return writeText(track, as, {
      ...text,
      page: { fills: new Map(), ...text.page, plate: await pagePlate(plate.source) },
    });
  if (as === 'gltf' && plate && job.plateBehind) {
    const step = Math.max(1, Math.ceil(track.plate.frameCount / BACKDROPS));
    return writeText(track, as, {
      ...text,
      backdrop: await thumbnails(
        plate.source,
        Array.from({ length: Math.ceil(track.plate.frameCount / step) }, (_, i) => i * step),
        BACKDROP_WIDTH,
      ),
    });
  }
  if (as === 'report' && plate) {
    const frames = Array.from({ length: THUMBNAILS }, (_, i) =>
      Math.floor(((i + 0.5) * track.plate.frameCount) / THUMBNAILS),
    );
    return writeText(track, as, {
      ...text,
      report: { ...text.report, thumbnails: await thumbnails(plate.source, frames) },
    });
  }
  return writeText(track, as, text);
}

/** A Screen's matte: with the plate and its recipe all holdouts, else the pin's coverage. */
async function* matteOf(job: DataJob, name: string, pattern: string): AsyncGenerator<number> {
  const { track, text, plate } = job;
  const t = track.screens.find((s) => s.name === name)!;
  const screen = text.screens?.get(name);
  const size = text.conventions?.size ?? [track.plate.width, track.plate.height];
  if (!plate || !screen || size[0] !== track.plate.width || size[1] !== track.plate.height) {
    yield* writeCoverage(track, t, pattern, size);
    return;
  }
  const layer = {
    screen: whiteFill(screen),
    places: new Map(t.frames.map((f) => [f.frame, f])),
    fill: { media: null, foreground: null, table: null },
    shutter: null,
    lens: t.lens ?? 0,
  };
  const from = t.frames[0]!.frame;
  yield* dress({
    plate: plate.source,
    probe: plate.probe,
    seekable: plate.seekable,
    layers: [layer],
    out: pattern,
    show: 'matte',
    from,
    count: t.frames.length,
  });
}

async function* mapsOf(job: DataJob, as: (typeof MAP_FORMATS)[number], out: string): AsyncGenerator<number> {
  const { track, text, maps } = job;
  const size = text.conventions?.size ?? [track.plate.width, track.plate.height];
  const several = track.screens.length > 1;
  for (const s of track.screens) {
    const pattern = patternFor(out, s.name, several);
    if (as === 'matte') yield* matteOf(job, s.name, pattern);
    else if (as === 'lens-undistort' || as === 'lens-distort')
      yield* writeLensMap(track, s, pattern, as === 'lens-undistort' ? 'undistort' : 'distort', { ...maps, size });
    else yield* writeMaps(track, s, pattern, { ...maps, size, inverse: as === 'stmap-inverse' });
  }
}

/** Formats that a package holds when none were chosen: every text but the two that repeat another, and no pictures. */
const USUAL: readonly Format[] = [
  'csv',
  'json',
  'homography-csv',
  'homography-json',
  'opencv-yaml',
  'shapes-svg',
  'shapes-json',
  'transform-csv',
  'gltf',
  'usda',
  'css',
  'html',
  'otio',
  'report',
  'stmap',
];

async function* packageOf(job: DataJob): AsyncGenerator<number> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-package-'));
  const files: PackagedFile[] = [];
  const { track, text } = job;
  try {
    for (const part of job.parts ?? USUAL) {
      if (part === 'package') continue;
      const before = new Set(await filesUnder(folder));
      if (isText(part)) await writeWhole(join(folder, part, `track.${ENDINGS[part]}`), await textOf(job, part));
      else if (part === 'stabilised' || part === 'flat')
        yield* plateOf({ ...job, out: join(folder, part, `${part}.mp4`) }, part);
      else yield* mapsOf(job, part, join(folder, part, 'map.%04d.exr'));
      files.push(
        ...(await filesUnder(folder)).filter((f) => !before.has(f)).map((path) => ({ path, what: WHAT[part] })),
      );
    }
    await writePackage(
      track,
      folder,
      files,
      describe(text.conventions ?? ownConventions(track.plate.width, track.plate.height)),
      job.out,
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Yields frames as they are written, for formats that have them. @throws InputError, CoreError, MediaError */
export async function* deliverData(job: DataJob): AsyncGenerator<number> {
  assertDataOutput(job.as, job.out);
  if (job.as === 'package') yield* packageOf(job);
  else if (isText(job.as)) await writeWhole(job.out, await textOf(job, job.as));
  else if (job.as === 'stabilised' || job.as === 'flat') yield* plateOf(job, job.as);
  else yield* mapsOf(job, job.as, job.out);
}

async function* plateOf({ track, plate, out }: DataJob, show: 'stabilised' | 'flat'): AsyncGenerator<number> {
  const [screen, other] = track.screens;
  if (!plate) throw new InputError(`${show} shows the plate's own pictures; give it with --plate.`);
  if (!screen || other) throw new InputError(`${show} goes by one Screen; choose it with --screen.`);
  yield* deliverFlat({ ...plate, plate: plate.source, screen, show, out, from: 0, count: plate.probe.frameCount });
}
