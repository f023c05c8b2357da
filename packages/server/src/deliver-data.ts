/** Track data of a delivery, and the shot itself for another installation. */
import { formatOf } from '@yarlop/contracts/formats';
import { describe } from '@yarlop/core/formats/conventions';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import { openSource } from '@yarlop/media/source';
import type { DataFormat } from '@yarlop/pipeline/deliver-job';
import { deliverData } from '@yarlop/pipeline/deliver-job';
import type { PackagedFile } from '@yarlop/pipeline/package';
import { writePackage } from '@yarlop/pipeline/package';
import { writeText } from '@yarlop/pipeline/text-writers';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { copyFile, link, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { PARTS } from './deliver-pictures';
import { withSources } from '@yarlop/pipeline/opened-sources';
import { TEMPLATE } from './template-name';
import type { DeliverTask, Line } from './worker-protocol';

/** @returns false when it was stopped */
export function writeData(task: DeliverTask, as: DataFormat, out: string, line: Line): Promise<boolean> {
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
 * The shot for another installation: its Screens with what was followed, the originals that they are made from, and the
 * track for whoever else reads it.
 */
export async function writeTemplate(
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
