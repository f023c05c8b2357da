import type { Conventions } from '@yarlop/core/formats/conventions';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import type { TextFormat } from '@yarlop/pipeline/track-file';
import { TEXT_FORMATS, readJson, readTrack, writeTrack } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { screenOf } from './screens';

export interface DeliverOptions {
  track: string;
  as: string;
  out: string;
  plate?: string;
  screen?: string[];
  origin: Conventions['origin'];
  units: Conventions['units'];
  pixelOrigin: Conventions['pixelOrigin'];
  firstFrame?: number;
  size?: [number, number];
}

/** @throws InputError for a format that this version does not have */
export function assertFormat(format: string): asserts format is TextFormat {
  if (!(TEXT_FORMATS as readonly string[]).includes(format))
    throw new InputError(`the format "${format}" is not there yet; use ${TEXT_FORMATS.join(' or ')}.`);
}

export async function deliver(options: DeliverOptions): Promise<void> {
  assertFormat(options.as);
  let track = await readTrack(options.track);
  if (options.screen) {
    const names = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f).name));
    for (const name of names) screenOf(track, name);
    track = { ...track, screens: track.screens.filter((s) => names.includes(s.name)) };
  }
  if (options.plate) {
    const plate = await openPlate(options.plate);
    await plate.close();
    if (plate.probe.width !== track.plate.width || plate.probe.height !== track.plate.height)
      throw new InputError(`the track was made on a plate of ${track.plate.width}x${track.plate.height}, but ${plate.probe.name} is ${plate.probe.width}x${plate.probe.height}; use the same plate or leave --plate out.`);
  }
  if (options.firstFrame !== undefined) track = { ...track, plate: { ...track.plate, firstFrame: options.firstFrame } };
  const { origin, units, pixelOrigin } = options, size = options.size ?? [track.plate.width, track.plate.height];
  await writeWhole(options.out, writeTrack(track, options.as, { origin, units, pixelOrigin, size }));
}
