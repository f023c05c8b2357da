import { assertOneSize } from '@yarlop/media/one-size';
import { openSource } from '@yarlop/media/source';
import { assertOutput } from '@yarlop/media/encode';
import { dress } from '@yarlop/pipeline/dress';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';
import { readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { parseCube } from '@yarlop/core/dress/colour/cube-table';
import type { CubeTable } from '@yarlop/core/dress/colour/cube-table';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { changesPlate } from '@yarlop/core/dress/layer/recipe';
import type { Show } from '@yarlop/core/dress/render';
import type { DressJob, ScreenLayer } from '@yarlop/pipeline/dress';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { ScreenTrack, Track } from '@yarlop/core/track';
import type { Probe } from '@yarlop/media/probe';
import type { SourcePlace } from '@yarlop/pipeline/fill';
import type { Open } from '@yarlop/pipeline/opened-sources';
import { withSources } from '@yarlop/pipeline/opened-sources';
import type { OpenPlate } from '@yarlop/pipeline/plate';
import { placeOf } from '@yarlop/pipeline/fill';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson, readTrack } from '@yarlop/pipeline/track-file';
import { interruption } from './interruption';
import { assertPlateOf, matchFills, screenOf, uniqueNames } from './screens';

export interface DressOptions {
  track: string;
  screen: string[];
  fill: string[];
  out: string;
  element?: boolean;
  show?: Show;
  from?: number;
  to?: number;
  loop?: number;
  premultiplied?: boolean;
  fullFloat?: boolean;
  foreground?: string[];
  picture?: string[];
  fillTable?: string[];
  plateTransfer?: string;
  platePrimaries?: string;
}

/** A colour table from its file. @throws InputError that names the file */
async function readTable(path: string): Promise<CubeTable> {
  try {
    return parseCube(await readFile(path, 'utf8'));
  } catch (e) {
    throw new InputError(
      `${path}: ${(e as NodeJS.ErrnoException).code === 'ENOENT' ? 'does not exist; check the path.' : (e as Error).message}`,
    );
  }
}

/** What shows on each Screen: files by their names. */
interface Shown {
  readonly fills: ReadonlyMap<string, string>;
  readonly foregrounds: ReadonlyMap<string, string>;
  /** by content hash, as layers of made-up fills name them */
  readonly pictures: ReadonlyMap<string, string>;
  readonly tables: ReadonlyMap<string, string>;
}

/** Files of the pictures that layers show, by hash. @throws InputError for a picture without a file, or a file without a picture */
function picturesOf(screens: readonly ScreenFile[], given: readonly string[]): Map<string, string> {
  const files = new Map<string, string>();
  for (const text of given) {
    const at = text.indexOf('=');
    if (at < 1) throw new InputError(`--picture ${text} must say HASH=FILE.`);
    files.set(text.slice(0, at), text.slice(at + 1));
  }
  for (const { name, fill } of screens)
    for (const layer of fill?.made?.layers ?? [])
      if (layer.kind === 'picture' && !layer.off && !files.has(layer.media))
        throw new InputError(`the content of "${name}" shows a picture; add --picture ${layer.media}=FILE.`);
  return files;
}

/** @throws InputError for a Screen without a fill, or a file without a Screen */
function shownOn(screens: readonly ScreenFile[], options: DressOptions): Shown {
  const names = screens.map((s) => s.name);
  const made = screens.filter((s) => s.fill?.made || changesPlate((s.dress ?? {}) as DressRecipe)).map((s) => s.name);
  return {
    fills: matchFills(options.fill ?? [], names, made),
    foregrounds: matchFills(options.foreground ?? [], names, names),
    pictures: picturesOf(screens, options.picture ?? []),
    tables: matchFills(options.fillTable ?? [], names, names),
  };
}

/** @throws MediaError for a file that is no picture or clip of one size */
async function placeIn(file: string | undefined, open: Open): Promise<SourcePlace | null> {
  if (file === undefined) return null;
  const source = await open(openSource(file));
  await assertOneSize(source);
  return placeOf(source);
}

async function layersOf(
  screens: readonly ScreenFile[],
  tracks: readonly ScreenTrack[],
  shown: Shown,
  open: Open,
): Promise<ScreenLayer[]> {
  const layers: ScreenLayer[] = [];
  for (const [i, t] of tracks.entries()) {
    const table = shown.tables.get(t.name);
    const fill = {
      media: await placeIn(shown.fills.get(t.name), open),
      foreground: await placeIn(shown.foregrounds.get(t.name), open),
      layers: await Promise.all(
        (screens[i]!.fill?.made?.layers ?? []).map((l) =>
          placeIn(l.kind === 'picture' ? shown.pictures.get(l.media) : undefined, open),
        ),
      ),
      table: table === undefined ? null : await readTable(table),
    };
    const places = new Map(t.frames.map((f) => [f.frame, f]));
    layers.push({ screen: screens[i]!, places, fill, shutter: null, lens: t.lens ?? 0 });
  }
  return layers;
}

/** What the plate is, with what the person says of its colours. */
function probeWith({ probe }: OpenPlate, { plateTransfer, platePrimaries }: DressOptions): Probe {
  const { transfer, primaries } = probe.colour;
  const colour = {
    ...probe.colour,
    transfer: plateTransfer ?? transfer,
    primaries: platePrimaries ?? primaries,
  };
  return { ...probe, colour };
}

/** @throws InputError for a range that the plate does not have */
function rangeOf(
  { from = 0, to, loop: dissolve }: DressOptions,
  frames: number,
): Pick<DressJob, 'from' | 'count' | 'loop'> {
  const last = to ?? frames - 1;
  if (from < 0 || from > last || last >= frames)
    throw new InputError(`the range ${from} to ${last} must rise and lie within frames 0 to ${frames - 1}.`);
  const range = { from, count: last - from + 1 };
  return dissolve === undefined ? range : { ...range, loop: { from, to: last, dissolve } };
}

/** What is dressed, and how. */
interface Order {
  readonly options: DressOptions;
  readonly show: Show;
  readonly shown: Shown;
  readonly track: Track;
  readonly screens: readonly ScreenFile[];
  /** of the Screens, in their order */
  readonly tracks: readonly ScreenTrack[];
}

export async function dressCommand(path: string, options: DressOptions): Promise<number> {
  const show = options.show ?? (options.element ? 'element' : 'dressed');
  assertOutput(options.out, show === 'element' || show === 'pass-element');
  const screens = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f)));
  const track = await readTrack(options.track);
  uniqueNames(screens.map((s) => s.name));
  const shown = shownOn(screens, options);
  const tracks = screens.map((s) => screenOf(track, s.name));
  const plate = await openPlate(path);
  try {
    return await withSources((open) => dressPlate(plate, { options, show, shown, track, screens, tracks }, open));
  } finally {
    await plate.close();
  }
}

/** @returns the program's exit status */
async function dressPlate(plate: OpenPlate, o: Order, open: Open): Promise<number> {
  const { options, show, shown, screens, tracks } = o;
  const probe = probeWith(plate, options);
  assertPlateOf(o.track, probe);
  const job = dress({
    plate: plate.source,
    ...rangeOf(options, probe.frameCount),
    probe,
    seekable: false,
    layers: await layersOf(screens, tracks, shown, open),
    out: options.out,
    show,
    premultiplied: options.premultiplied ?? false,
    ...(options.fullFloat ? { fullFloat: true } : {}),
    threads: { program: new URL('./render-thread.mjs', import.meta.url), count: Math.min(4, availableParallelism()) },
  });
  for await (const frame of job) {
    void frame;
    if (interruption.requested) return 130;
  }
  return 0;
}
