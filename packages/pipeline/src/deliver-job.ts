/** One delivery of track data of whatever format, to a file, a pattern or a package. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { IdOf } from '@yarlop/contracts/formats';
import { can, formatOf, idsOf, isOf } from '@yarlop/contracts/formats';
import { describe, ownConventions } from '@yarlop/core/formats/conventions';
import type { Track } from '@yarlop/core/track';
import { assertOutput, isSequencePattern } from '@yarlop/media/encode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { backdropsOf, pagePlate, thumbnails } from './page-pictures';
import type { TextFormat, TextOptions } from './text-writers';
import { writeText } from './text-writers';
import type { MapOptions } from './deliver-maps';
import { patternFor, whiteFill, writeCoverage, writeLensMap, writeMaps } from './deliver-maps';
import { deliverFlat } from './deliver-flat';
import { dress } from './dress';
import { filesUnder, writePackage } from './package';
import type { PackagedFile } from './package';
import { InputError } from './pipeline-error';
import { writeWhole } from './write-whole';

/** What track data is delivered as. */
export type DataFormat = IdOf<'text' | 'maps' | 'plate'> | 'package';
export const DATA_FORMATS: readonly DataFormat[] = [...idsOf('text'), ...idsOf('maps'), ...idsOf('plate'), 'package'];

export interface DataJob {
  readonly track: Track;
  readonly as: DataFormat;
  /** file, or pattern for a picture a frame */
  readonly out: string;
  readonly text: TextOptions;
  readonly maps: Omit<MapOptions, 'size' | 'inverse'>;
  /** the plate, for what needs its pictures; null where there is none */
  readonly plate: { readonly source: Source; readonly probe: Probe; readonly seekable: boolean } | null;
  /** what a package holds; all that is possible when left out */
  readonly parts?: readonly DataFormat[];
  /** a glTF scene gets pictures of the plate behind it */
  readonly plateBehind?: boolean;
}

/** Thumbnails of a report, spread over the shot. */
const THUMBNAILS = 6;

/** @throws InputError for a name that does not fit the format, before anything is written */
export function assertDataOutput(as: DataFormat, out: string): void {
  if (isOf(as, 'plate')) return assertOutput(out, false);
  if (!isOf(as, 'maps')) return;
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
  if (as === 'gltf' && plate && job.plateBehind)
    return writeText(track, as, { ...text, backdrop: await backdropsOf(plate.source, track.plate.frameCount) });
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

async function* mapsOf(job: DataJob, as: IdOf<'maps'>, out: string): AsyncGenerator<number> {
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

/** What a package holds when nothing was chosen. */
const USUAL: readonly DataFormat[] = DATA_FORMATS.filter((id) => can(id, 'usual'));

/** The part of a package that is one format, in a folder of its own. */
async function* partOf(job: DataJob, part: Exclude<DataFormat, 'package'>, folder: string): AsyncGenerator<number> {
  if (isOf(part, 'text')) await writeWhole(join(folder, `track.${formatOf(part).extension!}`), await textOf(job, part));
  else if (isOf(part, 'plate')) yield* plateOf({ ...job, out: join(folder, `${part}.mp4`) }, part);
  else yield* mapsOf(job, part, join(folder, 'map.%04d.exr'));
}

async function* packageOf(job: DataJob): AsyncGenerator<number> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-package-'));
  const files: PackagedFile[] = [];
  const { track, text } = job;
  try {
    for (const part of job.parts ?? USUAL) {
      if (part === 'package') continue;
      const before = new Set(await filesUnder(folder));
      yield* partOf(job, part, join(folder, part));
      files.push(
        ...(await filesUnder(folder))
          .filter((f) => !before.has(f))
          .map((path) => ({ path, what: formatOf(part).packaged! })),
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
  else if (isOf(job.as, 'text')) await writeWhole(job.out, await textOf(job, job.as));
  else if (isOf(job.as, 'plate')) yield* plateOf(job, job.as);
  else yield* mapsOf(job, job.as, job.out);
}

async function* plateOf({ track, plate, out }: DataJob, show: IdOf<'plate'>): AsyncGenerator<number> {
  const [screen, other] = track.screens;
  if (!plate) throw new InputError(`${show} shows the plate's own pictures; give it with --plate.`);
  if (!screen || other) throw new InputError(`${show} goes by one Screen; choose it with --screen.`);
  yield* deliverFlat({ ...plate, plate: plate.source, screen, show, out, from: 0, count: plate.probe.frameCount });
}
