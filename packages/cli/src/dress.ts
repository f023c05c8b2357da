import { openSource } from '@yarlop/media/source';
import { assertOutput } from '@yarlop/media/encode';
import { dress } from '@yarlop/pipeline/dress';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';
import { FillReader } from '@yarlop/pipeline/read-fill';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson, readTrack } from '@yarlop/pipeline/track-file';
import { interruption } from './interruption';
import { matchFills, screenOf, uniqueNames } from './screens';

export interface DressOptions {
  track: string;
  screen: string[];
  fill: string[];
  out: string;
  element?: boolean;
}

export async function dressCommand(path: string, options: DressOptions): Promise<number> {
  assertOutput(options.out, options.element ?? false);
  const screens = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f)));
  const names = screens.map((s) => s.name), track = await readTrack(options.track);
  uniqueNames(names);
  const fills = matchFills(options.fill, names);
  const tracks = names.map((name) => screenOf(track, name));
  const plate = await openPlate(path), opened: Awaited<ReturnType<typeof openSource>>[] = [];
  try {
    const { probe } = plate, { width, height } = track.plate;
    if (probe.width !== width || probe.height !== height)
      throw new InputError(`the track was made on a plate of ${width}x${height}, but ${probe.name} is ${probe.width}x${probe.height}; use the same plate.`);
    const layers = [];
    for (const t of tracks) {
      const source = await openSource(fills.get(t.name)!);
      opened.push(source);
      layers.push({ screen: screens[layers.length]!, places: new Map(t.frames.map((f) => [f.frame, f])), fill: await FillReader.open(source), shutter: null, lens: t.lens ?? 0 });
    }
    const job = dress({ plate: plate.source, probe, seekable: false, layers, out: options.out, show: options.element ? 'element' : 'dressed', from: 0, count: probe.frameCount });
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
