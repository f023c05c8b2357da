/** How deliveries stand: by their jobs while those run, else as they were told. */
import { useLive } from '../stores/live';
import type { Delivery, Job } from '../types';

export function useProgress() {
  const live = useLive();
  const jobOf = (d: Delivery): Partial<Job> | undefined => (d.jobId === null ? undefined : live.jobs.get(d.jobId));
  const stateOf = (d: Delivery): string => jobOf(d)?.state ?? d.state ?? 'waiting';
  /** Frames; at least one in all. */
  function progress(d: Delivery): { readonly done: number; readonly total: number } {
    const job = jobOf(d);
    return {
      done: job?.framesDone ?? d.framesDone ?? 0,
      total: Math.max(1, job?.framesTotal ?? d.framesTotal ?? 0),
    };
  }
  return { stateOf, progress };
}
