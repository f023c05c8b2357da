import { FOCAL_LIMITS } from '@yarlop/core/geometry/pose';
import type { Conventions } from '@yarlop/core/formats/conventions';
import type { Track } from '@yarlop/core/track';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { DataFormat, DataJob } from '@yarlop/pipeline/deliver-job';
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

/** What a delivery is made from. */
interface Made {
  readonly as: DataFormat;
  readonly parts: DataFormat[] | undefined;
  readonly track: Track;
  /** recipes by their Screens' names */
  readonly screens: ReadonlyMap<string, ScreenFile>;
  readonly plate: OpenPlate | null;
}

/** @throws InputError for a format that this version does not have */
function formatNamed(name: string): DataFormat {
  const known = DATA_FORMATS.find((f) => f === name);
  if (known === undefined)
    throw new InputError(`the format "${name}" is not known; use one of ${DATA_FORMATS.join(', ')}.`);
  return known;
}

/** @throws InputError for a lens that there is not */
function assertFocal(focal: number | undefined): void {
  const [least, most] = FOCAL_LIMITS;
  if (focal !== undefined && !(focal >= least && focal <= most))
    throw new InputError(`--focal is ${focal} picture widths; lenses lie between ${least} and ${most}.`);
}

/** The recipes that are named, by their Screens' names. @throws InputError for one that cannot be read */
async function recipesOf(files: readonly string[]): Promise<Map<string, ScreenFile>> {
  const all = await Promise.all(files.map(async (f) => parseScreen(await readJson(f), f)));
  return new Map(all.map((s) => [s.name, s]));
}

/** The track of those Screens, all where none is named, numbered as asked for. @throws InputError for one that is missing */
function trackOf(track: Track, screens: ReadonlyMap<string, unknown>, firstFrame: number | undefined): Track {
  for (const name of screens.keys()) screenOf(track, name);
  const chosen = screens.size === 0 ? track.screens : track.screens.filter((s) => screens.has(s.name));
  const plate = firstFrame === undefined ? track.plate : { ...track.plate, firstFrame };
  return { ...track, plate, screens: chosen };
}

/** @throws InputError for a plate of another size than the track's */
function assertSize({ plate: { width, height } }: Track, { probe }: OpenPlate): void {
  if (probe.width !== width || probe.height !== height)
    throw new InputError(
      `the track was made on a plate of ${width}x${height}, but ${probe.name} is ${probe.width}x${probe.height}; use the same plate or leave --plate out.`,
    );
}

type Address = Awaited<ReturnType<typeof dataAddress>>;

/** What each Screen's fill is as an address that a page can hold. */
async function fillsOf(names: readonly string[], given: readonly string[]): Promise<Map<string, Address>> {
  const files = [...matchFills(given, names, names)];
  return new Map(await Promise.all(files.map(async ([name, file]) => [name, await dataAddress(file)] as const)));
}

/** Fields of `o` that hold something. */
function told<T extends object>(o: T): { [K in keyof T]?: Exclude<T[K], undefined> } {
  const fields = Object.entries(o).filter(([, v]) => v !== undefined);
  return Object.fromEntries(fields) as { [K in keyof T]?: Exclude<T[K], undefined> };
}

/** What is delivered, by what was asked for and what it is made from. */
async function jobOf(options: DeliverOptions, made: Made): Promise<DataJob> {
  const { origin, units, pixelOrigin } = options;
  const { as, track, screens, plate } = made;
  const names = track.screens.map((s) => s.name);
  const ofEach = <T>(value: T | undefined): Map<string, T> | undefined =>
    value === undefined ? undefined : new Map(names.map((n) => [n, value]));
  const content = ofEach(options.content && { width: options.content[0], height: options.content[1] });
  const order = { ...told({ at: options.at, content }), isDressed: options.dressed ?? false, recipes: screens };
  const size = options.size ?? ([track.plate.width, track.plate.height] as const);
  return {
    track: asDelivered(track, order),
    as,
    out: options.out,
    plate: plate && { source: plate.source, probe: plate.probe, seekable: false },
    ...told({ parts: made.parts }),
    plateBehind: options.plateBehind ?? false,
    text: {
      conventions: saying({ origin, units, pixelOrigin, size: [...size] }, track, order),
      invert: options.invert ?? false,
      ...told({ points: options.points, content }),
      screens,
      page: { plate: null, fills: await fillsOf(names, options.fill ?? []) },
      scene: told({ focal: options.focal, heights: ofEach(options.deviceHeight) }),
    },
    maps: { ...told({ overscan: options.overscan, crop: options.crop }), fullFloat: !options.half },
  };
}

export async function deliver(options: DeliverOptions): Promise<number> {
  const as = formatNamed(options.as);
  const parts = options.parts?.split(',').map((p) => formatNamed(p.trim()));
  assertFocal(options.focal);
  const screens = await recipesOf(options.screen ?? []);
  const track = trackOf(await readTrack(options.track), screens, options.firstFrame);
  if (options.dressed && screens.size === 0)
    throw new InputError('--dressed needs the recipe that tells the dress; give it with --screen.');
  const plate = options.plate === undefined ? null : await openPlate(options.plate);
  try {
    if (plate) assertSize(track, plate);
    for await (const frame of deliverData(await jobOf(options, { as, parts, track, screens, plate }))) {
      void frame;
      if (interruption.requested) return 130;
    }
    return 0;
  } finally {
    await plate?.close();
  }
}
