import { assertOneSize } from '@yarlop/media/one-size';
import { openSource } from '@yarlop/media/source';
import { assertOutput } from '@yarlop/media/encode';
import { dress } from '@yarlop/pipeline/dress';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';
import { readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { parseCube } from '@yarlop/core/dress/cube-table';
import type { CubeTable } from '@yarlop/core/dress/cube-table';
import type { Show } from '@yarlop/core/dress/render';
import type { ScreenLayer } from '@yarlop/pipeline/dress';
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

export async function dressCommand(path: string, options: DressOptions): Promise<number> {
  const show = options.show ?? (options.element ? 'element' : 'dressed');
  assertOutput(options.out, show === 'element' || show === 'pass-element');
  const screens = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f)));
  const names = screens.map((s) => s.name);
  const track = await readTrack(options.track);
  uniqueNames(names);
  const made = screens.filter((s) => s.fill?.made).map((s) => s.name);
  const fills = matchFills(options.fill ?? [], names, made);
  const before = matchFills(options.foreground ?? [], names, names);
  const tables = matchFills(options.fillTable ?? [], names, names);
  const tracks = names.map((name) => screenOf(track, name));
  const plate = await openPlate(path);
  const opened: Awaited<ReturnType<typeof openSource>>[] = [];
  const open = async (file: string | undefined) => {
    if (file === undefined) return null;
    const source = await openSource(file);
    opened.push(source);
    await assertOneSize(source);
    return placeOf(source);
  };
  try {
    const set = plate.probe.colour;
    const probe = {
      ...plate.probe,
      colour: {
        ...set,
        transfer: options.plateTransfer ?? set.transfer,
        primaries: options.platePrimaries ?? set.primaries,
      },
    };
    assertPlateOf(track, probe);
    const from = options.from ?? 0;
    const to = options.to ?? probe.frameCount - 1;
    if (from < 0 || from > to || to >= probe.frameCount)
      throw new InputError(`the range ${from} to ${to} must rise and lie within frames 0 to ${probe.frameCount - 1}.`);
    const layers: ScreenLayer[] = [];
    for (const [i, t] of tracks.entries()) {
      const table = tables.get(t.name);
      layers.push({
        screen: screens[i]!,
        places: new Map(t.frames.map((f) => [f.frame, f])),
        fill: {
          media: await open(fills.get(t.name)),
          foreground: await open(before.get(t.name)),
          table: table === undefined ? null : await readTable(table),
        },
        shutter: null,
        lens: t.lens ?? 0,
      });
    }
    const job = dress({
      plate: plate.source,
      probe,
      seekable: false,
      layers,
      out: options.out,
      show,
      premultiplied: options.premultiplied ?? false,
      ...(options.fullFloat ? { fullFloat: true } : {}),
      from,
      count: to - from + 1,
      ...(options.loop === undefined ? {} : { loop: { from, to, dissolve: options.loop } }),
      threads: { program: new URL('./render-thread.mjs', import.meta.url), count: Math.min(4, availableParallelism()) },
    });
    for await (const frame of job) {
      void frame;
      if (interruption.requested) return 130;
    }
    return 0;
  } finally {
    for (const s of opened) await s.dispose();
    await plate.close();
  }
}
