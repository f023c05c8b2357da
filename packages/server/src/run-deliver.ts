/** The job of a delivery in its worker thread: pictures, track data or a package, as one file with its checksum. */
import { isOf } from '@yarlop/contracts/formats';
import { roughBytes } from '@yarlop/core/formats/rough-size';
import { fillTemplate } from '@yarlop/core/formats/table-template';
import { checksum } from '@yarlop/pipeline/checksum';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { writeData, writeTemplate } from './deliver-data';
import { PARTS, piecesIn, renderPictures } from './deliver-pictures';
import { freeBytes } from './free-bytes';
import type { DeliverTask, Line, Outcome } from './worker-protocol';

async function zip(folder: string, path: string): Promise<void> {
  const file = new yazl.ZipFile();
  for (const name of await piecesIn(folder))
    file.addFile(join(folder, name), name, { compress: false, mtime: new Date(Date.UTC(2000, 0, 1)) });
  file.end();
  await pipeline(file.outputStream, createWriteStream(`${path}.part`));
  await rename(`${path}.part`, path);
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
  const written = await piecesIn(folder);
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
