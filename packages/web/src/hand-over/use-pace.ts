/**
 * How fast the deliveries that run go: measured when their jobs tell of progress, never while the page is drawn (a
 * drawing that changes what it reads would be drawn again without end).
 */
import { onScopeDispose, reactive } from 'vue';
import { useLive } from '../stores/live';
import type { Job } from '../types';

/** Frames: fewer say too little of how fast a run goes, since the first ones wait for its set-up. By trial. */
const TELLING = 3;
/** Frames after which a run tells how fast such deliveries are. By trial. */
const LEARNED = 12;

interface Run {
  /** Ms since the epoch when it was first seen to run. */
  readonly at: number;
  /** Frames that it had then. */
  readonly done: number;
  frames: number;
  /** Seconds a frame; null while too few are done. */
  pace: number | null;
}

/**
 * @param ended told of each run that was seen long enough when it stops running: its job's id and seconds a frame
 */
export function usePace(ended: (job: number, pace: number) => void) {
  const live = useLive();
  const runs = reactive(new Map<number, Run>());
  function told(job: Pick<Job, 'id' | 'state' | 'framesDone'>): void {
    const run = runs.get(job.id);
    if (job.state !== 'running') {
      runs.delete(job.id);
      if (run?.pace && run.frames >= LEARNED) ended(job.id, run.pace);
      return;
    }
    if (!run) {
      runs.set(job.id, { at: Date.now(), done: job.framesDone, frames: 0, pace: null });
      return;
    }
    run.frames = job.framesDone - run.done;
    if (run.frames >= TELLING) run.pace = (Date.now() - run.at) / run.frames / 1000;
  }
  onScopeDispose(live.on('job', (j) => told({ ...live.jobs.get(j.id), ...j })));
  /** Seconds a frame of a job that runs; null where that is not known yet. */
  const paceOf = (job: number): number | null => runs.get(job)?.pace ?? null;
  return { paceOf };
}
