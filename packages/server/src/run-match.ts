/** Measures a plate for what its dress should be. */
import { join } from 'node:path';
import { MEZZANINE, mezzanineProbe } from '@yarlop/media/ingest';
import { openSource } from '@yarlop/media/source';
import { measureDress } from '@yarlop/pipeline/dress';
import type { Line, MatchTask, Outcome } from './worker-protocol';

export async function runMatch(task: MatchTask, line: Line): Promise<Outcome> {
  const plate = await openSource(join(task.folder, MEZZANINE));
  const probe = mezzanineProbe(task.media.probe);
  try {
    const job = measureDress({
      plate,
      probe,
      seekable: true,
      screen: task.recipe,
      places: new Map(task.places.map((p) => [p.frame, p])),
      shutter: task.shutter,
      lens: task.lens,
      from: task.from,
      count: task.to - task.from + 1,
    });
    for (let n = 1; ; n++) {
      const { done, value } = await job.next();
      if (done) return { kind: 'match', proposals: value };
      line.say({ type: 'progress', done: n });
      if (line.cancelled()) {
        await job.return([]);
        return { kind: 'cancelled' };
      }
    }
  } finally {
    await plate.dispose();
  }
}
