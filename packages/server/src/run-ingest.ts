/** Reads a plate in: what every later job works on. */
import { mkdir } from 'node:fs/promises';
import { ingest } from '@yarlop/media/ingest';
import { openOriginal } from './use-cases/library';
import type { IngestTask, Line, Outcome } from './worker-protocol';

export async function runIngest(task: IngestTask, line: Line): Promise<Outcome> {
  await mkdir(task.folder, { recursive: true });
  const source = await openOriginal(task.original, task.media);
  try {
    const { frameCount, damaged, notes } = await ingest(
      source,
      task.media.probe,
      task.folder,
      (done) => line.say({ type: 'progress', done }),
      line.cancelled,
    );
    return { kind: 'ingest', frameCount, damaged, notes: [...task.media.probe.notes, ...notes] };
  } finally {
    await source.dispose();
  }
}
