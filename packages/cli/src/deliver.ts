import { FOCAL_LIMITS } from '@yarlop/core/geometry/pose';
import type { Conventions } from '@yarlop/core/formats/conventions';
import type { ContentSize } from '@yarlop/core/formats/css';
import type { DataFormat } from '@yarlop/pipeline/deliver-job';
import { DATA_FORMATS, deliverData } from '@yarlop/pipeline/deliver-job';
import { dataAddress } from '@yarlop/pipeline/page-pictures';
import type { Moment } from '@yarlop/pipeline/delivered-corners';
import { asDelivered, saying } from '@yarlop/pipeline/delivered-corners';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import type { OpenPlate } from '@yarlop/pipeline/plate';
import { openPlate } from '@yarlop/pipeline/plate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson, readTrack } from '@yarlop/pipeline/track-file';
import { interruption } from './interruption';
import { matchFills, screenOf } from './screens';

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
  invert?: boolean;
  content?: [number, number];
  fill?: string[];
  focal?: number;
  deviceHeight?: number;
  overscan?: number;
  crop?: number;
  half?: boolean;
  parts?: string;
  plateBehind?: boolean;
  points?: [number, number][];
  dressed?: boolean;
  at?: Moment;
}

/** @throws InputError for a format that this version does not have */
function assertFormat(format: string): asserts format is DataFormat {
  if (!(DATA_FORMATS as readonly string[]).includes(format))
    throw new InputError(`the format "${format}" is not known; use one of ${DATA_FORMATS.join(', ')}.`);
}

export async function deliver(options: DeliverOptions): Promise<number> {
  const { as } = options;
  assertFormat(as);
  const parts = options.parts?.split(',').map((p) => p.trim());
  for (const p of parts ?? []) assertFormat(p);
  if (options.focal !== undefined && !(options.focal >= FOCAL_LIMITS[0] && options.focal <= FOCAL_LIMITS[1]))
    throw new InputError(
      `--focal is ${options.focal} picture widths; lenses lie between ${FOCAL_LIMITS.join(' and ')}.`,
    );
  let track = await readTrack(options.track);
  const screens = new Map(
    (await Promise.all((options.screen ?? []).map(async (f) => parseScreen(await readJson(f), f)))).map((s) => [
      s.name,
      s,
    ]),
  );
  if (screens.size > 0) {
    for (const name of screens.keys()) screenOf(track, name);
    track = { ...track, screens: track.screens.filter((s) => screens.has(s.name)) };
  }
  if (options.firstFrame !== undefined) track = { ...track, plate: { ...track.plate, firstFrame: options.firstFrame } };
  const { width, height } = track.plate;
  const names = track.screens.map((s) => s.name);
  const given = matchFills(options.fill ?? [], names, names);
  const content = options.content && ({ width: options.content[0], height: options.content[1] } satisfies ContentSize);
  let plate: OpenPlate | null = null;
  try {
    if (options.plate) {
      plate = await openPlate(options.plate);
      if (plate.probe.width !== width || plate.probe.height !== height)
        throw new InputError(
          `the track was made on a plate of ${width}x${height}, but ${plate.probe.name} is ${plate.probe.width}x${plate.probe.height}; use the same plate or leave --plate out.`,
        );
    }
    const { origin, units, pixelOrigin } = options;
    const fills = new Map(
      await Promise.all([...given].map(async ([name, file]) => [name, await dataAddress(file)] as const)),
    );
    const order = {
      ...(options.at ? { at: options.at } : {}),
      isDressed: options.dressed ?? false,
      recipes: screens,
      ...(content ? { content: new Map(names.map((n) => [n, content])) } : {}),
    };
    if (options.dressed && screens.size === 0)
      throw new InputError('--dressed needs the recipe that tells the dress; give it with --screen.');
    const job = deliverData({
      track: asDelivered(track, order),
      as,
      out: options.out,
      plate: plate && { source: plate.source, probe: plate.probe, seekable: false },
      ...(parts ? { parts: parts as DataFormat[] } : {}),
      plateBehind: options.plateBehind ?? false,
      text: {
        conventions: saying({ origin, units, pixelOrigin, size: options.size ?? [width, height] }, track, order),
        invert: options.invert ?? false,
        ...(options.points ? { points: options.points } : {}),
        screens,
        ...(content ? { content: new Map(names.map((n) => [n, content])) } : {}),
        page: { plate: null, fills },
        scene: {
          ...(options.focal === undefined ? {} : { focal: options.focal }),
          ...(options.deviceHeight === undefined
            ? {}
            : { heights: new Map(names.map((n) => [n, options.deviceHeight!])) }),
        },
      },
      maps: {
        ...(options.overscan === undefined ? {} : { overscan: options.overscan }),
        ...(options.crop === undefined ? {} : { crop: options.crop }),
        fullFloat: !options.half,
      },
    });
    for await (const frame of job) {
      void frame;
      if (interruption.requested) return 130;
    }
    return 0;
  } finally {
    await plate?.close();
  }
}
